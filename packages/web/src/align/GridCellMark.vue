<script setup lang="ts">
import type { GridCell } from '@axion/contract'
import { computed } from 'vue'
import { useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'

/** What a system has, beside the baseline: a mark where it is the same, and in words what differs. */
const props = defineProps<{ state: GridCell['state']; words: string; besides: string }>()
const format = useFormat()
/** Days in words are written as this reader writes them. */
const said = computed(() => props.words.replace(/\d{4}-\d{2}-\d{2}/g, (day) => format.value.longDay(day)))
const MARK: Readonly<Record<GridCell['state'], 'holds' | 'breaks' | 'asks' | 'open'>> = {
  agrees: 'holds',
  differs: 'breaks',
  proposed: 'asks',
  question: 'asks',
  absent: 'breaks',
  'not-needed': 'open',
  'not-pulled': 'open',
  none: 'open',
}
</script>

<template>
  <span class="cell" :class="{ same: state === 'agrees' }" :title="[said, besides].filter(Boolean).join(', ')"
    ><StateMark :state="MARK[state]" :word="said" /><small v-if="besides" class="tolink">{{
      besides
    }}</small></span
  >
</template>

<style scoped>
.cell {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 0 6px;
  align-items: center;
}
/* What is equal need not be read again: it is there for who listens, or points at it. */
.same :deep(.state > span) {
  position: absolute;
  clip-path: inset(50%);
  width: 1px;
  overflow: hidden;
}
@media (max-width: 1100px) {
  .cell :deep(.breaks svg) {
    display: none;
  }
}
.tolink {
  color: var(--plum);
  font-size: 12.5px;
}
</style>
