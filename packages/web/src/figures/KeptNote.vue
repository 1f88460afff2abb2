<script setup lang="ts">
import type { KeptSums } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { count, isNil, useFormat } from './format.ts'

/** What stands apart of a month, in one line: it is neither proved nor part of what is not. */
const props = defineProps<{ kept: KeptSums; currency: string }>()
const route = useRoute()
const format = useFormat()
const parts = computed(() =>
  [
    isNil(props.kept.over)
      ? ''
      : `${format.value.amount(props.kept.over)} ${props.currency} charged too much`,
    isNil(props.kept.under)
      ? ''
      : `${format.value.amount(props.kept.under)} ${props.currency} charged too little`,
  ].filter(Boolean),
)
const settled = computed(() => props.kept.kept + props.kept.cured)
</script>

<template>
  <p v-if="settled + kept.waiting > 0" class="beside" data-apart>
    <template v-if="settled > 0"
      >Apart from that, {{ count(settled, 'document') }}: {{ parts.join(' and ') || 'nil'
      }}{{ parts.length > 0 ? ',' : '' }}
      {{
        [kept.kept > 0 ? `${kept.kept} kept` : '', kept.cured > 0 ? `${kept.cured} given back` : '']
          .filter(Boolean)
          .join(', ')
      }}.{{ ' ' }}</template
    >
    <template v-if="kept.waiting > 0"
      >{{ kept.waiting }} to be kept {{ kept.waiting === 1 ? 'waits' : 'wait' }} for a review.{{
        ' '
      }}</template
    >
    <RouterLink :to="{ name: 'tie-out', params: route.params, query: { apart: 'yes' } }">See them</RouterLink>
  </p>
</template>
