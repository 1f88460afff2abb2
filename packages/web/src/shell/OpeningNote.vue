<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useFormat } from '../figures/format.ts'
import { useMonth } from './month.ts'

/** That a month lies before the books open, on whatever page: what is in it is read for reference, and nothing of it is proved. */
const { month, path } = useMonth()
const route = useRoute()
const format = useFormat()
const opening = computed(() => path.value?.opening ?? null)
const to = computed(() => ({
  name: 'opening',
  params: { entity: route.params['entity'], month: route.params['month'] },
}))
</script>

<template>
  <p v-if="opening?.before" class="across" role="status" data-before-books>
    <b>The books open on {{ format.longDay(opening.day) }}.</b> What is of {{ format.month(month) }} is read
    for reference: it is not booked, and nothing of it is proved.
    <RouterLink v-if="route.name !== 'opening'" :to="to">The opening day</RouterLink>
  </p>
</template>
