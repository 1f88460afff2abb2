<script setup lang="ts">
import type { FindingCode, RulesView, SpecialGroup } from '@axion/contract'
import { computed, ref } from 'vue'
import Amount from '../../figures/Amount.vue'
import StateMark from '../../figures/StateMark.vue'
import FindingList from '../FindingList.vue'
import { SPECIAL_WORDS } from './words.ts'

/** The amounts that are no item of the catalogue, each with what decides it and what was found of it. */
const props = defineProps<{ view: RulesView; may: boolean }>()
defineEmits<{
  rule: [group: SpecialGroup]
  leave: [rowId: string, code: FindingCode, reason: string | null]
}>()
const ASTRAY: Readonly<Partial<Record<FindingCode, readonly ['breaks' | 'asks', string]>>> = {
  AXION_COST_TAXED: ['breaks', 'a cost is taxed'],
  AXION_AMOUNT_MIXED: ['asks', 'taxed on some, not on others'],
}
function stateOf(group: SpecialGroup): readonly ['holds' | 'breaks' | 'asks' | 'open', string] {
  const [first] = group.findings.filter((finding) => finding.left === null)
  if (!first)
    return group.findings.length > 0
      ? ['open', 'left as it is']
      : ['holds', group.rules.length > 0 ? 'by a rule' : 'decided']
  return (
    ASTRAY[first.code] ?? [
      'breaks',
      group.treatments.length === 0
        ? 'no treatment'
        : group.accounts.length === 0
          ? 'no account'
          : 'open on some',
    ]
  )
}
const chosen = ref<string | null>(null)
const looked = computed(
  () => props.view.groups.find((group) => group.key === chosen.value && group.findings.length > 0) ?? null,
)
</script>

<template>
  <section>
    <h2>
      Amounts that are no item
      <small class="soft"
        >each needs a treatment and an account; a cost is never taxed, and what stands for many things is
        taxed always or never</small
      >
    </h2>
    <div v-if="view.groups.length === 0" class="empty">
      <strong>Nothing of the kind</strong>Every line of the month is an item of the catalogue, and nothing was
      taken off or reimbursed as a whole.
    </div>
    <div v-else class="scroll groups" tabindex="0" role="region" aria-label="Amounts that are no item">
      <table class="sheet" aria-label="Amounts that are no item">
        <thead>
          <tr>
            <th scope="col">What it says</th>
            <th scope="col">Kind</th>
            <th scope="col">System</th>
            <th scope="col">Treated as</th>
            <th scope="col">Account</th>
            <th scope="col">State</th>
            <th scope="col" class="n">Documents</th>
            <th scope="col" class="n">{{ view.currency }}</th>
            <th scope="col" aria-label="Decide" />
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="group in view.groups"
            :key="group.key"
            :data-group="group.key"
            :class="{ chosen: group.key === chosen }"
            @click="chosen = group.key"
          >
            <td class="strong" :title="group.wording">{{ group.wording }}</td>
            <td class="soft">{{ SPECIAL_WORDS[group.what] }}</td>
            <td class="soft">{{ group.system }}</td>
            <td :title="group.treatments.join(', ')">
              <template v-if="group.what === 'discount' || group.what === 'reimbursement'"
                ><span class="soft">{{
                  group.what === 'discount' ? 'as its lines are' : 'not taxed by itself'
                }}</span></template
              ><template v-else>{{ group.treatments.join(', ') || 'nothing says' }}</template>
            </td>
            <td :title="group.accounts.join(', ')">
              <span v-if="group.accounts.length === 0" class="soft">{{
                group.what === 'discount' ? 'less revenue' : 'nothing says'
              }}</span><template v-else>{{ group.accounts.join(', ') }}</template>
            </td>
            <td>
              <button
                v-if="group.findings.length > 0"
                class="found"
                type="button"
                :aria-label="`What was found of ${group.wording}: ${stateOf(group)[1]}`"
                @click.stop="chosen = group.key"
              >
                <StateMark
                  :state="stateOf(group)[0]"
                  :word="stateOf(group)[1]"
                  :title="group.findings.map((finding) => finding.says).join(' ')"
                /></button
              ><StateMark
                v-else
                :state="stateOf(group)[0]"
                :word="stateOf(group)[1]"
                :title="group.rules.join(', ')"
              />
            </td>
            <td class="n soft">{{ group.documents }}</td>
            <td class="n"><Amount :value="group.amount" :of="{ of: 'lines', group: group.key }" /></td>
            <td class="acts">
              <button
                v-if="
                  may &&
                  group.rules.length === 0 &&
                  group.what !== 'discount' &&
                  group.what !== 'reimbursement'
                "
                class="plain"
                type="button"
                :aria-label="`A rule for ${group.wording}`"
                @click.stop="$emit('rule', group)"
              >
                a rule for it
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <section v-if="looked" class="looked" :aria-label="`${looked.wording}: what was found`">
      <FindingList
        :findings="looked.findings"
        @leave="(finding, reason) => $emit('leave', looked?.rowId ?? '', finding.code, reason)"
      />
    </section>
    <p v-if="view.total > view.groups.length" class="soft">
      The first {{ view.groups.length }} of {{ view.total }} are shown: what is open first, then the largest.
    </p>
  </section>
</template>

<style scoped>
.found {
  border: 0;
  background: none;
  padding: 0;
  text-align: left;
  cursor: pointer;
}
.looked {
  margin: 10px 0;
}
h2 {
  font-size: 17px;
  font-weight: 700;
  margin: 14px 0 6px;
}
h2 small {
  font-size: 13.5px;
  font-weight: 400;
  margin-left: 8px;
}
.acts {
  text-align: right;
}
.acts .plain {
  font-size: 13px;
}
</style>
