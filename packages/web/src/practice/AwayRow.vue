<script setup lang="ts">
import type { PracticeView } from '@axion/contract'
import StateMark from '../figures/StateMark.vue'
import { readAnew } from '../shell/reading.ts'

/** A legal entity of which nothing is known just now, and what to do. */
defineProps<{ away: PracticeView['away'][number] }>()
</script>

<template>
  <tr :data-away="away.id">
    <td class="name">{{ away.name }}</td>
    <td class="soft role">{{ away.role }}</td>
    <td class="why" colspan="6">
      <StateMark state="breaks" word="cannot be reached" />
      <span class="says">{{ away.problem.says }} {{ away.problem.mend }}</span>
    </td>
    <td><button type="button" class="do" @click="readAnew()">Look again</button></td>
  </tr>
</template>

<style scoped>
td {
  height: 44px;
}
.name {
  font-weight: 600;
  font-size: 16px;
}
.why {
  white-space: normal;
  padding-block: 6px;
}
.says {
  margin-inline-start: 8px;
}
.do {
  min-height: 27px;
  padding: 0 10px;
}
@media (max-width: 1100px) {
  .role {
    display: none;
  }
}
</style>
