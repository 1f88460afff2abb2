<script setup lang="ts">
import type { Selector } from '@axion/contract'
import { computed } from 'vue'
import Amount from './Amount.vue'
import { isNil } from './format.ts'

/**
 * What stands between two neighbours: a hairline where they agree, a dashed one with the difference on it where they do not. Too much
 * and too little that would hide each other stand apart.
 */
const props = defineProps<{
  gap: string
  /** Documents' too much and too little, each by itself. */
  apart?: { readonly over: string; readonly under: string }
  of?: Selector | null
  silent?: boolean
  words?: string
}>()
const both = computed(
  () => props.apart !== undefined && !isNil(props.apart.over) && !isNil(props.apart.under),
)
const signed = (sign: 'over' | 'under'): Selector | null => (props.of ? { ...props.of, sign } : null)
</script>

<template>
  <span v-if="both && apart" class="joint broken both"
    ><i /><span
      ><Amount :value="apart.over" :of="signed('over')" signed breaks /><Amount
        :value="apart.under"
        :of="signed('under')"
        signed
        breaks /></span
    ><i
  /></span>
  <span v-else-if="silent" class="joint silent"
    ><i /><em v-if="words">{{ words }}</em
    ><i v-if="words"
  /></span>
  <span v-else-if="isNil(gap)" class="joint holds" role="img" aria-label="equal"><i /></span>
  <span v-else class="joint broken"><i /><Amount :value="gap" :of="of ?? null" signed breaks /><i /></span>
</template>

<style scoped>
.joint {
  display: flex;
  align-items: center;
  gap: 4px;
  min-width: 78px;
  font-size: 13px;
}
.both {
  font-size: 12px;
  line-height: 1.15;
}
.both > span {
  display: grid;
  justify-items: end;
}
i {
  flex: 1;
  min-width: 8px;
  border-top: 1px solid var(--hair);
}
.broken i {
  border-top: 1px dashed var(--rust);
}
.silent i {
  border-top: 1px dotted var(--hair);
}
em {
  color: var(--faint);
  font-size: 12px;
}
</style>
