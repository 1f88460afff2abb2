<script setup lang="ts">
import type { ScopeView } from '@axion/contract'
import { useFormat } from '../figures/format.ts'

/** Documents of the month that a system's scope leaves out. */
defineProps<{ name: string; left: ScopeView['left'] }>()
const format = useFormat()
const WHY = { 'out-of-range': 'too early', 'kind-off': 'switched off' } as const
</script>

<template>
  <table class="sheet" :aria-label="`Left out of ${name}`">
    <thead>
      <tr>
        <th scope="col">Left out</th>
        <th scope="col">Date</th>
        <th scope="col">Party</th>
        <th scope="col">Why</th>
        <th scope="col" class="n">Total</th>
        <th scope="col" class="n">Tax</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in left" :key="one.number">
        <td>{{ one.number }}</td>
        <td class="soft">{{ format.day(one.date) }}</td>
        <td class="party" :title="one.party">{{ one.party }}</td>
        <td>{{ WHY[one.why] }}{{ one.booked ? ', booked already' : '' }}</td>
        <td class="n">{{ format.figure(one.total) }}</td>
        <td class="n">{{ format.figure(one.tax) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped src="./scope.css"></style>

<style scoped>
.party {
  max-width: 180px;
}
</style>
