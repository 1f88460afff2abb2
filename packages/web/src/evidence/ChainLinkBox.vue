<script setup lang="ts">
import type { ChainLink } from '@axion/contract'
import VoiceMark from '../figures/VoiceMark.vue'
import { useFormat } from '../figures/format.ts'

/** One link of the chain as a small T-account: what it is called, its lines, and what it comes to. */
defineProps<{ link: ChainLink; broken: boolean; base: string }>()
const format = useFormat()
const VOICE = {
  source: 'stated',
  determination: 'expected',
  booking: null,
  ledger: 'booked',
  account: null,
} as const
const NAMES = {
  source: 'Source',
  determination: 'Determination',
  booking: 'Booking',
  ledger: 'Ledger',
  account: 'Account',
} as const
const SILENCE = {
  'not-stated': 'split not stated',
  'not-booked': 'not in the ledger',
  'not-composed': 'not composed',
  'not-known': 'not known',
} as const
</script>

<template>
  <section class="link" :class="{ broken }" :data-link="link.role">
    <header>
      <p class="role">
        <VoiceMark v-if="VOICE[link.role]" :voice="VOICE[link.role] ?? 'stated'" />{{ NAMES[link.role] }}
      </p>
      <h3 :title="link.title">
        <a v-if="link.address" :href="link.address" target="_blank" rel="noreferrer">{{ link.title }}</a>
        <template v-else>{{ link.title }}</template>
      </h3>
      <p class="detail" :title="link.detail">
        {{ link.balance !== null ? `balance ${format.amount(link.balance)}` : link.detail || '\u00a0' }}
      </p>
    </header>
    <div class="account" tabindex="0" role="group" :aria-label="`${NAMES[link.role]}, lines`">
      <template v-for="(line, at) in link.lines" :key="at">
        <span class="debit">{{ line.debit ? format.amount(line.debit) : '' }}</span>
        <span class="credit"
          ><span class="what"
            ><b v-if="line.amiss" class="breaks">{{ line.label }}</b
            ><template v-else>{{ line.label }}</template
            ><small v-if="line.base ?? line.detail"
              >{{ line.base ? format.amount(line.base) : '' }} {{ line.detail
              }}{{ line.inBase ? `, ${format.amount(line.inBase)} ${base} in the books` : '' }}
              {{ line.since ? `since ${format.longDay(line.since)}` : '' }}</small
            ></span
          ><b>{{ line.credit ? format.amount(line.credit) : '' }}</b></span
        >
      </template>
      <span class="debit rest" /><span class="credit rest" />
    </div>
    <p class="sum">
      <span v-if="link.amount !== null"
        >{{ format.amount(link.amount)
        }}<small v-if="link.inBase !== null" class="inbase"
          >{{ format.amount(link.inBase) }} {{ base }}</small
        ></span
      >
      <em v-else>{{ link.silence ? SILENCE[link.silence] : '' }}</em>
    </p>
  </section>
</template>

<style scoped>
.link {
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
header {
  border-bottom: 1.5px solid var(--ink);
  padding-bottom: 3px;
}
.role {
  color: var(--soft);
  font-size: 12.5px;
  font-weight: 600;
}
h3 {
  font-size: 14.5px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.detail {
  color: var(--soft);
  font-size: 12.5px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.account {
  display: grid;
  grid-template-columns: minmax(12px, auto) minmax(0, 1fr);
  align-content: stretch;
  grid-auto-rows: auto;
  flex: 1;
  min-height: 48px;
  overflow-y: auto;
  font-size: 13.5px;
  line-height: 1.2;
}
.debit {
  padding: 4px 6px 2px 0;
  text-align: right;
  border-right: 1.5px solid var(--ink);
}
.credit {
  padding: 4px 0 2px 8px;
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.rest {
  min-height: 10px;
  padding: 0;
}
.what {
  min-width: 0;
  overflow-wrap: anywhere;
}
.what small {
  display: block;
  color: var(--soft);
  font-size: 12px;
}
b {
  font-weight: 400;
  white-space: nowrap;
}
.sum {
  border-top: 1px solid var(--rule);
  text-align: right;
  font-weight: 700;
  padding-top: 3px;
  min-height: 25px;
}
.inbase {
  display: block;
  font-weight: 400;
  font-size: 13px;
  color: var(--soft);
}
.sum em {
  color: var(--faint);
  font-weight: 400;
  font-size: 13px;
}
.broken .sum {
  color: var(--rust);
}
.broken header,
.broken .debit {
  border-color: var(--rust);
}
</style>
