<script setup lang="ts">
import type { AlignKind, Remedy } from '@axion/contract'
import { POSTING_SCOPES, type PostingKind, type PostingScope } from '@axion/core'
import { computed, ref, watch } from 'vue'
import AccountChoice from './AccountChoice.vue'
import NameChoice from './NameChoice.vue'

/** A posting rule for one party, item, item tax code, channel or method: what it is about, then the account. */
const emit = defineEmits<{ mend: [remedies: readonly Remedy[]] }>()
const open = ref(false)
const kind = ref<PostingKind>('revenue')
const scope = ref<PostingScope>('item')
const id = ref('')
const KINDS: Readonly<Partial<Record<PostingKind, string>>> = {
  revenue: 'Revenue',
  shipping: 'Shipping revenue',
  discount: 'Discounts',
  receivable: 'What customers owe',
}
const SCOPES: Readonly<Record<PostingScope, string>> = {
  party: 'one party',
  item: 'one item',
  'item-tax-code': 'one item tax code',
  channel: 'one channel',
  method: 'one payment method',
}
/** Revenue, shipping and the like are told apart by these; methods are cleared, and have their rows. */
const scopes = POSTING_SCOPES.filter((one) => one !== 'method')
const LISTED: Readonly<Partial<Record<PostingScope, AlignKind>>> = {
  party: 'parties',
  item: 'items',
  'item-tax-code': 'codes',
}
const listed = computed(() => LISTED[scope.value])
watch([open, scope], () => {
  id.value = ''
})
const ruleId = computed(() =>
  id.value.trim() === '' ? null : `${kind.value} ${scope.value} ${id.value.trim()}`,
)
</script>

<template>
  <div class="rule">
    <button v-if="!open" class="plain" type="button" @click="open = true">
      a rule for one party, item, code or channel
    </button>
    <div v-else class="form">
      <select v-model="kind" aria-label="Kind of amount">
        <option v-for="(word, each) in KINDS" :key="each" :value="each">{{ word }}</option>
      </select>
      of
      <select v-model="scope" aria-label="What alone it is for">
        <option v-for="each in scopes" :key="each" :value="each">{{ SCOPES[each] }}</option>
      </select>
      <NameChoice
        v-if="listed"
        v-model="id"
        :names="`/align/${listed}/names`"
        label="Which one"
        placeholder="choose which"
      />
      <input
        v-else
        v-model="id"
        aria-label="Which one"
        placeholder="as the system calls it"
        maxlength="200"
      />
      <AccountChoice v-if="ruleId" :key="ruleId" :rule-id="ruleId" account="" @mend="emit('mend', $event)" />
      <button class="plain" type="button" @click="open = false">Not now</button>
    </div>
  </div>
</template>

<style scoped>
.rule {
  margin: 8px 0;
  font-size: 14px;
}
.form {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
select,
input {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  height: 26px;
  max-width: 260px;
}
</style>
