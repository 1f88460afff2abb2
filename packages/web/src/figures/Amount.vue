<script setup lang="ts">
import type { Selector } from '@axion/contract'
import { selectorText } from '@axion/contract'
import { computed } from 'vue'
import { useEvidence } from '../evidence/useEvidence.ts'
import { isNil, useFormat } from './format.ts'

/** An amount, and the way to its evidence. Nil, not stated, not known and not pulled are different marks. */
const props = defineProps<{
  value: string | null
  of?: Selector | null
  silence?: 'not stated' | 'not pulled' | 'not booked' | 'not known' | 'no agency'
  signed?: boolean
  breaks?: boolean
}>()
const format = useFormat()
const evidence = useEvidence()
const open = computed(() => (props.of ? selectorText(props.of) : null))
const text = computed(() =>
  props.value === null
    ? ''
    : props.signed
      ? format.value.signed(props.value)
      : format.value.amount(props.value),
)
</script>

<template>
  <span v-if="value === null" class="silence">{{ silence ?? 'not stated' }}</span>
  <span v-else-if="isNil(value)" class="nil" role="img" aria-label="nil">–</span>
  <button
    v-else-if="open"
    type="button"
    class="amount"
    :class="{ breaks, open: evidence.open.value === open }"
    :data-amount="value"
    :data-open="open"
    :title="`Open the evidence behind ${text}`"
    @click.stop="evidence.show(of as Selector)"
  >
    {{ text }}
  </button>
  <span v-else :class="{ breaks }">{{ text }}</span>
</template>

<style scoped>
.amount {
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  font-weight: inherit;
  text-align: right;
  border-radius: 1px;
}
.amount:hover {
  text-decoration: underline;
  text-decoration-color: var(--plum);
  text-decoration-thickness: 2px;
  text-underline-offset: 3px;
}
.amount.open {
  color: var(--plum);
  text-decoration: underline;
  text-underline-offset: 3px;
}
.amount.breaks {
  color: var(--rust);
  font-weight: 600;
}
.silence {
  color: var(--faint);
  font-style: italic;
  font-size: 13px;
  font-weight: 400;
}
.nil {
  color: var(--faint);
  font-weight: 400;
}
</style>
