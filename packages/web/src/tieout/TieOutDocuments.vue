<script setup lang="ts">
import type { Selector, TieOutRow, TieOutSums, TieOutView } from '@axion/contract'
import { computed } from 'vue'
import { useEvidence } from '../evidence/useEvidence.ts'
import Amount from '../figures/Amount.vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import VoiceMark from '../figures/VoiceMark.vue'
import ListEnd from '../grid/ListEnd.vue'
import SortHead from '../grid/SortHead.vue'
import { NARROWING, type List } from '../grid/useList.ts'
import { useRows } from '../grid/useRows.ts'
import { markOf } from './leads.ts'

/** Documents with their three voices, a line for each agency and account, and what is not proved of each. */
const { list } = defineProps<{ list: List<TieOutView, TieOutRow, TieOutSums> }>()
const evidence = useEvidence()
const format = useFormat()
const { view, sums, query } = list
/** Proved lines of documents that are not can be folded away. */
const folded = computed(() => query('fold') === 'yes')
const rows = computed(() => {
  if (!folded.value) return list.rows.value
  const open = list.rows.value.filter(
    (row) => !row.posted || row.proved || !isNil(row.unproved) || row.unprovedAlone,
  )
  return open.map((row, at) => ({ ...row, first: open[at - 1]?.unit !== row.unit }))
})
const documents = computed(() => new Set(list.rows.value.map((row) => row.unit)).size)
const order = (name: string): { name: string; sort: string | undefined; down: string | undefined } => ({
  name,
  sort: query('sort'),
  down: query('down'),
})
const SETTLED: Readonly<Record<NonNullable<TieOutRow['settled']>, string>> = {
  kept: 'kept',
  cured: 'given back',
}
function stateOf(row: TieOutRow): {
  readonly state: 'holds' | 'breaks' | 'open' | 'asks'
  readonly word: string
} {
  if (!row.posted) return { state: 'open', word: 'not posted yet' }
  if (row.proved) return { state: 'holds', word: 'proved' }
  if (row.settled) return { state: 'asks', word: SETTLED[row.settled] }
  return { state: markOf(row.headline), word: row.facets.join(', ') }
}
const keyOf = (row: TieOutRow): string => `${row.unit}|${row.agency ?? ''}|${row.account ?? ''}`
const { chosen, choose } = useRows(
  () => rows.value,
  keyOf,
  (row) =>
    evidence.show(
      isNil(row.unproved)
        ? { of: 'tax', voice: 'expected', ...where(row) }
        : { of: 'unproved', ...where(row) },
    ),
)
const where = (row: TieOutRow): Pick<Selector, 'unit' | 'agency' | 'account'> => ({
  unit: row.unit,
  agency: row.agency ?? '',
  account: row.account ?? '',
})

/** What the list is filtered to: its totals open to the same. Where it is narrowed further, they stand by themselves. */
const further = computed(
  () =>
    ['settled', 'own-word', 'overridden'].includes(query('show') ?? '') ||
    NARROWING.some((name) => name !== 'search' && query(name) !== undefined),
)
const opens = (of: Selector): Selector | null => (further.value ? null : { ...of, ...shown.value })
const shown = computed((): Partial<Selector> => ({
  ...(query('cause')
    ? { cause: query('cause') }
    : query('show') === 'not-posted'
      ? { notPosted: 'all' }
      : query('show')
        ? {}
        : { only: 'unproved' }),
  ...(query('search') ? { search: query('search') } : {}),
}))
</script>

<template>
  <div v-if="view" class="scroll" tabindex="0" role="region" aria-label="Documents">
    <table class="sheet documents" aria-label="Documents">
      <thead>
        <tr>
          <SortHead v-bind="order('number')" @sort="list.sortBy">Document</SortHead>
          <SortHead v-bind="order('date')" @sort="list.sortBy">Date</SortHead>
          <SortHead v-bind="order('party')" @sort="list.sortBy">Party</SortHead>
          <th scope="col">Agency</th>
          <th scope="col">Account</th>
          <th scope="col" class="n"><VoiceMark voice="stated" />Stated, {{ view.currency }}</th>
          <th scope="col" class="n"><VoiceMark voice="expected" />Expected</th>
          <th scope="col" class="n"><VoiceMark voice="booked" />Booked</th>
          <SortHead v-bind="order('open')" n @sort="list.sortBy">Not proved</SortHead>
          <SortHead v-bind="order('state')" @sort="list.sortBy">Finding</SortHead>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(row, at) in rows"
          :key="keyOf(row)"
          :class="{ chosen: at === chosen, further: !row.first }"
          @click="choose(at)"
        >
          <td class="strong number">{{ row.first ? row.number : '' }}</td>
          <td class="soft day">{{ row.first ? format.day(row.date) : '' }}</td>
          <td class="party" :title="row.party">{{ row.first ? row.party : '' }}</td>
          <td class="agency" :title="row.agencyName ?? ''">
            {{
              row.agencyName ??
              (isNil(row.booked ?? '0') && row.stated === null && row.expected === null
                ? 'no tax'
                : 'no agency')
            }}
          </td>
          <td class="soft account">{{ row.account }}</td>
          <td class="n voice stated" data-voice="stated">
            <Amount
              v-if="row.stated !== null || row.expected !== null"
              :value="row.stated"
              :of="{ of: 'tax', voice: 'stated', ...where(row) }"
            />
          </td>
          <td class="n voice expected" data-voice="expected">
            <Amount
              :value="row.known === 'no' ? null : (row.expected ?? '0')"
              :of="{ of: 'tax', voice: 'expected', ...where(row) }"
              silence="not known"
            />
            <em v-if="row.known === 'partly' && row.first" class="faint" title="A line of it is not decided">
              in part</em
            >
          </td>
          <td class="n voice booked" data-voice="booked">
            <Amount
              :value="row.bookedUnnamed && isNil(row.booked ?? '0') ? null : row.booked"
              :of="{ of: 'tax', voice: 'booked', ...where(row) }"
              :silence="row.bookedUnnamed ? 'no agency' : 'not booked'"
            />
          </td>
          <td class="n open">
            <Amount v-if="row.posted" :value="row.unproved" :of="{ of: 'unproved', ...where(row) }" breaks />
          </td>
          <td class="finding">
            <StateMark v-if="row.first" v-bind="stateOf(row)" />
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="5">
            {{ sums ? count(sums.documents, 'document') : list.counting.value ? 'Counting' : 'Not counted' }}
          </td>
          <td class="n">
            <Amount v-if="sums" :value="sums.stated" :of="opens({ of: 'tax', voice: 'stated' })" />
          </td>
          <td class="n">
            <Amount v-if="sums" :value="sums.expected" :of="opens({ of: 'tax', voice: 'expected' })" />
          </td>
          <td class="n">
            <Amount v-if="sums" :value="sums.booked" :of="opens({ of: 'tax', voice: 'booked' })" />
          </td>
          <td class="n">
            <Amount v-if="sums" :value="sums.unproved" :of="opens({ of: 'unproved' })" breaks />
          </td>
          <td />
        </tr>
      </tfoot>
    </table>
    <ListEnd
      :shown="documents"
      :total="sums?.documents ?? null"
      :more="list.hasMore.value"
      one="document"
      :reading="list.reading.value"
      @more="list.more"
    />
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  min-height: 180px;
}
.party {
  max-width: 190px;
}
.further td {
  border-top-color: transparent;
}
/* On a narrow page a document is a card, and each agency of it three voices under their names. */
@media (max-width: 760px) {
  .documents tfoot {
    display: block;
  }
  .documents thead {
    display: none;
  }
  .documents tbody tr {
    grid-template:
      'number number finding' auto
      'party party day' auto
      'agency account open' auto
      'stated expected booked' auto / minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1fr);
    border-top: 1px solid var(--rule);
  }
  .documents tbody tr.further {
    border-top: 0;
    grid-template:
      'agency account open' auto
      'stated expected booked' auto / minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1fr);
  }
  .documents .further :is(.number, .day, .party, .finding) {
    display: none;
  }
  .documents tbody .voice {
    text-align: left;
  }
  .documents .voice::before {
    content: attr(data-voice);
    display: block;
    font-size: 12px;
    color: var(--soft);
  }
  .documents :is(.day, .finding, .open) {
    text-align: right;
  }
  .documents :is(.agency, .finding) {
    white-space: normal;
  }
  .documents tfoot tr {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 2px 8px;
    padding: 6px 8px;
    border-top: 2px solid var(--rule);
  }
  .documents tfoot td:first-child {
    grid-column: 1 / -1;
  }
  .number {
    grid-area: number;
  }
  .day {
    grid-area: day;
  }
  .party {
    grid-area: party;
  }
  .agency {
    grid-area: agency;
  }
  .account {
    grid-area: account;
  }
  .stated {
    grid-area: stated;
  }
  .expected {
    grid-area: expected;
  }
  .booked {
    grid-area: booked;
  }
  .open {
    grid-area: open;
  }
  .finding {
    grid-area: finding;
  }
}
</style>
