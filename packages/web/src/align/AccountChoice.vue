<script setup lang="ts">
import type { Remedy } from '@axion/contract'
import type { PostingKind } from '@axion/core'
import { ref } from 'vue'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useView } from '../shell/useView.ts'

/** The ledger's accounts that a posting rule may go to: those of the right type alone, and that are kept for nothing else. */
const props = defineProps<{ ruleId: string; account: string }>()
const emit = defineEmits<{ mend: [remedies: readonly Remedy[]] }>()
const { api, changed, entity } = useMonth()
const { view } = useView<{ systemId: string | null; kind: PostingKind | null; keptFor: readonly PostingKind[] | null; accounts: readonly { number: string; name: string }[] }>(() => `/align/accounts/choices?rule=${encodeURIComponent(props.ruleId)}`)
const chosen = ref('')
const refused = ref<Refused | null>(null)
function send(): void {
  if (view.value?.systemId && chosen.value !== '') emit('mend', [{ kind: 'post-to', systemId: view.value.systemId, ruleId: props.ruleId, account: chosen.value }])
}
/** An account that is kept for a kind of amount is offered for no other. */
async function keepFor(kinds: readonly (PostingKind | null)[]): Promise<void> {
  refused.value = null
  try {
    await call('PUT', `${api.value}/align/accounts/${encodeURIComponent(props.account)}/purpose`, { kinds })
    await changed()
  } catch (error) {
    refused.value = asRefused(error)
  }
}
</script>

<template>
  <form v-if="view?.systemId" class="choice" @submit.prevent="send">
    <label>Post it to <select v-model="chosen" aria-label="Account it is posted to"><option value="" disabled>choose an account</option><option v-for="each in view.accounts.filter((a) => a.number !== account)" :key="each.number" :value="each.number">{{ each.number }} {{ each.name }}</option></select></label>
    <button class="do small" type="submit" :disabled="chosen === ''">Look at it</button>
    <span v-if="view.accounts.length === 0" class="soft">The ledger has no account of the right type.</span>
    <span v-if="account !== '' && view.kind && entity.role !== 'viewer'" class="soft" data-purpose>
      <template v-if="view.keptFor">{{ account }} is kept for {{ view.keptFor.join(' and ').replaceAll('-', ' ') }} alone. <button class="plain" type="button" @click="keepFor([])">offer it for whatever fits</button></template>
      <button v-else class="plain" type="button" @click="keepFor([view.kind])">keep {{ account }} for this kind of amount alone</button>
    </span>
    <span v-if="refused" class="breaks" role="alert">{{ refused.says }} {{ refused.mend }}</span>
  </form>
</template>

<style scoped>
.choice { display: flex; gap: 10px; align-items: center; font-size: 14px; flex-wrap: wrap; }
select { font: inherit; border: 1px solid var(--hair); background: var(--sheet); color: var(--ink); height: 26px; max-width: 320px; }
.small { min-height: 26px; padding: 0 10px; }
</style>
