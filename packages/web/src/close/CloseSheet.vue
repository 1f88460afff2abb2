<script setup lang="ts">
import type { CloseRow, CloseView, Selector } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRouter, useRoute } from 'vue-router'
import { useEvidence } from '../evidence/useEvidence.ts'
import Amount from '../figures/Amount.vue'
import FallingNumber from '../figures/FallingNumber.vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import Joint from '../figures/Joint.vue'
import NotPostedNote from '../figures/NotPostedNote.vue'
import ProvedVerdict from '../figures/ProvedVerdict.vue'
import VoiceMark from '../figures/VoiceMark.vue'
import { useRows } from '../grid/useRows.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import { useView } from '../shell/useView.ts'
import { subtract } from '../figures/sums.ts'

const { view, refused, loading } = useView<CloseView>(() => '/close')
const { entity, month } = useMonth()
const evidence = useEvidence()
const runs = useRuns()
const router = useRouter()
const route = useRoute()
const format = useFormat()
const cause = ref(-1)

const rows = computed(() => view.value?.rows ?? [])
const keyOf = (row: CloseRow): string => `${row.agency ?? ''}|${row.account ?? ''}`
const at = (row: CloseRow): { agency: string; account: string } => ({
  agency: row.agency ?? '',
  account: row.account ?? '',
})
const of = (row: CloseRow, selector: Selector): Selector => ({ ...selector, ...at(row) })
const { chosen, choose } = useRows(
  () => rows.value,
  keyOf,
  (row) => {
    evidence.show(
      isNil(row.unproved) ? of(row, { of: 'tax', voice: 'expected' }) : of(row, { of: 'unproved' }),
    )
  },
)
function nextCause(): void {
  const causes = view.value?.causes ?? []
  if (causes.length === 0) return
  cause.value = (cause.value + 1) % causes.length
  const next = causes[cause.value]
  if (next)
    evidence.show({
      of: 'unproved',
      unit: next.unit,
      ...(next.agency === null ? {} : { agency: next.agency }),
    })
}
useKeys(() => [
  { key: 'n', does: 'next cause, largest money first', act: nextCause },
  {
    key: 'm',
    does: 'mend the cause, in Tie out',
    act: () =>
      void router.push({
        name: 'tie-out',
        params: route.params,
        query: { cause: view.value?.causes[Math.max(cause.value, 0)]?.key },
      }),
  },
])
const statedGap = (row: CloseRow): string =>
  row.stated === null ? '0' : subtract(subtract(row.expected, row.unsplit), row.stated)
/** Nobody can say that tax is proved before what was charged and what was booked have both been pulled. */
const known = computed(
  () => view.value !== null && view.value.pulledAt !== null && view.value.awaits.length === 0,
)
const nothing = computed(
  () =>
    view.value !== null &&
    view.value.documents === 0 &&
    [
      view.value.unproved,
      view.value.unprovedNet,
      view.value.totals.stated,
      view.value.totals.expected,
      view.value.totals.booked,
    ].every(isNil),
)
const hasMore = computed(
  () =>
    view.value !== null && view.value.notPosted.sold.documents + view.value.notPosted.bought.documents > 0,
)
const currency = computed(() => view.value?.currency ?? entity.value.currency)
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Does every document’s tax sit in the right liability account?</p>
        <p v-if="view && known && nothing && view.notFresh.length === 0" class="verdict" data-verdict>
          <strong>{{ hasMore ? 'Nothing to prove of what is posted.' : 'Nothing to prove.' }}</strong>
          {{ hasMore ? 'Nothing of it' : 'No tax was' }} stated, expected or booked
          {{ hasMore ? 'tax ' : '' }}in {{ format.month(month) }}
        </p>
        <NotPostedNote
          v-if="view && known && nothing && view.notFresh.length === 0"
          :not-posted="view.notPosted"
          :currency="view.currency"
        />
        <ProvedVerdict v-if="view && known && !(nothing && view.notFresh.length === 0)" :view="view" />
        <p v-else-if="view && !known" class="verdict">
          <strong>Not known yet.</strong>
          {{
            view.pulledAt === null
              ? `Nothing was pulled for ${format.month(month)}`
              : `${view.awaits.join(' and ')} ${view.awaits.length === 1 ? 'has' : 'have'} not been pulled`
          }}
        </p>
        <p v-else-if="!view" class="verdict">
          <strong>{{ loading ? 'Reading' : 'Not known' }}</strong>
        </p>
      </div>
      <FallingNumber v-if="view" :history="view.history" />
    </div>
    <p v-if="refused" class="note bad" role="alert">{{ refused.says }} {{ refused.mend }}</p>
    <div v-if="view && !known" class="empty">
      <strong>Pull the systems first</strong>
      <p>
        Then stated, expected and booked stand side by side here, one row an agency and liability account.
      </p>
      <p style="margin-top: 14px">
        <button class="do first" type="button" @click="runs.start('/pulls', { systemIds: null })">
          Pull all systems
        </button>
      </p>
    </div>
    <div v-else-if="view" class="wide">
      <table class="sheet voices" aria-label="Close sheet">
        <thead>
          <tr>
            <th scope="col">Agency</th>
            <th scope="col">Liability account</th>
            <th scope="col" class="n"><VoiceMark voice="stated" />Stated, {{ currency }}</th>
            <td class="gap" />
            <th scope="col" class="n"><VoiceMark voice="expected" />Expected</th>
            <td class="gap" />
            <th scope="col" class="n"><VoiceMark voice="booked" />Booked</th>
            <td class="gap" />
            <th scope="col" class="n">Account balance</th>
            <th scope="col" class="n">Not proved</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(row, index) in rows"
            :key="keyOf(row)"
            :class="{ chosen: index === chosen }"
            @click="choose(index)"
          >
            <td class="strong" :title="row.agencyName">{{ row.agencyName }}</td>
            <td class="soft" :title="row.accountName">{{ row.account }} {{ row.accountName }}</td>
            <td class="n" data-label="Stated">
              <Amount :value="row.stated" :of="of(row, { of: 'tax', voice: 'stated' })" />
            </td>
            <td class="gap">
              <Joint
                :gap="statedGap(row)"
                :apart="row.statedApart"
                :of="of(row, { of: 'gap', voice: 'expected', against: 'stated' })"
                :silent="
                  row.agency === null || row.stated === null || (!isNil(row.unsplit) && isNil(statedGap(row)))
                "
                :words="row.agency === null && isNil(row.stated ?? '0') ? '' : 'no split'"
              />
            </td>
            <td class="n" data-label="Expected">
              <Amount :value="row.expected" :of="of(row, { of: 'tax', voice: 'expected' })" />
            </td>
            <td class="gap">
              <Joint
                :gap="row.booked === null ? '0' : subtract(row.booked, row.expected)"
                :apart="row.bookedApart"
                :of="of(row, { of: 'gap', voice: 'booked', against: 'expected' })"
                :silent="row.booked === null || (row.agency === null && isNil(row.booked))"
              />
            </td>
            <td class="n" data-label="Booked">
              <Amount
                :value="row.booked"
                :of="of(row, { of: 'tax', voice: 'booked' })"
                silence="not pulled"
              />
            </td>
            <td class="gap">
              <Joint
                :gap="row.balanceGap"
                :of="{ of: 'gap', voice: 'booked', against: 'balance', account: row.account ?? '' }"
                :silent="row.balance === null"
              />
            </td>
            <td class="n" data-label="Balance">
              <span v-if="row.balance === null && row.booked !== null" class="faint">{{
                row.account === null ? '' : 'as above'
              }}</span>
              <Amount
                v-else
                :value="row.balance"
                :of="{ of: 'balance', account: row.account ?? '' }"
                silence="not pulled"
              />
            </td>
            <td class="n open" data-label="Not proved">
              <Amount :value="row.unproved" :of="of(row, { of: 'unproved' })" breaks />
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td>
              {{ count(new Set(rows.map((r) => r.agency).filter(Boolean)).size, 'agency', 'agencies') }}
            </td>
            <td>{{ count(new Set(rows.map((r) => r.account).filter(Boolean)).size, 'account') }}</td>
            <td class="n" data-label="Stated">
              <Amount :value="view.totals.stated" :of="{ of: 'tax', voice: 'stated' }" />
            </td>
            <td />
            <td class="n" data-label="Expected">
              <Amount :value="view.totals.expected" :of="{ of: 'tax', voice: 'expected' }" />
            </td>
            <td />
            <td class="n" data-label="Booked">
              <Amount :value="view.totals.booked" :of="{ of: 'tax', voice: 'booked' }" />
            </td>
            <td />
            <td class="n" data-label="Balance">
              <Amount :value="view.totals.balance" :of="{ of: 'balance' }" />
            </td>
            <td class="n open" data-label="Not proved">
              <Amount :value="view.totals.unproved" :of="{ of: 'unproved' }" breaks />
            </td>
          </tr>
        </tfoot>
      </table>
      <p v-if="view.causes.length > 0" class="keys soft below">
        <kbd>n</kbd> opens the next cause · <kbd>m</kbd> mends it · <kbd>j</kbd> <kbd>k</kbd> move ·
        <kbd>Enter</kbd> opens a row · <kbd>?</kbd> all keys
      </p>
    </div>
  </main>
</template>

<style scoped>
.gap {
  width: 96px;
  padding: 0 2px !important;
}
/* The page's own padding below would hold the pinned totals up, over the last rows. */
.sheet tfoot td {
  bottom: -24px;
}
.below {
  margin-top: 8px;
  font-size: 13px;
}
/* On a narrow page a row is a card: what is not proved first, then whose it is, then the voices side by side. */
@media (max-width: 760px) {
  .voices,
  .voices tbody,
  .voices tfoot {
    display: block;
  }
  .voices thead,
  .voices .gap,
  .voices tfoot td:not([data-label]),
  .keys {
    display: none;
  }
  .voices tr {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    grid-template-areas: 'open whose whose whose' '. account account account' 'a b c d';
    padding: 6px 8px;
    border-bottom: 1px solid var(--rule);
    column-gap: 8px;
  }
  .voices tfoot tr {
    grid-template-areas: 'open . . .' 'a b c d';
  }
  .voices td {
    height: auto;
    max-width: none;
    border: 0;
    padding: 0;
    position: static;
  }
  .voices td:nth-child(1) {
    grid-area: whose;
  }
  .voices td:nth-child(2) {
    grid-area: account;
  }
  .voices td.open {
    grid-area: open;
    text-align: left;
    font-size: 17px;
    font-weight: 700;
  }
  .voices td[data-label]:not(.open) {
    text-align: left;
    font-size: 13.5px;
  }
  .voices td[data-label]:not(.open)::before {
    content: attr(data-label);
    display: block;
    color: var(--soft);
    font-size: 12px;
  }
  .voices td[data-label='Stated'] {
    grid-area: a;
  }
  .voices td[data-label='Expected'] {
    grid-area: b;
  }
  .voices td[data-label='Booked'] {
    grid-area: c;
  }
  .voices td[data-label='Balance'] {
    grid-area: d;
  }
}
kbd {
  border: 1px solid var(--hair);
  border-radius: 2px;
  padding: 0 4px;
  font: inherit;
}
</style>
