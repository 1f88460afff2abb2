<script setup lang="ts">
import type { CollectingView } from '@axion/contract'
import Amount from '../../figures/Amount.vue'
import { count, isNil, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import type { Span } from './SpansForm.vue'
import SpansSheet from './SpansSheet.vue'
import { ANSWER_WORDS, COLLECTING_MARKS } from './words.ts'

/** Who collects in each country and region, beside what is sold there: said by somebody, from a day on. */
defineProps<{ view: CollectingView; may: boolean; busy: boolean; first: string }>()
const editing = defineModel<string | null>('editing', { required: true })
const emit = defineEmits<{ keep: [id: string, spans: readonly Span[]] }>()
const format = useFormat()
const FIELDS = [
  { key: 'answer', label: '', options: ['we', 'another', 'nobody'], words: ANSWER_WORDS, needed: true },
  { key: 'why', label: 'because', wide: true },
]
type Row = CollectingView['rows'][number]
/** What is said on the last day of the month, since when and why. */
function says({ answer, by, registered, versions }: Row): string {
  if (answer === null && registered) return 'we collect, as registered'
  if (answer === null) return versions.length === 0 ? '–' : 'not said for this month'
  const own = versions.find((one) => one.answer === answer)
  return [
    ANSWER_WORDS[answer],
    ...(by === null ? [] : [`as in ${by}`]),
    ...(by === null && own ? [`from ${format.value.longDay(own.from)}`] : []),
    ...(by === null && own?.why ? [own.why] : []),
  ].join(', ')
}
const sold = ({ own, marketplace }: Row): string =>
  own + marketplace === 0
    ? '–'
    : marketplace === 0
      ? own.toLocaleString('en-US')
      : `${(own + marketplace).toLocaleString('en-US')}, ${marketplace === own + marketplace ? 'all' : marketplace.toLocaleString('en-US')} by marketplaces`
</script>

<template>
  <SpansSheet
    v-slot="{ row }"
    v-model:editing="editing"
    label="Who collects"
    of="place"
    :heads="[
      { title: 'Where it sells' },
      { title: 'Documents' },
      { title: `Sold, ${view.currency}`, n: true },
      { title: `Charged by us, ${view.currency}`, n: true },
      { title: 'Who collects' },
      { title: 'State' },
    ]"
    :rows="view.rows"
    :fields="FIELDS"
    :fresh="({ registered }) => ({ answer: registered ? 'we' : null, why: null, from: first, to: null })"
    :word="({ versions }) => (versions.length === 0 ? 'say' : 'change')"
    :says="({ name }) => `Say who collects in ${name}`"
    :may="may"
    :busy="busy"
    @keep="(id, spans) => emit('keep', id, spans)"
  >
    <td class="strong" :title="row.name">{{ row.name }}</td>
    <td>{{ sold(row) }}</td>
    <td class="n"><Amount :value="row.net" /></td>
    <td class="n"><Amount :value="row.charged" :breaks="row.standing === 'charged'" /></td>
    <td class="wide" :title="says(row)">{{ says(row) }}</td>
    <td>
      <StateMark :state="COLLECTING_MARKS[row.standing].state" :word="COLLECTING_MARKS[row.standing].word" />
    </td>
  </SpansSheet>
  <p v-if="!isNil(view.unsplit)" class="soft under" data-unsplit>
    Up to {{ format.amount(view.unsplit) }} {{ view.currency }} of a place names no agency that is linked, and
    is counted in each place that its document was sold in.
  </p>
  <p v-if="view.nowhere.documents > 0" class="under" data-nowhere>
    {{ count(view.nowhere.documents, 'document') }} of {{ format.amount(view.nowhere.net) }}
    {{ view.currency }} {{ view.nowhere.documents === 1 ? 'lies' : 'lie' }} in no country or region of the
    baseline:
    <RouterLink :to="{ name: 'baseline', params: { kind: 'jurisdictions' } }">see where they went</RouterLink
    >.
  </p>
</template>

<style scoped>
.under {
  margin: 6px 0 0;
  font-size: 14px;
}
</style>
