<script setup lang="ts">
import type { RegistrationsView, ThresholdDraft } from '@axion/contract'
import { count, useFormat } from '../../figures/format.ts'
import type { Span } from './SpansForm.vue'
import SpansSheet from './SpansSheet.vue'
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
</script>

<template>
  <SpansSheet
    v-slot="{ row }"
    v-model:editing="editing"
    label="Thresholds"
    of="region"
    :heads="[{ title: 'Region' }, { title: 'Agency' }, { title: 'Threshold' }]"
    :rows="view.regions"
    :fields="THRESHOLD"
    :fresh="() => ({ sales: null, currency: view.currency, transactions: null, from: first, to: null })"
    :says="({ name }) => `Change the threshold of ${name}`"
    :may="may"
    :busy="busy"
    @keep="(id, spans) => emit('keep', id, spans)"
  >
    <td class="strong">{{ row.name }}</td>
    <td class="soft">{{ row.agency ?? 'none' }}</td>
    <td class="wide">{{ row.versions.map(sayThreshold).join('; ') || 'none known' }}</td>
  </SpansSheet>
</template>
