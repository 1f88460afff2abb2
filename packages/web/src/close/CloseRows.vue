<script setup lang="ts">
import type { CloseRow, CloseView } from '@axion/contract'
import { computed } from 'vue'
import Amount from '../figures/Amount.vue'
import { count, isNil } from '../figures/format.ts'
import Joint from '../figures/Joint.vue'
import { subtract } from '../figures/sums.ts'
import VoiceMark from '../figures/VoiceMark.vue'
import { keyOf, of } from './rows.ts'

/** Stated, expected and booked side by side, a row an agency and liability account, with what is not proved. */
const props = defineProps<{ view: CloseView; chosen: number; currency: string }>()
const emit = defineEmits<{ choose: [at: number] }>()
const rows = computed(() => props.view.rows)
const statedGap = (row: CloseRow): string =>
  row.stated === null ? '0' : subtract(subtract(row.expected, row.unsplit), row.stated)
</script>

<template>
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
        @click="emit('choose', index)"
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
          <Amount :value="row.booked" :of="of(row, { of: 'tax', voice: 'booked' })" silence="not pulled" />
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
/* On a narrow page a row is a card: what is not proved first, then whose it is, then the voices side by side. */
@media (max-width: 760px) {
  .voices,
  .voices tbody,
  .voices tfoot {
    display: block;
  }
  .voices thead,
  .voices .gap,
  .voices tfoot td:not([data-label]) {
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
</style>
