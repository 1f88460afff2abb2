<script setup lang="ts">
import { computed } from 'vue'
import type { Row } from './answers.ts'

/** The head of a column of days: the first that was said can be said of all rows that wait for theirs. */
const props = defineProps<{ rows: readonly Row[] }>()
const first = computed(() => props.rows.find(({ from }) => from !== '')?.from ?? null)
const waiting = computed(() => props.rows.filter(({ from, number }) => from === '' && number.trim() !== ''))
function fill(): void {
  for (const row of waiting.value) row.from = first.value ?? ''
}
</script>

<template>
  <th scope="col">
    <slot />{{ ' ' }}
    <button v-if="first !== null && waiting.length > 0" class="plain" type="button" @click="fill">
      the same for the rest
    </button>
  </th>
</template>
