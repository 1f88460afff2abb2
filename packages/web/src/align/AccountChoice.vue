<script setup lang="ts">
import type { Remedy } from '@axion/contract'
import { ref } from 'vue'
import { useView } from '../shell/useView.ts'

/** The ledger's accounts that a posting rule may go to: those of the right type alone. */
const props = defineProps<{ ruleId: string; account: string }>()
const emit = defineEmits<{ mend: [remedies: readonly Remedy[]] }>()
const { view } = useView<{ systemId: string | null; accounts: readonly { number: string; name: string }[] }>(() => `/align/accounts/choices?rule=${encodeURIComponent(props.ruleId)}`)
const chosen = ref('')
function send(): void {
  if (view.value?.systemId && chosen.value !== '') emit('mend', [{ kind: 'post-to', systemId: view.value.systemId, ruleId: props.ruleId, account: chosen.value }])
}
</script>

<template>
  <form v-if="view?.systemId" class="choice" @submit.prevent="send">
    <label>Post it to <select v-model="chosen" aria-label="Account it is posted to"><option value="" disabled>choose an account</option><option v-for="each in view.accounts.filter((a) => a.number !== account)" :key="each.number" :value="each.number">{{ each.number }} {{ each.name }}</option></select></label>
    <button class="do small" type="submit" :disabled="chosen === ''">Look at it</button>
    <span v-if="view.accounts.length === 0" class="soft">The ledger has no account of the right type.</span>
  </form>
</template>

<style scoped>
.choice { display: flex; gap: 10px; align-items: center; font-size: 14px; }
select { font: inherit; border: 1px solid var(--hair); background: var(--sheet); color: var(--ink); height: 26px; max-width: 320px; }
.small { min-height: 26px; padding: 0 10px; }
</style>
