<script setup lang="ts">
import type { SaleView } from '@axion/contract'
import { isNil, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import VoiceMark from '../../figures/VoiceMark.vue'

/** A sale that is thought of: each component with its reasons, and what the systems' set-ups come to beside it. */
defineProps<{ view: SaleView }>()
const format = useFormat()
type System = SaleView['systems'][number]
const stateOf = ({ tax, gap }: System): 'open' | 'holds' | 'breaks' =>
  tax === null ? 'open' : gap !== null && isNil(gap) ? 'holds' : 'breaks'
const wordOf = (system: System): string => {
  const state = stateOf(system)
  return state === 'open' ? 'does not say' : state === 'holds' ? 'the same' : 'otherwise'
}
</script>

<template>
  <div class="sale">
    <p v-for="(finding, at) in view.findings" :key="at" class="note bad">
      {{ finding.says }} {{ finding.mend }}
    </p>
    <p class="where">
      {{ view.places.join(', ') || 'No place that taxes it is known'
      }}<template v-if="view.itemTaxCode"
        >; under <b>{{ view.itemTaxCode }}</b></template
      ><template v-if="view.rules.length > 0">, by {{ view.rules.join(', ') }}</template
      ><template v-if="view.rounding">; rounded {{ view.rounding }}</template>
    </p>
    <p v-if="view.passedOver.length > 0" class="soft" data-passed-over>
      Passed over, since they look at a system, its flag of a line or a kind of sale, which nobody asked
      about: <RouterLink :to="{ name: 'rules' }">{{ view.passedOver.join(', ') }}</RouterLink>
    </p>
    <div class="scroll" tabindex="0" role="region" aria-label="Components">
      <table class="sheet" aria-label="Components">
        <thead>
          <tr>
            <th scope="col"><VoiceMark voice="expected" /> Jurisdiction</th>
            <th scope="col">Agency</th>
            <th scope="col">Account</th>
            <th scope="col" class="n">Rate</th>
            <th scope="col" class="n">Base, {{ view.currency }}</th>
            <th scope="col" class="n">Tax</th>
            <th scope="col">Why</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, at) in view.rows" :key="at" data-component>
            <td class="strong">{{ row.jurisdiction }}</td>
            <td>{{ row.agency }}</td>
            <td class="soft">{{ row.account ?? 'none agreed' }}</td>
            <td class="n">{{ row.rate ?? '–' }}</td>
            <td class="n">{{ format.amount(row.base) }}</td>
            <td class="n">{{ row.taxed ? format.amount(row.tax) : '–' }}</td>
            <td class="why">
              {{ row.reason
              }}<span v-if="row.from.length > 0" class="soft">, by {{ row.from.join(', ') }}</span>
            </td>
          </tr>
        </tbody>
        <tfoot v-if="view.tax !== null">
          <tr>
            <td colspan="4">Together</td>
            <td class="n">{{ format.figure(view.net) }}</td>
            <td class="n">{{ format.amount(view.tax) }}</td>
            <td />
          </tr>
        </tfoot>
      </table>
    </div>
    <template v-if="view.tax !== null">
      <h2>What each set-up comes to</h2>
      <div class="scroll" tabindex="0" role="region" aria-label="Systems">
        <table class="sheet" aria-label="Systems">
          <thead>
            <tr>
              <th scope="col">System</th>
              <th scope="col">Its rate</th>
              <th scope="col" class="n">Tax, {{ view.currency }}</th>
              <th scope="col" class="n">Apart</th>
              <th scope="col">State</th>
              <th scope="col">Why</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(system, at) in view.systems" :key="at" :data-system="system.id">
              <td class="strong">{{ system.name }}</td>
              <td>{{ system.rate ?? '–' }}</td>
              <td class="n">{{ format.figure(system.tax) }}</td>
              <td class="n" :class="{ breaks: stateOf(system) === 'breaks' }">
                {{ system.gap === null || isNil(system.gap) ? '–' : format.signed(system.gap) }}
              </td>
              <td><StateMark :state="stateOf(system)" :word="wordOf(system)" /></td>
              <td class="why">{{ system.says.join('; ') }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="view.systems.length === 0" class="soft">No system that computes tax on sales is connected.</p>
    </template>
  </div>
</template>

<style scoped>
.sale {
  display: grid;
  gap: 10px;
  min-width: 0;
}
.note {
  margin: 0;
}
.where {
  font-size: 15px;
}
h2 {
  font-size: 16px;
  font-weight: 600;
  margin-top: 6px;
}
.why {
  white-space: normal;
  max-width: none;
  padding-block: 4px;
}
</style>
