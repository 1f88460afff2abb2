<script setup lang="ts">
import type { ConnectView, SystemRole } from '@axion/contract'
import { count, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'

/** What comes from a system, stream by stream, and which of them is silent. */
defineProps<{ system: ConnectView['systems'][number] }>()
const format = useFormat()
const SILENT_SALES = 'See whether it sold nothing, or whether its sales do not come through.'
/** What a silence asks, by the role of the system. */
const SILENT: Readonly<Record<SystemRole, string>> = {
  ledger: 'See whether nothing was booked, or whether its entries do not come through.',
  billing: SILENT_SALES,
  pos: SILENT_SALES,
  commerce: SILENT_SALES,
  purchasing: 'See whether nothing was bought, or whether its bills do not come through.',
  payments: 'See whether nothing was paid, or whether its settlements do not come through.',
  bank: 'See whether nothing moved, or whether its lines do not come through.',
  'tax-service': 'See whether it was told of nothing, or whether what it keeps does not come through.',
}
</script>

<template>
  <table class="sheet streams" :aria-label="`What ${system.name} sent`">
    <tbody>
      <tr
        v-for="stream in system.streams"
        :key="stream.name"
        :data-stream="stream.name"
        :class="{ failing: stream.silence }"
      >
        <td class="state">
          <StateMark
            :state="stream.silence ? 'breaks' : 'holds'"
            :word="stream.silence ? 'silent' : 'sends'"
          />
        </td>
        <td class="check">
          <span :class="{ strong: stream.silence }">{{ stream.name || system.name }}</span>{{ ' ' }}
          <span class="soft"
            >{{
              count(
                stream.documents,
                system.role === 'payments' ? 'settlement' : system.role === 'bank' ? 'line' : 'document',
              )
            }}
            in the month</span
          >
          <p v-if="stream.silence" class="why">
            Nothing since {{ format.day(stream.silence.since) }}, for {{ count(stream.silence.days, 'day') }};
            on such days it usually has
            {{
              stream.silence.least === stream.silence.most
                ? stream.silence.least
                : `${stream.silence.least} to ${stream.silence.most}`
            }}. <b>{{ SILENT[system.role] }}</b>
          </p>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped src="./rows.css"></style>

<style scoped>
.streams {
  margin-top: 8px;
}
</style>
