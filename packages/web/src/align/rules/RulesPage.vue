<script setup lang="ts">
import type { FindingCode, RuleDraft, RulesTried, RulesView, SpecialGroup } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { count } from '../../figures/format.ts'
import YesVerdict from '../../figures/YesVerdict.vue'
import { call } from '../../shell/api.ts'
import { useKeys } from '../../shell/keyboard.ts'
import { useMonth } from '../../shell/month.ts'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import AlignTabs from '../AlignTabs.vue'
import RuleEditor from './RuleEditor.vue'
import RuleList from './RuleList.vue'
import SpecialAmounts from './SpecialAmounts.vue'
import TriedPanel from './TriedPanel.vue'
import { EMPTY_RULE } from './words.ts'
import RefusedNote from '../../shell/RefusedNote.vue'

/** Rules over lines in their order, tried before they are kept; and the amounts that are no item of the catalogue, with what decides each. */
const { api, changed, entity, month } = useMonth()
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
const astray = computed(() => (view.value === null ? 0 : view.value.findings - view.value.open))
const leave = (rowId: string, code: FindingCode, reason: string | null): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/align/left`, { kind: 'amounts', rowId, code, systemId: null, reason })
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
    <RefusedNote :refused="failed ?? refused" />
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
      <RuleList
        v-else-if="drafts.length > 0"
        :view="view"
        :drafts="drafts"
        :kept="kept"
        :may="may"
        @shift="shift"
        @change="begin"
        @remove="(at) => set(without(at))"
      />
      <SpecialAmounts
        :view="view"
        :may="may"
        @rule="(group) => begin(ruleFor(group), drafts.length)"
        @leave="leave"
      />
    </template>
  </main>
</template>

<style scoped>
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
</style>
