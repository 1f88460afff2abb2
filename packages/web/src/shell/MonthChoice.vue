<script setup lang="ts">
import type { MonthsView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { count, isNil, provedWord, useFormat } from '../figures/format.ts'
import { useMonth } from './month.ts'
import MonthMenu from './MonthMenu.vue'
import { useReading } from './reading.ts'

/** The month being worked, and the way to any other: each with its state, and keys to the one before and after. */
const { entity, month } = useMonth()
const route = useRoute()
const format = useFormat()
const open = ref(false)
const { view, refused } = useReading<MonthsView>(() =>
  open.value ? `/api/entities/${entity.value.id}/months` : null,
)
/** What is open or filtered belongs to its month; the page is kept. */
const to = (wanted: string): object => ({
  name: route.name === 'evidence' ? 'close' : route.name,
  params: { ...route.params, month: wanted },
})
const words = (row: MonthsView['months'][number]): string =>
  row.state === 'nothing'
    ? 'not known'
    : row.state === 'proved'
      ? provedWord(row)
      : isNil(row.unproved)
        ? `${count(row.documents, 'document')} open`
        : `${format.value.amount(row.unproved)} not proved`
const rows = computed(() => view.value?.months.map((row) => ({ ...row, words: words(row) })) ?? null)
</script>

<template>
  <MonthMenu v-model="open" :month="month" :rows="rows" :refused="refused" :to="to" :locale="entity.locale" />
</template>
