<script setup lang="ts">
import type { DecisionRow } from '@axion/contract'
import { computed, ref } from 'vue'
import { count, fewOf, useFormat } from '../../figures/format.ts'
import { ABOUT_WORDS, nameOf, type Batch } from './words.ts'

/** Decisions of one kind that may be taken at once; opened, each stands with what it would put in and who says so. */
const props = defineProps<{ batch: Batch; may: boolean; busy: boolean; currency: string }>()
defineEmits<{ take: [rows: readonly DecisionRow[]] }>()
const format = useFormat()
const open = ref(false)
const words = computed(() => ABOUT_WORDS[props.batch.about])
const most = computed(() => Math.max(...props.batch.rows.map((row) => row.rests.documents)))
const waiting = computed(() => props.batch.rows.length - props.batch.ready.length)
/** What has to be answered first, each once. */
const waitsFor = computed(() => [...new Set(props.batch.rows.flatMap((row) => row.waitsFor))])
const systems = computed(() => [
  ...new Set(props.batch.rows.flatMap(({ options }) => options[0]?.systems ?? [])),
])
</script>

<template>
  <div class="batch" :data-batch="`${batch.standing}-${batch.about}`">
    <div class="line">
      <button class="plain name" type="button" :aria-expanded="open" @click="open = !open">
        {{ count(batch.rows.length, words[0], words[1]) }}
      </button>
      <span class="soft">{{
        systems.length > 0 ? systems.join(', ') : 'drawn from addresses and documents'
      }}</span>
      <span v-if="waiting > 0" class="waits" :title="waitsFor.join(', ')"
        >{{ waiting === batch.rows.length ? 'waits' : `${waiting} wait` }} for {{ fewOf(waitsFor, 2) }}</span
      >
      <span v-else class="soft n">{{
        most > 0 ? `up to ${count(most, 'document')} each` : 'no document yet'
      }}</span>
      <button
        v-if="may && batch.ready.length > 0"
        class="do small"
        :disabled="busy"
        type="button"
        :aria-label="`Accept ${count(batch.ready.length, words[0], words[1])}`"
        @click="$emit('take', batch.ready)"
      >
        Accept {{ batch.ready.length }}
      </button>
    </div>
    <div v-if="open" class="scroll" tabindex="0" role="region" :aria-label="words[1]">
      <table class="sheet">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Drafted</th>
            <th scope="col">Said by</th>
            <th scope="col" class="n">Documents</th>
            <th scope="col" class="n">Tax, {{ currency }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in batch.rows" :key="row.key" :data-decision="row.key">
            <td class="strong" :title="row.called.join(', ') || nameOf(row)">{{ nameOf(row) }}</td>
            <td class="says" :title="row.options[0]?.says">{{ row.options[0]?.says }}</td>
            <td class="soft">{{ row.options[0]?.systems.join(', ') || 'documents' }}</td>
            <td class="n">{{ row.rests.documents || '–' }}</td>
            <td class="n">{{ format.figure(row.rests.tax) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.batch {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-top-width: 0;
}
.batch:first-of-type {
  border-top-width: 1px;
}
.line {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr) max-content 110px;
  gap: 14px;
  align-items: center;
  min-height: 36px;
  padding: 2px 12px;
  font-size: 14px;
}
.name {
  text-align: left;
  font-weight: 600;
}
.soft {
  color: var(--soft);
}
.waits {
  color: var(--plum);
}
.small {
  min-height: 26px;
  padding: 0 10px;
  justify-self: end;
}
.scroll {
  max-height: 330px;
  overflow: auto;
  border-top: 1px solid var(--rule);
}
.says {
  max-width: 620px;
}
@media (max-width: 760px) {
  .line {
    grid-template-columns: minmax(0, 1fr) max-content;
  }
}
</style>
