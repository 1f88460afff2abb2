<script setup lang="ts">
import type { ListChoices } from '@axion/contract'
import { computed, ref } from 'vue'
import { useMonth } from '../shell/month.ts'
import { NARROWING, type List } from './useList.ts'

/** What a list is narrowed to, in one line: words, system, kind, dates and amounts; and the way out of all that it finds. */
const props = defineProps<{
  list: Pick<List<unknown, unknown, unknown>, 'query' | 'set' | 'address'>
  choices: ListChoices
  /** What least and most are about. */
  amount: string
  out: string
}>()
const { api } = useMonth()
const search = ref<HTMLInputElement | null>(null)
const shown = ref(false)
const used = computed(() => NARROWING.filter((name) => name !== 'search' && props.list.query(name)).length)
const change = (name: string, event: Event): void =>
  props.list.set({ [name]: (event.target as HTMLInputElement).value.trim() || undefined })
const clear = (): void => props.list.set(Object.fromEntries(NARROWING.map((name) => [name, undefined])))
const address = (format: string): string => `${api.value}${props.out}.${format}?${props.list.address.value}`
const DATES = [
  { name: 'from', label: 'from' },
  { name: 'to', label: 'until' },
]
const AMOUNTS = [
  { name: 'least', label: 'at least' },
  { name: 'most', label: 'at most' },
]
defineExpose({ focus: () => search.value?.focus() })
</script>

<template>
  <div class="listbar">
    <input
      ref="search"
      type="search"
      :value="list.query('search') ?? ''"
      placeholder="Number or party"
      aria-label="Filter by number or party"
      @change="change('search', $event)"
    />
    <button type="button" class="plain" :aria-expanded="shown" data-narrow @click="shown = !shown">
      Narrow<template v-if="used > 0">&nbsp;({{ used }})</template>
    </button>
    <span class="out soft"
      >Send out: <a :href="address('csv')" download>CSV</a> <a :href="address('xlsx')" download>XLSX</a></span
    >
    <div v-if="shown || used > 0" class="fields">
      <label v-if="choices.systems.length > 1"
        >system
        <select :value="list.query('system') ?? ''" @change="change('system', $event)">
          <option value="">all</option>
          <option v-for="one in choices.systems" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select></label
      >
      <label v-if="choices.kinds.length > 1"
        >kind
        <select :value="list.query('kind') ?? ''" data-filter-kind @change="change('kind', $event)">
          <option value="">all</option>
          <option v-for="kind in choices.kinds" :key="kind" :value="kind">
            {{ kind.replaceAll('-', ' ') }}
          </option>
        </select></label
      >
      <label v-for="{ name, label } in DATES" :key="name"
        >{{ label }}
        <input
          type="date"
          :value="list.query(name) ?? ''"
          :data-filter-field="name"
          @change="change(name, $event)"
      /></label>
      <label v-for="{ name, label } in AMOUNTS" :key="name"
        >{{ amount }} {{ label }}
        <input
          inputmode="decimal"
          :value="list.query(name) ?? ''"
          :data-filter-field="name"
          @change="change(name, $event)"
      /></label>
      <button v-if="used > 0" type="button" class="plain" @click="clear">All again</button>
    </div>
  </div>
</template>

<style scoped>
.listbar {
  display: contents;
}
.listbar > input {
  margin-left: auto;
}
input,
select {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
}
.listbar > input {
  width: 150px;
}
.fields {
  flex-basis: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  font-size: 14px;
}
.fields label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  color: var(--soft);
}
.fields input {
  width: 118px;
}
.fields input[type='date'] {
  width: 138px;
}
.out {
  font-size: 13.5px;
  white-space: nowrap;
}
</style>
