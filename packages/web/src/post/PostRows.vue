<script setup lang="ts">
import type { PostRow } from '@axion/contract'
import Amount from '../figures/Amount.vue'
import { useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { MARK, WORD } from './words.ts'

/** Documents to post, a row each. */
defineProps<{
  rows: readonly PostRow[]
  chosen: number
  picked: ReadonlySet<string>
  selectable: (row: PostRow) => boolean
}>()
defineEmits<{ choose: [at: number]; pick: [row: PostRow] }>()
const format = useFormat()
</script>

<template>
  <tbody>
    <tr
      v-for="(r, at) in rows"
      :key="r.unit"
      :class="{ chosen: at === chosen }"
      :data-number="r.number"
      :data-state="r.state"
      @click="$emit('choose', at)"
    >
      <td class="pick">
        <input
          v-if="selectable(r)"
          type="checkbox"
          :checked="picked.has(r.unit)"
          :aria-label="`Select ${r.number}`"
          @click.stop
          @change="$emit('pick', r)"
        />
      </td>
      <td
        class="strong number"
        :title="r.kind === 'credit-note' ? `Credit note ${r.number}` : `Invoice ${r.number}`"
      >
        {{ r.number }}
      </td>
      <td class="soft day">{{ format.day(r.date) }}</td>
      <td class="party" :title="r.party">{{ r.party }}</td>
      <td class="n tax">
        <Amount :value="r.tax" :of="{ of: 'tax', voice: 'stated', unit: r.unit }" />
      </td>
      <td class="n total">
        <span v-if="r.foreign" class="soft foreign"
          >{{ format.amount(r.foreign.total) }} {{ r.foreign.currency }}</span
        >{{ ' ' }}
        <Amount :value="r.total" :of="{ of: 'total', unit: r.unit }" />
      </td>
      <td class="state"><StateMark :state="MARK[r.state]" :word="WORD[r.state]" /></td>
      <td class="why" :title="r.reason?.says ?? r.remarks.map((m) => m.says).join(' ')">
        <span v-if="r.reason" class="breaks">{{ r.reason.says }}</span><span
          v-else-if="r.remarks[0]"
          :class="{ breaks: r.remarks[0].blocks }"
          >{{ r.remarks[0].says }}</span
        >
      </td>
    </tr>
  </tbody>
</template>

<style scoped>
.pick {
  width: 30px;
}
.party {
  max-width: 220px;
}
.why {
  max-width: 340px;
}
.foreign {
  font-size: 12.5px;
  margin-right: 6px;
}
/* On a narrow page a document is a card: its number and tax, whose and how much in all, when and how it stands, and what to know. */
@media (max-width: 760px) {
  tr {
    grid-template:
      'pick number tax' auto
      '.    party  total' auto
      '.    state  day' auto
      '.    why    why' auto / 26px minmax(0, 1fr) auto;
    border-bottom: 1px solid var(--rule);
  }
  .why {
    white-space: normal;
  }
  .day {
    text-align: right;
  }
  .pick {
    grid-area: pick;
  }
  .number {
    grid-area: number;
  }
  .tax {
    grid-area: tax;
  }
  .party {
    grid-area: party;
  }
  .total {
    grid-area: total;
  }
  .state {
    grid-area: state;
  }
  .day {
    grid-area: day;
  }
  .why {
    grid-area: why;
  }
}
</style>
