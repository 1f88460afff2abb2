<script setup lang="ts">
import type { MonthsView } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useFormat } from '../figures/format.ts'
import { useMonth } from '../shell/month.ts'
import { useReading } from '../shell/reading.ts'

/** A month in which nothing is: the newest one in which something is stands beside it. */
const { entity, month } = useMonth()
const route = useRoute()
const format = useFormat()
const { view } = useReading<MonthsView>(() => `/api/entities/${entity.value.id}/months`)
const newest = computed(
  () => view.value?.months.find((one) => one.state !== 'nothing' && one.month !== month.value)?.month,
)
</script>

<template>
  <p v-if="newest" class="beside" data-elsewhere>
    The newest documents are of
    <RouterLink :to="{ name: 'close', params: { ...route.params, month: newest } }">{{
      format.month(newest)
    }}</RouterLink>
  </p>
</template>
