<script setup lang="ts">
import { pasteDown, type Row } from './answers.ts'

/** Two cells of a row that is answered: what is typed or pasted down the column, and its day. One asks for the other. */
defineProps<{
  /** The rows that are answered, for a column that is pasted from this one on. */
  rows: readonly Row[]
  at: number
  labels: { readonly number: string; readonly day: string }
  longest: number
  shortest?: number
}>()
const number = defineModel<string>('number', { required: true })
const from = defineModel<string>('from', { required: true })
</script>

<template>
  <td>
    <input
      v-model="number"
      :aria-label="labels.number"
      :maxlength="longest"
      :minlength="shortest"
      :required="from !== ''"
      @paste="pasteDown(rows, at, $event)"
    />
  </td>
  <slot />
  <td>
    <input v-model="from" type="date" :aria-label="labels.day" :required="number.trim() !== ''" />
  </td>
</template>

<style scoped src="./answers.css"></style>
