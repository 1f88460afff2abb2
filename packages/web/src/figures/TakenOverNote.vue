<script setup lang="ts">
import { useRoute } from 'vue-router'
import { useMonth } from '../shell/month.ts'
import { count } from './format.ts'

/** What the books opened with, as far as no list makes it up. */
const { path } = useMonth()
const route = useRoute()
</script>

<template>
  <p v-if="path?.opening && !path.opening.before && path.opening.due > 0" class="beside" data-not-taken-over>
    What {{ count(path.opening.due, 'account') }} stood at when the books opened
    {{ path.opening.due === 1 ? 'has' : 'have' }} no list behind {{ path.opening.due === 1 ? 'it' : 'them' }}.
    <RouterLink
      :to="{ name: 'opening', params: { entity: route.params['entity'], month: route.params['month'] } }"
      >Take {{ path.opening.due === 1 ? 'it' : 'them' }} over</RouterLink
    >
  </p>
</template>
