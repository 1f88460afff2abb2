<script setup lang="ts">
import { sayCause, type CauseView, type KeepPreview } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** The difference of a charge kept as it is, with a reason: the tax is remitted, or still owed, and nothing is credited or charged anew. */
const cause = defineModel<CauseView | null>({ required: true })
const { api, changed } = useMonth()
const format = useFormat()
const { refused, busy, attempt } = useAttempt()
const preview = ref<KeepPreview | null>(null)
const reason = ref('')
watch(cause, ask, { immediate: true })
function ask(asked: CauseView | null): void {
  preview.value = null
  reason.value = ''
  if (asked)
    void attempt(async () => {
      preview.value = await call<KeepPreview>(
        'GET',
        `${api.value}/tie-out/kept/preview?cause=${encodeURIComponent(asked.key)}`,
      )
    })
}
/** An entry that somebody made in the ledger, rather than a document charged otherwise. */
const byHand = computed(() => cause.value?.headline === 'orphan')
const keep = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/tie-out/kept`, {
      cause: cause.value?.key,
      reason: reason.value,
      revision: preview.value?.revision,
    })
    cause.value = null
    await changed()
  })
</script>

<template>
  <v-dialog :model-value="cause !== null" aria-label="Keep the difference" @update:model-value="cause = null">
    <form v-if="cause" class="dialog" data-keep @submit.prevent="keep">
      <h2>
        {{ byHand ? 'Name an entry made by hand' : 'Keep the difference'
        }}{{
          preview
            ? byHand
              ? `: ${count(preview.documents, 'entry', 'entries')}`
              : ` of ${count(preview.documents, 'document')}`
            : ''
        }}
      </h2>
      <p class="soft">{{ sayCause(cause.facts, format.longDay) }}</p>
      <RefusedNote :refused="refused" />
      <template v-if="preview">
        <p>
          {{
            byHand
              ? 'No document is behind it. It stays in the ledger as what it is named here.'
              : 'The ledger has what was charged, and so it stays.'
          }}
        </p>
        <p v-if="!isNil(preview.over)">
          <b
            >{{ format.amount(preview.over) }} {{ preview.currency }}
            {{ byHand ? 'more stands' : 'over-collected:' }}</b
          >
          {{ byHand ? 'on liability accounts than documents give.' : 'it is remitted all the same.' }}
        </p>
        <p v-if="!isNil(preview.under)">
          <b
            >{{ format.amount(preview.under) }} {{ preview.currency }}
            {{ byHand ? 'less stands' : 'under-collected:' }}</b
          >
          {{ byHand ? 'there than documents give.' : 'it is still owed.' }}
        </p>
        <label class="field"
          >{{
            byHand
              ? 'What it is: a payment to the agency, an adjustment'
              : 'Why nothing is credited or charged anew'
          }}
          <textarea v-model="reason" rows="3" maxlength="500" required autofocus></textarea>
        </label>
        <p class="soft">
          It counts as not proved until a reviewer agrees. After that it stands apart, in sight. Another
          amount at its source or in the ledger ends it.
        </p>
      </template>
      <div class="actions">
        <button
          type="submit"
          class="do first"
          :disabled="busy || !preview || preview.documents === 0 || reason.trim() === ''"
        >
          {{ byHand ? 'Name it, for review' : 'Keep it, for review' }}
        </button>
        <button type="button" class="do" @click="cause = null">Leave it as it is</button>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.field {
  display: grid;
  gap: 4px;
  margin: 10px 0;
  font-size: 14.5px;
}
textarea {
  font: inherit;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 4px 8px;
  resize: vertical;
}
</style>
