<script setup lang="ts">
import { sayCause, type CauseView, type WorkList } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { count, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import { useView } from '../shell/useView.ts'
import { leadOf } from './leads.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What of a cause is corrected elsewhere: each document with the way to it, to tick off; the next pull checks. */
const cause = defineModel<CauseView | null>({ required: true })
const emit = defineEmits<{ keep: [cause: CauseView] }>()
const { api, entity } = useMonth()
const route = useRoute()
const format = useFormat()
const {
  view: list,
  refused: notRead,
  reload,
} = useView<WorkList>(() => cause.value && `/tie-out/work?cause=${encodeURIComponent(cause.value.key)}`)
const { refused: notTicked, attempt } = useAttempt()
const refused = computed(() => notTicked.value ?? notRead.value)
const tick = (unit: string, { done }: { readonly done: boolean }): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/tie-out/ticks`, { unit, done })
    await reload()
  })
const lead = computed(() => cause.value && leadOf(cause.value.facts))
const open = computed(() => (list.value?.documents ?? []).filter((d) => d.ticked === null).length)
const amount = (text: string | null, silence: string): string =>
  text === null ? silence : format.value.amount(text)
</script>

<template>
  <v-dialog
    :model-value="cause !== null"
    max-width="900"
    aria-label="What to correct"
    @update:model-value="cause = null"
  >
    <div v-if="cause" class="dialog" data-work>
      <h2>{{ sayCause(cause.facts, format.longDay) }}</h2>
      <RefusedNote :refused="refused" />
      <p v-if="lead">
        <RouterLink class="do small" :to="{ name: lead.name, params: { ...route.params, ...lead.params } }">{{
          lead.words
        }}</RouterLink>
      </p>
      <p v-if="list" class="soft">
        {{ count(open, 'document') }} to correct where {{ open === 1 ? 'it stands' : 'they stand' }}. Tick
        what is done; the next pull looks whether it is.
        <template v-if="cause.keepable > 0 && cause.headline !== 'orphan'"
          >What cannot be changed there any more is credited in full and invoiced anew: the two give each
          other back, and the new one is proved by itself.</template
        >
        <template v-if="cause.keptWaiting > 0"
          >{{ cause.keptWaiting }} of them kept, and not reviewed yet.</template
        >
      </p>
      <div v-if="list" class="scroll" tabindex="0" role="region" aria-label="Documents to correct">
        <table class="sheet" aria-label="What to correct">
          <thead>
            <tr>
              <th scope="col">Done</th>
              <th scope="col">Document</th>
              <th scope="col">Agency</th>
              <th scope="col" class="n">Stated, {{ list.currency }}</th>
              <th scope="col" class="n">Expected</th>
              <th scope="col" class="n">Booked</th>
              <th scope="col">There</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="each in list.documents" :key="each.unit">
              <tr
                v-for="(line, at) in each.lines.length > 0 ? each.lines : [null]"
                :key="`${each.unit} ${at}`"
                :data-work-unit="at === 0 ? each.unit : undefined"
              >
                <td>
                  <input
                    v-if="at === 0"
                    type="checkbox"
                    :checked="each.ticked !== null"
                    :disabled="entity.role === 'viewer'"
                    :aria-label="`${each.number} is corrected`"
                    @change="tick(each.unit, { done: ($event.target as HTMLInputElement).checked })"
                  />
                </td>
                <td class="strong">{{ at === 0 ? each.number : '' }}</td>
                <td>{{ line ? (line.agency ?? 'no agency') : 'no tax' }}</td>
                <td class="n">{{ line ? amount(line.stated, 'not stated') : '' }}</td>
                <td class="n">{{ line ? amount(line.expected, '–') : '' }}</td>
                <td class="n">{{ line ? amount(line.booked, 'not booked') : '' }}</td>
                <td>
                  <template v-if="at === 0">
                    <a v-if="each.address" :href="each.address" target="_blank" rel="noreferrer"
                      >Open in {{ each.system }}</a
                    >
                    <span v-else>{{ each.system }}</span>
                    <StateMark v-if="each.ticked?.stillWrong" state="breaks" word="pulled since, as it was" />
                  </template>
                </td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>
      <div class="actions">
        <button
          v-if="cause.keepable > 0 && entity.role !== 'viewer'"
          type="button"
          class="do"
          data-keep-instead
          @click="emit('keep', cause)"
        >
          {{
            cause.headline === 'orphan'
              ? `Name ${cause.keepable} as what ${cause.keepable === 1 ? 'it is' : 'they are'}`
              : `Keep the difference of ${cause.keepable} instead`
          }}
        </button>
        <button type="button" class="do" @click="cause = null">Close</button>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.scroll {
  max-height: 46vh;
  overflow: auto;
}
</style>
