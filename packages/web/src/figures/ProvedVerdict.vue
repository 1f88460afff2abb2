<script setup lang="ts">
import type { KeptSums, MonthResting, NotFresh, NotPosted, Selector } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import Amount from './Amount.vue'
import { count, isNil, useFormat } from './format.ts'
import KeptNote from './KeptNote.vue'
import NotPostedNote from './NotPostedNote.vue'
import RestingNote from './RestingNote.vue'
import { useMonth } from '../shell/month.ts'
import { exceeds } from './sums.ts'

/**
 * What is proved of a month, in one sentence. It says Yes of nothing that was not looked at: untaxed sales, documents that are open
 * with no money, and systems that could not be read stand in it.
 */
const props = defineProps<{
  view: {
    readonly currency: string
    readonly unproved: string
    readonly unprovedNet: string
    readonly expected: string
    readonly documents: number
    readonly notFresh: readonly NotFresh[]
    readonly causes: readonly unknown[]
    readonly kept: KeptSums
    readonly notPosted: NotPosted
    readonly resting: MonthResting | null
  }
  /** How many are proved, where the page says so. */
  proved?: number
}>()
const route = useRoute()
const format = useFormat()
const { path } = useMonth()
const taxed = computed(() => isNil(props.view.unproved))
const sold = computed(() => isNil(props.view.unprovedNet))
/** Figures that are older than what they rest on prove nothing of it. */
const older = computed(() => path.value?.connect.limits.older ?? null)
const whole = computed(
  () =>
    taxed.value &&
    sold.value &&
    props.view.documents === 0 &&
    props.view.notFresh.length === 0 &&
    older.value === null,
)
/** Differences that are kept or given back are no proof: a Yes says that they are there. */
const apart = computed(() => props.view.kept.kept + props.view.kept.cured > 0)
/** Nor is it said of what is not posted so far. */
const more = computed(() => props.view.notPosted.sold.documents + props.view.notPosted.bought.documents > 0)
/** What systems agree upon may be wrong in all of them alike: then it is a Yes to what they say. */
const yes = computed(() => {
  if (apart.value) return 'Yes, but for what stands apart.'
  if (more.value) return 'Yes, of what is posted.'
  return props.view.resting === null ? 'Yes.' : 'Yes, as the systems have it.'
})
const NOT_PROVED: Selector = { of: 'unproved' }
</script>

<template>
  <p class="verdict" data-verdict>
    <template v-if="whole"
      ><strong>{{ yes }}</strong>
      {{ apart ? 'Of' : 'All of' }}
      <Amount :value="view.expected" :of="{ of: 'tax', voice: 'expected' }" />
      {{ view.currency }}{{ apart ? ', nothing is unexplained' : ' is proved' }}</template
    >
    <template v-else-if="!taxed">
      <strong><Amount :value="view.unproved" :of="NOT_PROVED" /></strong>
      {{ exceeds(view.unproved, view.expected) ? `${view.currency} not proved, beside` : 'of' }}
      <Amount :value="view.expected" :of="{ of: 'tax', voice: 'expected' }" />
      {{ exceeds(view.unproved, view.expected) ? 'that is expected' : `${view.currency} not proved` }}:
      {{ count(view.documents, 'document') }}, {{ count(view.causes.length, 'cause') }}
    </template>
    <template v-else-if="!sold"
      ><strong>Not yet.</strong> No tax is astray, and
      <Amount :value="view.unprovedNet" :of="{ of: 'unproved-net' }" breaks /> {{ view.currency }} of untaxed
      sales are not proved: {{ count(view.documents, 'document') }}</template
    >
    <template v-else-if="view.documents > 0"
      ><strong>Not yet.</strong> No money is astray, and {{ count(view.documents, 'document') }}
      {{ view.documents === 1 ? 'is' : 'are' }} not proved</template
    >
    <template v-else
      ><strong>Not known.</strong> All of
      <Amount :value="view.expected" :of="{ of: 'tax', voice: 'expected' }" /> {{ view.currency }} was proved
      before</template
    >
    <template v-if="!taxed && !sold"
      >; <Amount :value="view.unprovedNet" :of="{ of: 'unproved-net' }" breaks /> of untaxed sales not
      proved</template
    >
    <template v-if="proved !== undefined">{{
      whole ? `: ${count(proved, 'document')}` : `; ${proved} proved`
    }}</template>
  </p>
  <NotPostedNote :not-posted="view.notPosted" :currency="view.currency" />
  <KeptNote :kept="view.kept" :currency="view.currency" />
  <RestingNote :resting="view.resting" :currency="view.currency" />
  <p v-for="one in view.notFresh" :key="one.system" class="note bad stale" role="alert" data-stale>
    <b>{{ one.system }} could not be read {{ format.instant(one.failedAt) }}.</b> {{ one.says }}
    {{ one.mend }}
    {{
      one.since === null
        ? 'Nothing of it was ever read.'
        : `What stands here of it is from ${format.instant(one.since)}.`
    }}
    <RouterLink :to="{ name: 'connect', params: route.params }">To Connect</RouterLink>
  </p>
</template>

<style scoped>
.stale {
  margin: 6px 0 0;
}
</style>
