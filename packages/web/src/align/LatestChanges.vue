<script setup lang="ts">
import type { BatchView } from '@axion/contract'
import { computed } from 'vue'
import { useFormat } from '../figures/format.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { isUnderWay, useRuns } from '../shell/runs.ts'
import { useView } from '../shell/useView.ts'
import { BATCH_WORDS } from './words.ts'

/** What was done last in Align, each of which can be taken back as a whole. */
const { view, refused } = useView<{ batches: readonly BatchView[] }>(() => '/align/batches')
const runs = useRuns()
const format = useFormat()
const batches = computed(() => view.value?.batches ?? [])
const undo = (batch: BatchView): void => void runs.start('/align/undo', { batchId: batch.id })
</script>

<template>
  <details v-if="batches.length > 0" class="latest" data-latest>
    <summary class="do">Latest changes</summary>
    <ul>
      <li
        v-for="batch in batches"
        :key="batch.id"
        :data-batch="batch.action"
        :class="{ undone: batch.undoneBy !== null }"
      >
        <span
          ><b>{{ BATCH_WORDS[batch.action] ?? batch.action }}</b> {{ batch.says
          }}<small>{{ batch.person }}, {{ format.instant(batch.at) }}</small></span
        >
        <button
          v-if="batch.canUndo"
          type="button"
          class="do small"
          :disabled="isUnderWay(runs.current.value)"
          @click="undo(batch)"
        >
          Take back
        </button>
        <small v-else>{{
          batch.undoneBy ? `taken back by ${batch.undoneBy}` : 'removed in its system'
        }}</small>
      </li>
    </ul>
  </details>
  <RefusedNote v-else :refused="refused" />
</template>

<style scoped>
.latest {
  position: relative;
  align-self: center;
}
summary {
  list-style: none;
  height: 32px;
}
ul {
  position: absolute;
  right: 0;
  z-index: 20;
  width: 470px;
  margin: 4px 0 0;
  padding: 6px 0;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--hair);
  border-top: 3px solid var(--plum);
  box-shadow: 0 6px 18px rgb(0 0 0 / 18%);
}
li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: center;
  padding: 5px 14px;
  font-size: 14px;
  border-bottom: 1px solid var(--rule);
}
li:last-child {
  border-bottom: 0;
}
li span {
  min-width: 0;
}
.undone span {
  text-decoration: line-through;
  color: var(--soft);
}
small {
  display: block;
  color: var(--soft);
  white-space: nowrap;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
</style>
