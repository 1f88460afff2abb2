<script setup lang="ts">
import { useFormat } from './format.ts'

/** What several journals come to together, account by account. */
defineProps<{
  lines: readonly {
    readonly account: string
    readonly debit: string | null
    readonly credit: string | null
  }[]
  currency: string
}>()
const format = useFormat()
</script>

<template>
  <table class="sheet" aria-label="Accounts moved">
    <thead>
      <tr>
        <th scope="col">Account</th>
        <th scope="col" class="n">Debit, {{ currency }}</th>
        <th scope="col" class="n">Credit</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="line in lines" :key="line.account">
        <td>{{ line.account }}</td>
        <td class="n">{{ line.debit === null ? '' : format.amount(line.debit) }}</td>
        <td class="n">{{ line.credit === null ? '' : format.amount(line.credit) }}</td>
      </tr>
    </tbody>
  </table>
</template>
