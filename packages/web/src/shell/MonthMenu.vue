<script setup lang="ts">
import { monthAfter, monthBefore } from '@axion/core'
import { computed } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import StateMark from '../figures/StateMark.vue'
import type { Refused } from './api.ts'
import { useKeys } from './keyboard.ts'
import RefusedNote from './RefusedNote.vue'

/** A month, and the way to any other: each with its state, and keys to the one before and after. */
const props = defineProps<{
  month: string
  /** null until they are read */
  rows:
    | readonly {
        readonly month: string
        readonly state: 'nothing' | 'open' | 'proved'
        readonly words: string
      }[]
    | null
  refused: Refused | null
  to: (month: string) => RouteLocationRaw
  locale: string
}>()
const open = defineModel<boolean>({ default: false })
const router = useRouter()
useKeys(() => [
  { key: '[', does: 'the month before', act: () => void router.push(props.to(monthBefore(props.month))) },
  { key: ']', does: 'the month after', act: () => void router.push(props.to(monthAfter(props.month))) },
])
const MARKS = { nothing: 'open', open: 'breaks', proved: 'holds' } as const
const written = computed(
  () => new Intl.DateTimeFormat(props.locale, { month: 'long', year: 'numeric', timeZone: 'UTC' }),
)
const nameOf = (month: string): string => written.value.format(new Date(`${month}-01T00:00:00Z`))
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
        <button v-bind="menu" type="button" data-months title="Choose a month">
          {{ nameOf(month) }} <span aria-hidden="true">▾</span>
        </button>
      </template>
      <div class="list" role="region" aria-label="Months">
        <RefusedNote v-if="refused" :refused="refused" />
        <p v-else-if="!rows" class="soft">Reading</p>
        <ul v-else>
          <li v-for="row in rows" :key="row.month">
            <RouterLink :to="to(row.month)" :aria-current="row.month === month ? 'date' : undefined">
              <span>{{ nameOf(row.month) }}</span>
              <StateMark :state="MARKS[row.state]" :word="row.words" />
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
