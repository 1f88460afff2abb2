<script setup lang="ts">
import type { ImportView } from '@axion/contract'
import { count } from '../figures/format.ts'

/** Which column of a sheet holds what, with the first values that it would be read from. */
const { sheet, mapping } = defineProps<{
  sheet: ImportView['sheets'][number]
  /** By the path of what is read, the place of its column. */
  mapping: Record<string, number | null>
  /** Whether it is still asked, rather than read already. */
  asks: boolean
  open: boolean
}>()
const emit = defineEmits<{ map: [path: string, column: number | null] }>()
const take = (path: string, event: Event): void => {
  const { value } = event.target as HTMLSelectElement
  emit('map', path, value === '' ? null : Number(value))
}
const values = (path: string): string => {
  const at = mapping[path]
  return at == null
    ? ''
    : sheet.sample
        .map((row) => row.cells[at] ?? '')
        .filter(Boolean)
        .slice(0, 3)
        .join(' · ')
}
</script>

<template>
  <details :open="open" class="mapper" :data-mapper="sheet.sheet">
    <summary>
      <b>{{ sheet.title }}</b> from {{ sheet.name ? `sheet “${sheet.name}”` : 'the file' }},
      {{ count(sheet.rows, 'row') }}
      <span v-if="asks" class="soft">{{
        sheet.remembered ? 'mapped as last time under this header' : 'mapped by its titles'
      }}</span>
    </summary>
    <table class="sheet">
      <thead>
        <tr>
          <th scope="col">Column</th>
          <th scope="col">Taken from</th>
          <th scope="col">First values</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="column in sheet.columns" :key="column.path">
          <td>{{ column.title }}<small v-if="column.needed" class="soft"> needed</small></td>
          <td>
            <select
              :value="mapping[column.path] ?? ''"
              :aria-label="`${column.title} is taken from`"
              :class="{ lacks: column.needed && mapping[column.path] == null }"
              @change="take(column.path, $event)"
            >
              <option value="">nothing</option>
              <option v-for="(title, at) in sheet.header" :key="at" :value="at">
                {{ title || `column ${at + 1}` }}
              </option>
            </select>
          </td>
          <td class="soft values">{{ values(column.path) }}</td>
        </tr>
      </tbody>
    </table>
  </details>
</template>

<style scoped>
.mapper {
  margin-top: 8px;
}
summary {
  cursor: pointer;
}
.mapper .sheet {
  margin: 6px 0 2px;
  max-width: 900px;
}
select {
  font: inherit;
  font-size: 14px;
  min-width: 200px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  height: 25px;
}
select.lacks {
  border-color: var(--rust);
}
.values {
  max-width: 420px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
