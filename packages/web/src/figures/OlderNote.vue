<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useMonth } from '../shell/month.ts'
import { isUnderWay, useRuns } from '../shell/runs.ts'
import { useFormat } from './format.ts'

/** That figures are from before a change that is still to be proved; where nobody is at it, how to have it done. */
const { path } = useMonth()
const { current } = useRuns()
const route = useRoute()
const format = useFormat()
const since = computed(() => path.value?.connect.limits.older ?? null)
</script>

<template>
  <p v-if="since" class="note bad older" role="status" data-older>
    <b>These figures are from before a change of {{ format.instant(since) }}.</b>
    <template v-if="isUnderWay(current)"> They are being proved anew, and change when that is done.</template>
    <template v-else>
      {{ ' ' }}A pull proves them anew:
      <RouterLink :to="{ name: 'connect', params: route.params }">to Connect</RouterLink></template
    >
  </p>
</template>

<style scoped>
.older {
  margin: 6px 0 0;
}
</style>
