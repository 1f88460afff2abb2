<script setup lang="ts">
import type { MonthsView } from '@axion/contract'
import { monthAfter, monthBefore } from '@axion/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { count, isNil, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { asRefused, call, type Refused } from './api.ts'
import { useKeys } from './keyboard.ts'
import { useMonth } from './month.ts'

/** The month being worked, and the way to any other: each with its state, and keys to the one before and after. */
const { entity, month, version } = useMonth()
const route = useRoute()
const router = useRouter()
const format = useFormat()
const view = ref<MonthsView | null>(null)
const refused = ref<Refused | null>(null)
const open = ref(false)
async function read(): Promise<void> {
  try {
    view.value = await call<MonthsView>('GET', `/api/entities/${entity.value.id}/months`)
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch([open, version], () => {
  if (open.value) void read()
})
/** What is open or filtered belongs to its month; the page is kept. */
const to = (wanted: string): object => ({
  name: route.name === 'evidence' ? 'close' : route.name,
  params: { ...route.params, month: wanted },
})
const go = (wanted: string): void => void router.push(to(wanted))
useKeys(() => [
  { key: '[', does: 'the month before', act: () => go(monthBefore(month.value)) },
  { key: ']', does: 'the month after', act: () => go(monthAfter(month.value)) },
])
const MARKS = { nothing: 'open', open: 'breaks', proved: 'holds' } as const
const rows = computed(() => view.value?.months ?? [])
const words = (row: MonthsView['months'][number]): string =>
  row.state === 'nothing'
    ? 'nothing pulled'
    : row.state === 'proved'
      ? 'proved'
      : isNil(row.unproved)
        ? `${count(row.documents, 'document')} open`
        : `${format.value.amount(row.unproved)} not proved`
</script>

<template>
  <div class="months">
    <RouterLink
      class="step"
      :to="to(monthBefore(month))"
      aria-label="The month before"
      title="The month before: ["
      >‹</RouterLink
    >
    <VMenu v-model="open" location="bottom start" :close-on-content-click="true">
      <template #activator="{ props: menu }">
        <button v-bind="menu" type="button" data-months :title="`Choose a month`">
          {{ format.month(month) }} <span aria-hidden="true">▾</span>
        </button>
      </template>
      <div class="list" role="region" aria-label="Months">
        <p v-if="refused" class="note bad" role="alert">{{ refused.says }} {{ refused.mend }}</p>
        <p v-else-if="!view" class="soft">Reading</p>
        <ul v-else>
          <li v-for="row in rows" :key="row.month">
            <RouterLink :to="to(row.month)" :aria-current="row.month === month ? 'date' : undefined">
              <span>{{ format.month(row.month) }}</span>
              <StateMark :state="MARKS[row.state]" :word="words(row)" />
            </RouterLink>
          </li>
        </ul>
      </div>
    </VMenu>
    <RouterLink
      class="step"
      :to="to(monthAfter(month))"
      aria-label="The month after"
      title="The month after: ]"
      >›</RouterLink
    >
  </div>
</template>

<style scoped>
.months {
  display: flex;
  align-items: baseline;
  gap: 6px;
  font-size: 13.5px;
  color: var(--band-soft);
}
.months > button {
  background: none;
  border: 0;
  padding: 0;
  color: inherit;
  font: inherit;
  cursor: pointer;
}
.months > button:hover,
.step:hover {
  color: var(--band-ink);
}
.step {
  text-decoration: none;
  padding: 0 3px;
}
.list {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--hair);
  padding: 6px 0;
  min-width: 330px;
  max-height: 60vh;
  overflow: auto;
}
.list p {
  padding: 4px 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li a {
  display: flex;
  justify-content: space-between;
  gap: 24px;
  padding: 5px 14px;
  text-decoration: none;
  color: inherit;
}
li a:hover {
  background: var(--paper);
}
li a[aria-current] {
  font-weight: 600;
  box-shadow: inset 3px 0 0 var(--plum);
}
</style>
