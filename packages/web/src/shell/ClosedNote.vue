<script setup lang="ts">
import { useRoute } from 'vue-router'
import { useFormat } from '../figures/format.ts'
import { useMonth } from './month.ts'

/** That a legal entity is closed, on whatever page: it is read, and what its buttons would do is refused. */
const { entity } = useMonth()
const route = useRoute()
const format = useFormat()
</script>

<template>
  <p v-if="entity.closedOn" class="across" role="status" data-closed>
    <b>Closed since {{ format.longDay(entity.closedOn) }}.</b> It is read, and nothing is written.
    <RouterLink
      v-if="route.name !== 'entity'"
      :to="{ name: 'entity', params: { entity: route.params['entity'], month: route.params['month'] } }"
      >{{ entity.role === 'administrator' ? 'Open it again' : 'What that means' }}</RouterLink
    >
  </p>
</template>
