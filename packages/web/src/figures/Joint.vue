<script setup lang="ts">
import type { Selector } from '@axion/contract'
import Amount from './Amount.vue'
import { isNil } from './format.ts'

/** What stands between two neighbours: a hairline where they agree, a dashed one with the difference on it where they do not. */
defineProps<{ gap: string; of?: Selector | null; silent?: boolean; words?: string }>()
</script>

<template>
  <span v-if="silent" class="joint silent"
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
