<script setup lang="ts">
import type { PracticeView } from '@axion/contract'

/** Legal entities that are closed: nothing waits in them, and they are still read. */
defineProps<{ closed: PracticeView['closed']; month: string }>()
</script>

<template>
  <p class="closed soft" data-closed>
    Closed, and still read:
    <template v-for="(one, at) in closed" :key="one.id"
      >{{ at > 0 ? ', ' : ''
      }}<RouterLink :to="{ name: 'close', params: { entity: one.id, month } }">{{
        one.name
      }}</RouterLink></template
    >
  </p>
</template>

<style scoped>
.closed {
  margin-top: 12px;
  font-size: 14px;
}
</style>
