<script setup lang="ts">
import type { Resting } from '@axion/contract'
import { useRoute } from 'vue-router'
import { count, isNil, useFormat } from './format.ts'

/** What of a proof rests on rates and rules that were seen in systems, and read by nobody in an agency's own text. */
defineProps<{ resting: Resting | null; currency: string }>()
const route = useRoute()
const format = useFormat()
</script>

<template>
  <p v-if="resting" class="beside" data-resting>
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
</template>
