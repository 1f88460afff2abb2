<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useFormat } from '../figures/format.ts'
import { useMonth } from './month.ts'
import { isUnderWay, useRuns } from './runs.ts'

/** That figures, on whatever page, are from before a change that is still to be proved; where nobody is at it, how to have it done. */
const { path } = useMonth()
const { current } = useRuns()
const route = useRoute()
const format = useFormat()
const since = computed(() => path.value?.connect.limits.older ?? null)
</script>

<template>
  <p v-if="since" class="across warns" role="status" data-older>
    <b>Figures are from before a change of {{ format.instant(since) }}.</b>{{ ' ' }}
    <template v-if="isUnderWay(current)">They change once it is proved.</template>
    <template v-else
      >A pull proves it:
      <RouterLink :to="{ name: 'connect', params: route.params }">to Connect</RouterLink></template
    >
  </p>
</template>
