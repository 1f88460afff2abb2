<script setup lang="ts">
import type { NotPosted } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import Amount from './Amount.vue'
import { count } from './format.ts'

/** What of a month is of kinds that are not posted so far: a sum of its own, and no part of what is proved or not proved. */
const props = defineProps<{ notPosted: NotPosted; currency: string }>()
const route = useRoute()
const parts = computed(() =>
  (
    [
      ['sold', 'sale or return', 'sales and returns'],
      ['bought', 'purchase', 'purchases'],
    ] as const
  ).flatMap(([of, one, more]) =>
    props.notPosted[of].documents > 0
      ? [{ of, words: count(props.notPosted[of].documents, one, more), tax: props.notPosted[of].tax }]
      : [],
  ),
)
</script>

<template>
  <p v-if="parts.length > 0" class="beside" data-not-posted>
    Not posted yet, and no part of this:
    <template v-for="(part, at) in parts" :key="part.of"
      >{{ at > 0 ? ', and ' : '' }}{{ part.words }} with
      <Amount :value="part.tax" :of="{ of: 'tax', voice: 'stated', notPosted: part.of }" />
      {{ currency }} of tax</template
    >.
    <RouterLink :to="{ name: 'tie-out', params: route.params, query: { show: 'not-posted' } }"
      >See them</RouterLink
    >
  </p>
</template>
