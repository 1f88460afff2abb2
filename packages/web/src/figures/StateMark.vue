<script setup lang="ts">
import { computed } from 'vue'

/** A state as a word and a shape, never colour alone: a bar that holds, a bar that breaks, a bar not yet drawn. */
const props = defineProps<{ state: 'holds' | 'breaks' | 'open' | 'asks'; word?: string }>()
const label = computed(
  () => props.word ?? { holds: 'holds', breaks: 'breaks', open: 'open', asks: 'to decide' }[props.state],
)
</script>

<template>
  <span class="state" :class="state">
    <svg viewBox="0 0 18 10" width="18" height="10" aria-hidden="true">
      <path v-if="state === 'holds'" d="M1 5H17" stroke="var(--slate)" stroke-width="1.6" />
      <path
        v-else-if="state === 'breaks'"
        d="M1 5H6M12 5H17M7.5 8.5 10.5 1.5"
        stroke="var(--rust)"
        stroke-width="1.6"
        fill="none"
      />
      <path
        v-else-if="state === 'asks'"
        d="M1 5H4M14 5H17M9 1.5 12.5 5 9 8.5 5.5 5Z"
        stroke="var(--plum)"
        stroke-width="1.4"
        fill="none"
      />
      <path v-else d="M1 5H17" stroke="var(--faint)" stroke-width="1.4" stroke-dasharray="1.5 3" />
    </svg>
    <span>{{ label }}</span>
  </span>
</template>

<style scoped>
.state {
  display: inline-flex;
  align-items: center;
  gap: 7px;
}
.state svg {
  flex: none;
}
.breaks {
  color: var(--rust);
  font-weight: 600;
}
.asks {
  color: var(--plum);
  font-weight: 600;
}
.open {
  color: var(--faint);
}
</style>
