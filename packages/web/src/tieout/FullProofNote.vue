<script setup lang="ts">
import type { FullProofView, LastFullProof } from '@axion/contract'
import { computed } from 'vue'
import { count, useFormat } from '../figures/format.ts'
import { useMonth } from '../shell/month.ts'
import { useReading } from '../shell/reading.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What the last full proof of the month found; of one that stands no more, only that there was one. */
const { api } = useMonth()
const format = useFormat()
const { view, refused } = useReading<LastFullProof>(() => `${api.value}/full-proof`)
const last = computed(() => view.value?.last ?? null)
const amiss = ({ disagreeing, otherwise, miscounted }: FullProofView): number =>
  disagreeing + otherwise + miscounted
const isBad = computed(() => last.value !== null && amiss(last.value.full) > 0)
const were = (n: number): string => (n === 1 ? 'was' : 'were')
</script>

<template>
  <RefusedNote :refused="refused" />
  <p v-if="last && (last.stands || isBad)" class="note" :class="{ bad: isBad }" role="status" data-full-proof>
    <template v-if="!isBad"
      ><b>The full proof agrees</b>, as at {{ format.instant(last.at) }}:
      {{ count(last.full.documents, 'document') }} worked out anew, and
      {{ count(last.full.facts, 'tax fact') }} summed, and each verdict as it is shown.</template
    >
    <template v-else>
      <b>The full proof of {{ format.instant(last.at) }} found a fault of Axion’s</b>, to be reported; what it
      found is right by now.
      <template v-if="last.full.otherwise > 0">
        {{ count(last.full.otherwise, 'document') }} {{ were(last.full.otherwise) }} kept otherwise than
        worked out anew.
      </template>
      <template v-if="last.full.disagreeing > 0">
        {{ count(last.full.disagreeing, 'document') }} {{ were(last.full.disagreeing) }} judged otherwise than
        the facts come to.
      </template>
      <template v-if="last.full.miscounted > 0">
        {{ count(last.full.miscounted, 'sum') }} that pages show {{ were(last.full.miscounted) }} counted
        otherwise than the documents come to.
      </template>
      <template v-if="last.full.named.length > 0">
        Concerned: {{ last.full.named.map((n) => n.number).join(', ') }}.
      </template>
    </template>
  </p>
  <p v-else-if="last" class="soft older" data-full-proof="older">
    The last full proof is of {{ format.instant(last.at) }}: something was recorded since.
  </p>
</template>

<style scoped>
.older {
  margin-bottom: 8px;
}
</style>
