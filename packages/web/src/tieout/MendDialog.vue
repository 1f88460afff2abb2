<script setup lang="ts">
import type { Remedy, RemedyPreview, TriedRemedy } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import AccountsMoved from '../figures/AccountsMoved.vue'
import { count, useFormat } from '../figures/format.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import { withSpaces } from '../align/words.ts'
import { CHOICE, mendWords, type Mending } from './mendWords.ts'

/** Before anything leaves for another system: exactly what will be sent, and what follows from it. */
const mending = defineModel<Mending | null>({ required: true })
const remedy = ref<Remedy | null>(null)
const { api } = useMonth()
const runs = useRuns()
const format = useFormat()
const preview = ref<RemedyPreview | null>(null)
const refused = ref<Refused | null>(null)

const choices = ref<readonly TriedRemedy[]>([])
watch(mending, async (asked) => {
  remedy.value = null
  refused.value = null
  choices.value = []
  if (!asked) return
  try {
    const tried =
      asked.cause === undefined
        ? asked.remedies.map((one) => ({ remedy: one, leaves: 0, why: null }))
        : await call<readonly TriedRemedy[]>(
            'GET',
            `${api.value}/mend/tried?cause=${encodeURIComponent(asked.cause)}`,
          )
    if (mending.value !== asked) return
    choices.value = tried
    if (!asked.asks) remedy.value = tried[0]?.remedy ?? null
  } catch (error) {
    if (mending.value === asked) refused.value = asRefused(error)
  }
})
watch(remedy, async (asked) => {
  preview.value = null
  refused.value = null
  if (!asked) return
  try {
    const read = await call<RemedyPreview>('POST', `${api.value}/mend/preview`, { remedy: asked })
    if (remedy.value === asked) preview.value = read
  } catch (error) {
    if (remedy.value === asked) refused.value = asRefused(error)
  }
})
/** Of the only remedy there is. */
const only = computed(() => (choices.value.length === 1 ? choices.value[0] : null))
const words = computed(() => preview.value && mendWords(preview.value, format.value.amount))
/** An account may be given another name than the one that is proposed; then that is what is previewed. */
const proposed = computed(() => preview.value?.changes.find((change) => change.field === 'Name')?.to ?? '')
function rename(name: string): void {
  if (remedy.value?.kind === 'create' && name.trim() !== '')
    remedy.value = { ...remedy.value, name: name.trim() }
}
async function send(): Promise<void> {
  if (!preview.value) return
  const { remedy: what, revision } = preview.value
  mending.value = null
  await runs.start('/mend', { remedy: what, revision })
}
</script>

<template>
  <v-dialog :model-value="mending !== null" aria-label="Mend" @update:model-value="mending = null">
    <div class="dialog" data-mend>
      <fieldset v-if="mending && choices.length > 1" class="choices">
        <legend>
          {{ mending.asks ? 'More than one explanation fits equally. Which remedy is right?' : 'What to do' }}
        </legend>
        <label v-for="{ remedy: choice, leaves, why } in choices" :key="JSON.stringify(choice)"
          ><input
            type="radio"
            name="remedy"
            :value="JSON.stringify(choice)"
            :checked="choice === remedy"
            @change="remedy = choice"
          />
          {{ CHOICE[choice.kind] }}
          <span v-if="leaves > 0" class="breaks leaves" :data-leaves="choice.kind"
            >leaves {{ count(leaves, 'document') }} as wrong as before{{ why ? `. ${why}` : '' }}</span
          ></label
        >
      </fieldset>
      <template v-if="preview">
        <h2>{{ words?.title }}</h2>
        <template v-if="preview.changes.length > 0">
          <p>
            “{{ preview.object }}” is
            {{ preview.remedy.kind === 'create' || preview.remedy.kind === 'take-in' ? 'made' : 'changed' }}
            {{ ['adopt', 'take-in', 'post-to'].includes(preview.remedy.kind) ? 'in the baseline' : 'there' }}:
          </p>
          <table class="sheet">
            <thead>
              <tr>
                <th scope="col">Field</th>
                <th scope="col">It holds</th>
                <th scope="col">It gets</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="change in preview.changes" :key="change.field">
                <td>{{ change.field }}</td>
                <td class="breaks">{{ withSpaces(change.from) || 'nothing' }}</td>
                <td class="strong">{{ withSpaces(change.to) }}</td>
              </tr>
            </tbody>
          </table>
        </template>
        <p v-else>{{ words?.what }}</p>
        <p v-if="only && only.leaves > 0" class="note bad">
          It leaves {{ count(only.leaves, 'document') }} as wrong as before, unless it is mended there first.
          {{ only.why }}
        </p>
        <p v-if="preview.remedy.kind === 'create' && preview.remedy.align === 'accounts'" class="after">
          <label
            >Under the name
            <input
              :value="proposed"
              maxlength="200"
              @change="rename(($event.target as HTMLInputElement).value)"
          /></label>
        </p>
        <AccountsMoved
          v-if="preview.journal.length > 0"
          :lines="preview.journal"
          :currency="preview.currency"
        />
        <p class="after">
          {{ words?.after
          }}<template v-if="preview.numbers.length > 0">
            {{ preview.numbers.join(', ')
            }}<template v-if="preview.documents > preview.numbers.length">
              and {{ preview.documents - preview.numbers.length }} more</template
            >.</template
          >
        </p>
        <div class="actions">
          <button type="button" class="do first" autofocus @click="send">{{ words?.act }}</button>
          <button type="button" class="do" @click="mending = null">Leave it as it is</button>
        </div>
      </template>
      <template v-else-if="refused">
        <h2>It cannot be sent</h2>
        <p>{{ refused.says }} {{ refused.mend }}</p>
        <div class="actions"><button type="button" class="do" @click="mending = null">Close</button></div>
      </template>
      <p v-else-if="remedy || (mending && choices.length === 0 && mending.cause !== undefined)" class="soft">
        Working out what would be sent
      </p>
      <div v-else class="actions">
        <button type="button" class="do" @click="mending = null">Leave it as it is</button>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.sheet {
  margin: 10px 0;
}
.choices {
  border: 0;
  padding: 0 0 10px;
  margin: 0 0 10px;
  border-bottom: 1px solid var(--rule);
  display: grid;
  gap: 4px;
  font-size: 14.5px;
}
.leaves {
  display: block;
  margin-left: 22px;
  font-size: 13.5px;
}
.choices legend {
  color: var(--soft);
  padding: 0 0 4px;
}
.after {
  font-size: 14.5px;
}
.after input {
  font: inherit;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
  width: 320px;
  margin-left: 6px;
}
</style>
