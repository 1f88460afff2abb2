<script setup lang="ts">
import type { TimelineView } from '@axion/contract'
import { computed } from 'vue'
import StateMark from '../figures/StateMark.vue'
import { useView } from '../shell/useView.ts'

/** A rate through time, across the systems: what each has between the days on which anything of it changes. */
const props = defineProps<{ rate: string }>()
const { view } = useView<TimelineView>(() => `/align/rates/${encodeURIComponent(props.rate)}/timeline`)
const names = computed(() => view.value?.spans[0]?.systems.map((s) => s.system) ?? [])
</script>

<template>
  <table v-if="view && view.spans.length > 0" class="sheet timeline" :aria-label="`${view.name} through time`">
    <thead><tr><th scope="col">Through time, %</th><th v-for="span in view.spans" :key="span.from" scope="col" class="n">from {{ span.from }}<small>{{ span.to ? `to ${span.to}` : 'and on' }}</small></th></tr></thead>
    <tbody>
      <tr><th scope="row">Baseline</th><td v-for="span in view.spans" :key="span.from" class="n strong">{{ span.ours ?? 'none' }}</td></tr>
      <tr v-for="(name, at) in names" :key="at"><th scope="row">{{ name }}</th><td v-for="span in view.spans" :key="span.from" class="n"><StateMark :state="span.systems[at]?.agrees ? 'holds' : 'breaks'" :word="span.systems[at]?.flat ? `${span.systems[at]?.percent} by hand` : (span.systems[at]?.percent ?? '')" /></td></tr>
    </tbody>
  </table>
</template>

<style scoped>
.timeline { grid-column: 1 / -1; width: auto; max-width: 100%; }
th small { display: block; font-weight: 400; font-size: 12px; }
tbody th { text-align: left; font-weight: 400; padding: 3px 16px 3px 8px; white-space: nowrap; }
td.n :deep(.state) { justify-content: flex-end; }
</style>
