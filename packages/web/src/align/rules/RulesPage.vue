<script setup lang="ts">
import type {
  FindingCode,
  FindingView,
  RuleDraft,
  RulesTried,
  RulesView,
  SpecialGroup,
} from '@axion/contract'
import { computed, ref, watch } from 'vue'
import Amount from '../../figures/Amount.vue'
import { count, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import YesVerdict from '../../figures/YesVerdict.vue'
import { call } from '../../shell/api.ts'
import { useKeys } from '../../shell/keyboard.ts'
import { useMonth } from '../../shell/month.ts'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import AlignTabs from '../AlignTabs.vue'
import FindingList from '../FindingList.vue'
import RuleEditor from './RuleEditor.vue'
import TriedPanel from './TriedPanel.vue'
import { EMPTY_RULE, sayThen, sayWhen, SPECIAL_WORDS } from './words.ts'

/** Rules over lines in their order, tried before they are kept; and the amounts that are no item of the catalogue, with what decides each. */
const { api, changed, entity, month } = useMonth()
const format = useFormat()
const { view, refused } = useView<RulesView>(() => '/rules')
const drafts = ref<readonly RuleDraft[]>([])
const editing = ref<{ readonly at: number; readonly rule: RuleDraft } | null>(null)
const tried = ref<RulesTried | null>(null)
const { busy, refused: failed, attempt } = useAttempt()
const may = computed(() => entity.value.role !== 'viewer')
const asDraft = ({ code, name, when, then, from, to }: RuleDraft): RuleDraft => ({
  code,
  name,
  when,
  then,
  from,
  to,
})
const kept = computed(() => (view.value?.rules ?? []).map(asDraft))
const moved = computed(() => JSON.stringify(drafts.value) !== JSON.stringify(kept.value))
/** The list that the drafts began from, and whether another stands by now. */
const base = ref<{ readonly standing: string; readonly rules: readonly RuleDraft[] }>({
  standing: '',
  rules: [],
})
const overtaken = computed(() => view.value !== null && view.value.standing !== base.value.standing)
let keptHere = false
watch(kept, () => {
  // Nothing that somebody else does takes away what is being written here.
  const untouched =
    JSON.stringify(drafts.value) === JSON.stringify(base.value.rules) && editing.value === null
  if (overtaken.value && (keptHere || untouched)) putBack()
})
function putBack(): void {
  keptHere = false
  drafts.value = kept.value
  base.value = { standing: view.value?.standing ?? '', rules: kept.value }
  tried.value = null
  editing.value = null
}
function set(rules: readonly RuleDraft[]): void {
  keptHere = false
  drafts.value = rules
  tried.value = null
  failed.value = null
}
const without = (at: number): RuleDraft[] => drafts.value.filter((_, place) => place !== at)
function shift(at: number, by: number): void {
  const [rule, rest] = [drafts.value[at], without(at)]
  if (rule) set([...rest.slice(0, at + by), rule, ...rest.slice(at + by)])
}
function begin(rule: RuleDraft, at: number): void {
  editing.value = { at, rule }
}
const fresh = (changes: Partial<RuleDraft> = {}): RuleDraft => ({
  ...EMPTY_RULE,
  from: `${month.value}-01`,
  ...changes,
})
const ruleFor = ({ wording }: SpecialGroup): RuleDraft =>
  fresh({ name: wording.slice(0, 200), when: { ...EMPTY_RULE.when, text: wording.slice(0, 200) } })
function done(rule: RuleDraft): void {
  const at = editing.value?.at ?? drafts.value.length
  set([...drafts.value.slice(0, at), rule, ...drafts.value.slice(at + 1)])
  editing.value = null
}
const tryIt = (): Promise<void> =>
  attempt(
    async () =>
      void (tried.value = await call<RulesTried>('POST', `${api.value}/rules/try`, {
        standing: base.value.standing,
        rules: drafts.value,
      })),
  )
const keep = (): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/rules`, {
      standing: base.value.standing,
      rules: drafts.value,
      revision: tried.value?.revision,
    })
    tried.value = null
    keptHere = true
    await changed()
  })
/** What the month had of a rule that is kept. */
const held = (rule: RuleDraft): RulesView['rules'][number] | undefined =>
  view.value?.rules.find((one) => one.code === rule.code && one.from === rule.from)
const isKept = (rule: RuleDraft): boolean =>
  kept.value.some((one) => JSON.stringify(one) === JSON.stringify(rule))
const dates = ({ from, to }: RuleDraft): string =>
  to === null
    ? `from ${format.value.longDay(from)}`
    : `${format.value.longDay(from)} to ${format.value.longDay(to)}`
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
const astray = computed(() => (view.value === null ? 0 : view.value.findings - view.value.open))
const chosen = ref<string | null>(null)
const looked = computed(
  () => view.value?.groups.find((group) => group.key === chosen.value && group.findings.length > 0) ?? null,
)
const leave = (finding: FindingView, reason: string | null): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/align/left`, {
      kind: 'amounts',
      rowId: looked.value?.rowId ?? '',
      code: finding.code,
      systemId: null,
      reason,
    })
    await changed()
  })
useKeys(() =>
  may.value
    ? [
        { key: 'n', does: 'write a rule', act: () => begin(fresh(), drafts.value.length) },
        {
          key: 't',
          does: 'try the rules on the past',
          act: () => void (moved.value && !overtaken.value && tryIt()),
        },
      ]
    : [],
)
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Is every amount decided that is no item of the catalogue?</p>
        <p v-if="view" class="verdict" data-verdict>
          <YesVerdict v-if="view.total === 0">Every line of the month is an item of the catalogue</YesVerdict>
          <template v-else-if="view.open > 0"
            ><strong>No: {{ count(view.open, 'kind') }}</strong> of amount
            {{ view.open === 1 ? 'has' : 'have' }} no treatment or no account</template
          >
          <template v-else-if="astray > 0"
            ><strong>Nearly.</strong> {{ count(astray, 'finding') }}: amounts that are taxed as they should
            not be</template
          >
          <YesVerdict v-else
            >{{ count(view.total, 'kind') }} of amount, each with a treatment and an account</YesVerdict
          >
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <template v-if="moved"
          ><button class="plain" type="button" :disabled="busy" @click="putBack">Put back as it was</button
          >{{ ' ' }}
          <button
            class="do"
            :class="{ first: !tried }"
            type="button"
            :disabled="busy || overtaken"
            @click="tryIt"
          >
            {{ busy && !tried ? 'Trying' : 'Try on the past' }} <kbd>t</kbd>
          </button></template
        >
        <button v-if="moved && tried" class="do first" type="button" :disabled="busy" data-keep @click="keep">
          Keep these rules
        </button>
        <button
          v-if="may && !editing && !moved"
          class="do"
          type="button"
          @click="begin(fresh(), drafts.length)"
        >
          Write a rule <kbd>n</kbd>
        </button>
      </div>
    </div>
    <AlignTabs chosen="rules" />
    <p v-if="refused ?? failed" class="note bad" role="alert">
      {{ (failed ?? refused)?.says }} {{ (failed ?? refused)?.mend }}
    </p>
    <p v-if="overtaken && view" class="note" data-overtaken>
      Other rules were kept meanwhile. What you wrote is still here;
      <button class="plain" type="button" @click="putBack">put it back</button> to go on from those that stand
      now.
    </p>
    <template v-if="view">
      <h2>Rules <small class="soft">in their order: for each outcome the first that is met counts</small></h2>
      <RuleEditor
        v-if="editing"
        :key="`${editing.at} ${editing.rule.code ?? 'new'}`"
        :rule="editing.rule"
        :choices="view.choices"
        @done="done"
        @cancel="editing = null"
      />
      <TriedPanel v-if="tried" :tried="tried" />
      <p v-if="drafts.length === 0 && !editing" class="none soft">
        No rule yet: items stand under their own codes, and lines without an item under none.
      </p>
      <div v-else-if="drafts.length > 0" class="scroll" tabindex="0" role="region" aria-label="Rules">
        <table class="sheet" aria-label="Rules">
          <thead>
            <tr>
              <th scope="col" class="n">Place</th>
              <th scope="col">Rule</th>
              <th scope="col">When</th>
              <th scope="col">Then</th>
              <th scope="col">Holds</th>
              <th scope="col" class="n">Decided</th>
              <th scope="col" class="n">{{ view.currency }}</th>
              <th scope="col" aria-label="Change" />
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(rule, at) in drafts"
              :key="`${rule.code} ${rule.from} ${at}`"
              :data-rule="rule.code ?? ''"
            >
              <td class="n soft">{{ at + 1 }}</td>
              <td class="strong" :title="rule.name">
                {{ rule.name }}<small v-if="!isKept(rule)" class="unkept">not kept yet</small>
              </td>
              <td :title="sayWhen(rule, view)">{{ sayWhen(rule, view) }}</td>
              <td class="then" :title="sayThen(rule, view)">{{ sayThen(rule, view) }}</td>
              <td class="soft">{{ dates(rule) }}</td>
              <td class="n soft">{{ held(rule) ? count(held(rule)?.documents ?? 0, 'doc') : '–' }}</td>
              <td class="n">
                <Amount
                  v-if="held(rule) && rule.code"
                  :value="held(rule)?.amount ?? null"
                  :of="{ of: 'lines', rule: rule.code }"
                />
              </td>
              <td class="acts">
                <template v-if="may"
                  ><button
                    class="plain"
                    type="button"
                    :disabled="at === 0"
                    :aria-label="`Move ${rule.name} up`"
                    @click="shift(at, -1)"
                  >
                    up</button
                  >{{ ' ' }}
                  <button
                    class="plain"
                    type="button"
                    :disabled="at === drafts.length - 1"
                    :aria-label="`Move ${rule.name} down`"
                    @click="shift(at, 1)"
                  >
                    down</button
                  >{{ ' ' }}
                  <button
                    class="plain"
                    type="button"
                    :aria-label="`Change ${rule.name}`"
                    @click="begin(rule, at)"
                  >
                    change</button
                  >{{ ' ' }}
                  <button
                    class="plain"
                    type="button"
                    :aria-label="`Remove ${rule.name}`"
                    @click="set(without(at))"
                  >
                    remove
                  </button></template
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <h2>
        Amounts that are no item
        <small class="soft"
          >each needs a treatment and an account; a cost is never taxed, and what stands for many things is
          taxed always or never</small
        >
      </h2>
      <div v-if="view.groups.length === 0" class="empty">
        <strong>Nothing of the kind</strong>Every line of the month is an item of the catalogue, and nothing
        was taken off or reimbursed as a whole.
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
                  @click.stop="begin(ruleFor(group), drafts.length)"
                >
                  a rule for it
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <section v-if="looked" class="looked" :aria-label="`${looked.wording}: what was found`">
        <FindingList :findings="looked.findings" @leave="leave" />
      </section>
      <p v-if="view.total > view.groups.length" class="soft">
        The first {{ view.groups.length }} of {{ view.total }} are shown: what is open first, then the
        largest.
      </p>
    </template>
  </main>
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
.none {
  margin-bottom: 8px;
  font-size: 14.5px;
}
.unkept {
  display: block;
  font-weight: 400;
  font-size: 12px;
  color: var(--plum);
}
.sheet td.then {
  max-width: 330px;
}
.acts {
  text-align: right;
}
.acts .plain {
  font-size: 13px;
}
.acts .plain:disabled {
  opacity: 0.4;
  cursor: default;
}
</style>
