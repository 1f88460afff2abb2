<script setup lang="ts">
import type { DecisionsView } from '@axion/contract'
import { computed } from 'vue'

/** How many documents come out to the cent: by what is agreed, by what is drafted beside it, and by neither. */
const props = defineProps<{ view: Pick<DecisionsView, 'documents' | 'explained'> }>()
const parts = computed(() => {
  const { documents, explained } = props.view
  // A draft that stands against what is agreed may explain less.
  const more = Math.max(0, explained.drafted - explained.now)
  return [
    { key: 'now', documents: explained.now, says: 'agreed' },
    { key: 'drafted', documents: more, says: 'drafted' },
    { key: 'neither', documents: documents - explained.now - more, says: 'not explained' },
  ].filter((part) => part.documents > 0)
})
</script>

<template>
  <div
    class="bar"
    data-explained
    role="img"
    :aria-label="parts.map((part) => `${part.documents} ${part.says}`).join(', ')"
  >
    <span v-for="part in parts" :key="part.key" :class="part.key" :style="{ flexGrow: part.documents }"
      >{{ part.documents }} {{ part.says }}</span
    >
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  height: 26px;
  font-size: 13px;
  border: 1px solid var(--hair);
  background: var(--sheet);
}
.bar span {
  flex-basis: 0;
  min-width: max-content;
  padding: 2px 8px;
  white-space: nowrap;
}
.now {
  background: var(--slate);
  color: var(--paper);
}
.drafted {
  background: var(--slate-wash);
  color: var(--slate);
}
.neither {
  color: var(--rust);
  background: repeating-linear-gradient(135deg, transparent 0 6px, var(--rust-wash) 6px 12px);
}
</style>
