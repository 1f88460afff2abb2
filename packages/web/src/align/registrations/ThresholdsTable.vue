<script setup lang="ts">
import type { RegistrationsView, ThresholdDraft } from '@axion/contract'
import { count, useFormat } from '../../figures/format.ts'
import SpansForm, { type Span } from './SpansForm.vue'
import { daysText } from './words.ts'

/** From how much on each region wants registration. */
defineProps<{ view: RegistrationsView; may: boolean; busy: boolean; first: string }>()
const editing = defineModel<string | null>('editing', { required: true })
const emit = defineEmits<{ keep: [id: string, spans: readonly Span[]] }>()
const format = useFormat()
const THRESHOLD = [
  { key: 'sales', label: 'sales of' },
  { key: 'currency', label: 'in' },
  { key: 'transactions', label: 'or transactions', whole: true },
]
const sayThreshold = ({ sales, currency, transactions, from, to }: ThresholdDraft): string =>
  [
    [
      sales && `${format.value.amount(sales)} ${currency ?? ''} of sales`,
      transactions && count(transactions, 'transaction'),
    ]
      .filter(Boolean)
      .join(' or '),
    daysText({ from, to }, format.value.longDay),
  ]
    .filter(Boolean)
    .join(', ')
const asSpans = (versions: readonly object[]): readonly Span[] => versions as readonly Span[]
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Thresholds">
    <table class="sheet" aria-label="Thresholds">
      <thead>
        <tr>
          <th scope="col">Region</th>
          <th scope="col">Agency</th>
          <th scope="col">Threshold</th>
          <th scope="col" aria-label="Change" />
        </tr>
      </thead>
      <tbody>
        <template v-for="region in view.regions" :key="region.id">
          <tr :data-region="region.id">
            <td class="strong">{{ region.name }}</td>
            <td class="soft">{{ region.agency ?? 'none' }}</td>
            <td class="wide">{{ region.versions.map(sayThreshold).join('; ') || 'none known' }}</td>
            <td class="acts">
              <button
                v-if="may"
                class="plain"
                type="button"
                :aria-label="`Change the threshold of ${region.name}`"
                @click="editing = editing === `t ${region.id}` ? null : `t ${region.id}`"
              >
                change
              </button>
            </td>
          </tr>
          <tr v-if="editing === `t ${region.id}`">
            <td colspan="4" class="form">
              <SpansForm
                :fields="THRESHOLD"
                :spans="asSpans(region.versions)"
                :fresh="{
                  sales: null,
                  currency: view.currency,
                  transactions: null,
                  from: first,
                  to: null,
                }"
                :busy="busy"
                @keep="emit('keep', region.id, $event)"
                @cancel="editing = null"
              />
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
</template>

<style scoped src="./registrations.css"></style>
