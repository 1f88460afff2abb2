<script setup lang="ts">
import type { PostingPreview } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** The last look before documents leave for the ledger: whose books, how much, on which accounts, and what was remarked. */
const props = defineProps<{ body: object | null }>()
defineEmits<{ cancel: []; post: [how: { onlyRight: boolean; revision: string }] }>()
const { api, month } = useMonth()
const format = useFormat()
const { refused, attempt } = useAttempt()
const preview = ref<PostingPreview | null>(null)
watch(
  () => props.body,
  (body) => {
    preview.value = null
    if (body)
      void attempt(async () => {
        const read = await call<PostingPreview>('POST', `${api.value}/post/runs/preview`, body)
        if (props.body === body) preview.value = read
      })
  },
)
const right = computed(() => (preview.value?.documents ?? 0) - (preview.value?.foretold.documents ?? 0))
const documents = computed(() => count(preview.value?.documents ?? 0, 'document'))
</script>

<template>
  <v-dialog
    :model-value="body !== null"
    max-width="680"
    aria-label="Post documents"
    @update:model-value="$emit('cancel')"
  >
    <div class="dialog">
      <h2>{{ preview ? `Post ${documents}` : 'Post documents' }}</h2>
      <RefusedNote v-if="refused" :refused="refused" />
      <p v-else-if="!preview" class="soft">Reading</p>
      <template v-else>
        <p>
          <b>{{ format.amount(preview.tax) }} {{ preview.currency }}</b> of tax in
          <b>{{ format.amount(preview.total) }}</b> go to {{ preview.ledger }}, {{ preview.company }}, into
          {{ format.month(month) }}.
        </p>
        <div
          v-if="preview.accounts.length > 0"
          class="accounts"
          tabindex="0"
          role="region"
          aria-label="Accounts"
        >
          <table class="sheet" aria-label="What moves, by account">
            <thead>
              <tr>
                <th scope="col">Account</th>
                <th scope="col" class="n">Debit</th>
                <th scope="col" class="n">Credit</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in preview.accounts" :key="row.account">
                <td>{{ row.account }}</td>
                <td class="n">{{ isNil(row.debit) ? '–' : format.amount(row.debit) }}</td>
                <td class="n">{{ isNil(row.credit) ? '–' : format.amount(row.credit) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="preview.blocked.documents > 0" class="breaks" data-blocked>
          {{ count(preview.blocked.documents, 'other document') }} of the choice, with
          {{ format.amount(preview.blocked.tax) }} of tax, cannot be sent and
          {{ preview.blocked.documents === 1 ? 'stays' : 'stay' }} here with the reason.
        </p>
        <p v-if="preview.voidedThere > 0" class="breaks" data-voided-there>
          {{ count(preview.voidedThere, 'document') }} of them
          {{ preview.voidedThere === 1 ? 'was' : 'were' }} voided in the ledger by somebody, and would be
          booked anew.
        </p>
        <p v-if="preview.remarked.documents > 0" class="breaks" data-remarked>
          {{ count(preview.remarked.documents, 'document') }}, with
          {{ format.amount(preview.remarked.tax) }} of tax,
          {{ preview.remarked.documents === 1 ? 'has' : 'have' }} a remark.
        </p>
        <div v-if="preview.foretold.documents > 0" class="foretold" data-foretold>
          <p class="breaks">
            {{ preview.ledger }} will make something else of
            {{ count(preview.foretold.documents, 'document') }} with {{ format.amount(preview.foretold.tax) }}
            {{ preview.currency }} of tax, as far as what it holds tells:
          </p>
          <table class="sheet" aria-label="What the ledger will do otherwise">
            <tbody>
              <tr
                v-for="cause in preview.foretold.causes"
                :key="cause.says"
                :data-foretold-cause="cause.code"
              >
                <td class="says">
                  {{ cause.says }} <span class="soft">{{ cause.mend }}</span>
                </td>
                <td class="n soft">{{ count(cause.documents, 'document') }}</td>
                <td class="n">{{ format.amount(cause.tax) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="soft">
          This is what is agreed now; if anything of it changes before they leave, nothing is sent. What the
          ledger refuses stays here with its reason; nothing is sent twice.
        </p>
      </template>
      <div class="actions">
        <button
          v-if="preview && preview.foretold.documents > 0 && right > 0"
          type="button"
          class="do first"
          data-only-right
          @click="$emit('post', { onlyRight: true, revision: preview.revision })"
        >
          Post only the {{ right }} that will be right
        </button>
        <button
          type="button"
          class="do"
          :class="{ first: !preview || preview.foretold.documents === 0 }"
          autofocus
          data-confirm
          :disabled="!preview || preview.documents === 0"
          @click="preview && $emit('post', { onlyRight: false, revision: preview.revision })"
        >
          {{
            preview && preview.foretold.documents > 0
              ? `Post ${preview.documents === 1 ? 'it' : `all ${documents}`} all the same`
              : `Post ${preview ? documents : ''}`
          }}
        </button>
        <button type="button" class="do" @click="$emit('cancel')">Not now</button>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.foretold {
  margin: 8px 0;
  max-height: 28vh;
  overflow: auto;
}
.says {
  white-space: normal;
  max-width: none;
}
.accounts {
  margin: 8px 0;
  max-height: 24vh;
  overflow: auto;
}
</style>
