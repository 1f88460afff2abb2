<script setup lang="ts">
import type { WithdrawPreview } from '@axion/contract'
import { ref, watch } from 'vue'
import AccountsMoved from '../figures/AccountsMoved.vue'
import { count, useFormat } from '../figures/format.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'

/** Before bookings are taken back out of the ledger: which entries, what moves, and what stays. */
const units = defineModel<readonly string[] | null>({ required: true })
const { api } = useMonth()
const runs = useRuns()
const format = useFormat()
const preview = ref<WithdrawPreview | null>(null)
const refused = ref<Refused | null>(null)
const MOST = 8

watch(units, async (chosen) => {
  preview.value = null
  refused.value = null
  if (!chosen) return
  try {
    preview.value = await call<WithdrawPreview>('POST', `${api.value}/post/withdrawals/preview`, {
      units: chosen,
    })
  } catch (error) {
    refused.value = asRefused(error)
  }
})
async function withdraw(): Promise<void> {
  const seen = preview.value
  units.value = null
  if (seen)
    await runs.start('/post/withdrawals', {
      units: seen.documents.map((d) => d.unit),
      revision: seen.revision,
    })
}
</script>

<template>
  <v-dialog
    :model-value="units !== null"
    max-width="640"
    aria-label="Withdraw"
    @update:model-value="units = null"
  >
    <div class="dialog" data-withdraw>
      <template v-if="preview">
        <h2>Withdraw {{ count(preview.documents.length, 'document') }} from {{ preview.ledger }}</h2>
        <p v-if="preview.documents.length > 0">
          {{
            preview.way === 'void'
              ? 'The ledger voids these entries. They stay in its journal, crossed out:'
              : 'The ledger has no void: each gets an entry for the same amounts on the other side:'
          }}
        </p>
        <table v-if="preview.documents.length > 0" class="sheet">
          <thead>
            <tr>
              <th scope="col">Document</th>
              <th scope="col">Party</th>
              <th scope="col">Entry</th>
              <th scope="col" class="n">Tax, {{ preview.currency }}</th>
              <th scope="col" class="n">Total</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in preview.documents.slice(0, MOST)" :key="d.unit">
              <td class="strong">{{ d.number }}</td>
              <td class="party">{{ d.party }}</td>
              <td>{{ d.entry }}</td>
              <td class="n">{{ format.amount(d.tax) }}</td>
              <td class="n">{{ format.amount(d.total) }}</td>
            </tr>
            <tr v-if="preview.documents.length > MOST">
              <td colspan="5" class="soft">and {{ preview.documents.length - MOST }} more</td>
            </tr>
          </tbody>
        </table>
        <AccountsMoved
          v-if="preview.journal.length > 0"
          :lines="preview.journal"
          :currency="preview.currency"
        />
        <p v-for="kept in preview.kept.slice(0, MOST)" :key="kept.unit" class="breaks">
          {{ kept.number }} stays. {{ kept.why }}
        </p>
        <p class="after">Withdrawn documents stay out until somebody posts them again.</p>
        <div class="actions">
          <button
            v-if="preview.documents.length > 0"
            type="button"
            class="do first"
            autofocus
            data-confirm
            @click="withdraw"
          >
            Withdraw {{ count(preview.documents.length, 'document') }}
          </button>
          <button type="button" class="do" @click="units = null">Leave them booked</button>
        </div>
      </template>
      <template v-else-if="refused">
        <h2>They cannot be withdrawn</h2>
        <p>{{ refused.says }} {{ refused.mend }}</p>
        <div class="actions"><button type="button" class="do" @click="units = null">Close</button></div>
      </template>
      <p v-else class="soft">Working out what would be taken back</p>
    </div>
  </v-dialog>
</template>

<style scoped>
.sheet {
  margin: 10px 0;
}
.party {
  max-width: 200px;
}
.after {
  font-size: 14.5px;
}
</style>
