<script setup lang="ts">
import type { CollectingView } from '@axion/contract'
import Amount from '../../figures/Amount.vue'
import { count, isNil, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import SpansForm, { type Span } from './SpansForm.vue'
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
const formOf = (id: string): string => `c ${id}`
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Who collects">
    <table class="sheet" aria-label="Who collects">
      <thead>
        <tr>
          <th scope="col">Where it sells</th>
          <th scope="col">Documents</th>
          <th scope="col" class="n">Sold, {{ view.currency }}</th>
          <th scope="col" class="n">Charged by us, {{ view.currency }}</th>
          <th scope="col">Who collects</th>
          <th scope="col">State</th>
          <th scope="col" aria-label="Change" />
        </tr>
      </thead>
      <tbody>
        <template v-for="row in view.rows" :key="row.id">
          <tr :data-place="row.id" :data-standing="row.standing">
            <td class="strong" :title="row.name">{{ row.name }}</td>
            <td>{{ sold(row) }}</td>
            <td class="n"><Amount :value="row.net" /></td>
            <td class="n"><Amount :value="row.charged" :breaks="row.standing === 'charged'" /></td>
            <td class="wide" :title="says(row)">{{ says(row) }}</td>
            <td>
              <StateMark
                :state="COLLECTING_MARKS[row.standing].state"
                :word="COLLECTING_MARKS[row.standing].word"
              />
            </td>
            <td class="acts">
              <button
                v-if="may"
                class="plain"
                type="button"
                :aria-label="`Say who collects in ${row.name}`"
                @click="editing = editing === formOf(row.id) ? null : formOf(row.id)"
              >
                {{ row.versions.length === 0 ? 'say' : 'change' }}
              </button>
            </td>
          </tr>
          <tr v-if="editing === formOf(row.id)">
            <td colspan="7" class="form">
              <SpansForm
                :fields="FIELDS"
                :spans="row.versions as readonly Span[]"
                :fresh="{ answer: row.registered ? 'we' : null, why: null, from: first, to: null }"
                :busy="busy"
                @keep="emit('keep', row.id, $event)"
                @cancel="editing = null"
              />
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
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

<style scoped src="./registrations.css"></style>
