<script setup lang="ts">
import type { AccountChoices, Remedy } from '@axion/contract'
import type { PostingKind } from '@axion/core'
import { computed, ref } from 'vue'
import { useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useView } from '../shell/useView.ts'

/** The ledger's accounts that a posting rule may go to: those of the right type alone, and that are kept for nothing else. */
const props = defineProps<{ ruleId: string; account: string }>()
const emit = defineEmits<{ mend: [remedies: readonly Remedy[]] }>()
const { api, changed, entity } = useMonth()
const format = useFormat()
const { view, refused: notRead } = useView<AccountChoices>(
  () => `/align/accounts/choices?rule=${encodeURIComponent(props.ruleId)}`,
)
const NEW = '+'
const chosen = ref('')
/** The number of an account that is to be opened; what is proposed until somebody types another. */
const typed = ref<string | null>(null)
const number = computed(() =>
  chosen.value === NEW ? (typed.value ?? view.value?.opens ?? '').trim() : chosen.value,
)
const { refused, attempt } = useAttempt()
function send(): void {
  if (view.value?.systemId && number.value !== '')
    emit('mend', [
      {
        kind: 'post-to',
        systemId: view.value.systemId,
        ruleId: props.ruleId,
        account: number.value,
        ...(chosen.value === NEW ? { opens: true } : {}),
      },
    ])
}
/** An account that is kept for a kind of amount is offered for no other. */
const keepFor = (kinds: readonly (PostingKind | null)[]): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/align/accounts/${encodeURIComponent(props.account)}/purpose`, { kinds })
    await changed()
  })
</script>

<template>
  <form v-if="view?.systemId" class="choice" @submit.prevent="send">
    <label
      >Post it to
      <select v-model="chosen" aria-label="Account it is posted to">
        <option value="" disabled>choose an account</option>
        <option
          v-for="each in view.accounts.filter((a) => a.number !== account)"
          :key="each.number"
          :value="each.number"
        >
          {{ each.number }} {{ each.name }}
        </option>
        <option v-if="view.opens !== null" :value="NEW">a new account</option>
      </select></label
    >
    <label v-if="chosen === NEW"
      >number
      <input
        :value="typed ?? view.opens"
        required
        maxlength="40"
        pattern="\S+"
        title="a number without spaces"
        @input="typed = ($event.target as HTMLInputElement).value"
    /></label>
    <button class="do small" type="submit" :disabled="number === ''">Look at it</button>
    <span v-if="chosen === NEW" class="soft"
      >The rule takes it first; the ledger is then asked to make it.</span
    >
    <span v-else-if="view.accounts.length === 0" class="soft"
      >The ledger has no account of the right type.</span
    >
    <span v-if="account !== '' && view.kind && entity.role !== 'viewer'" class="soft" data-purpose>
      <template v-if="view.keptFor"
        >{{ account }} is kept for {{ view.keptFor.join(' and ').replaceAll('-', ' ') }} alone.
        <button class="plain" type="button" @click="keepFor([])">offer it for whatever fits</button></template
      >
      <button v-else class="plain" type="button" @click="keepFor([view.kind])">
        keep {{ account }} for this kind of amount alone
      </button>
    </span>
    <ul
      v-if="view.spans.length > 1 || view.changes.length > 0"
      class="versions"
      aria-label="How the rule changed"
    >
      <li v-for="span in view.spans" :key="`${span.from} ${span.account}`">
        {{ span.account }} {{ span.name }}
        <span class="soft"
          >{{ span.from === null ? 'from the beginning' : `from ${format.longDay(span.from)}`
          }}{{ span.to === null ? ' on' : ` to ${format.longDay(span.to)}` }}</span
        >
      </li>
      <li v-for="change in view.changes" :key="change.at" class="soft">
        {{ format.instant(change.at) }}, {{ change.person }}: {{ change.before || 'no rule' }} →
        {{ change.after }}, from {{ format.longDay(change.from) }}
      </li>
    </ul>
    <span v-if="refused" class="breaks" role="alert">{{ refused.says }} {{ refused.mend }}</span>
  </form>
  <RefusedNote v-else :refused="notRead" />
</template>

<style scoped>
.versions {
  flex: 1 0 100%;
  list-style: none;
  margin: 0;
  padding: 0;
}
.choice {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 14px;
  flex-wrap: wrap;
}
select,
input {
  font: inherit;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  height: 26px;
  max-width: 320px;
}
input {
  width: 96px;
  padding: 0 6px;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
</style>
