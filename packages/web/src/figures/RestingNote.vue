<script setup lang="ts">
import type { MonthResting, TieOutSums } from '@axion/contract'
import { useRoute } from 'vue-router'
import { useMonth } from '../shell/month.ts'
import { useReading } from '../shell/reading.ts'
import { count, isNil, useFormat } from './format.ts'

/**
 * What of a proof rests on what nobody checked: rates and rules that were seen in systems, and documents that stand on the word of their own
 * source, since what they are held against was read in that source alone, or is decided by its flags.
 */
const props = defineProps<{ resting: MonthResting | null; currency: string }>()
const route = useRoute()
const format = useFormat()
const { api } = useMonth()
const { view: own } = useReading<TieOutSums>(() =>
  props.resting?.ownWord === true ? `${api.value}/tie-out/sums?show=own-word` : null,
)
</script>

<template>
  <p v-if="resting && resting.things > 0" class="beside" data-resting>
    {{ count(resting.things, 'rate or rule', 'rates and rules') }} seen in systems
    {{ resting.things === 1 ? 'is' : 'are' }} checked by nobody<template v-if="!isNil(resting.tax)"
      >: {{ format.amount(resting.tax) }} {{ currency }} of it rests on
      {{ resting.things === 1 ? 'that' : 'them'
      }}<template v-if="!isNil(resting.alone)"
        >, {{ format.amount(resting.alone) }} on the word of one system alone</template
      ></template
    >.
    <RouterLink :to="{ name: 'decisions', params: route.params, hash: '#seen' }">Check them</RouterLink>
  </p>
  <p v-if="own && own.documents > 0" class="beside" data-own-word>
    {{ count(own.documents, 'document stands', 'documents stand') }} on the word of
    {{ own.documents === 1 ? 'its' : 'their' }} own source, confirmed by nobody:
    {{ format.amount(own.expected) }} {{ currency }} of tax is expected of
    {{ own.documents === 1 ? 'it' : 'them' }}.
    <RouterLink :to="{ name: 'tie-out', params: route.params, query: { show: 'own-word' } }"
      >See {{ own.documents === 1 ? 'it' : 'them' }}</RouterLink
    >
  </p>
</template>
