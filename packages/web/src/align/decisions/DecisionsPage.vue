<script setup lang="ts">
import type { AskedAnswers, DecisionRow, DecisionsView } from '@axion/contract'
import { computed } from 'vue'
import { useEvidence } from '../../evidence/useEvidence.ts'
import { count, fewOf } from '../../figures/format.ts'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useSession } from '../../shell/session.ts'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import AlignTabs from '../AlignTabs.vue'
import LatestChanges from '../LatestChanges.vue'
import AskedForm from './AskedForm.vue'
import BatchRows from './BatchRows.vue'
import ExplainedBar from './ExplainedBar.vue'
import OpenDecision from './OpenDecision.vue'
import SeenRows from './SeenRows.vue'
import { batchesOf, nameOf } from './words.ts'

/** A baseline out of what is there: what the systems hold and charged, decision by decision, largest money first. */
const { api, changed, entity, path } = useMonth()
const evidence = useEvidence()
const { view, refused } = useView<DecisionsView>(() => '/decisions')
const { busy, refused: failed, attempt } = useAttempt()
const may = computed(() => entity.value.role !== 'viewer')
const session = useSession()
const others = computed(() => session.entities.length > 1)
const decisions = computed(() => view.value?.decisions ?? [])
const open = computed(() =>
  decisions.value.filter((one) => one.standing === 'open' && one.options.length > 0),
)
const unknown = computed(() => decisions.value.filter(({ options }) => options.length === 0))
const rates = computed(() => unknown.value.filter(({ about }) => about !== 'posting' && about !== 'item'))
const items = computed(() => unknown.value.filter(({ about }) => about === 'item'))
const accounts = computed(() => unknown.value.filter(({ about }) => about === 'posting'))
const groups = computed(() => [
  {
    title: 'Agreed upon',
    means: 'several systems hold the same; they may all be wrong alike',
    batches: batchesOf(decisions.value, 'agreed'),
  },
  {
    title: 'As one system has it',
    means: 'confirmed by nobody: what it charged is explained by what it says itself',
    batches: batchesOf(decisions.value, 'alone'),
  },
])
const takeable = computed(() => (groups.value[0]?.batches ?? []).flatMap(({ ready }) => ready))
/** What the draft was not read from. */
const aside = computed(() => {
  if (!view.value) return []
  const { documents, of, bought } = view.value
  const awaited = path.value?.connect.limits.notPulled ?? []
  return [
    ...(of > documents ? [`${of - documents} older documents`] : []),
    ...(bought > 0 ? [count(bought, 'purchase')] : []),
    ...(awaited.length > 0
      ? [`what ${awaited.join(', ')} ${awaited.length === 1 ? 'holds' : 'hold'}: not pulled yet`]
      : []),
  ]
})
const asking = computed(() => {
  const { registrations = [], certificates = [] } = view.value?.asked ?? {}
  return registrations.length + certificates.length
})
const later = computed(() => {
  const { registrations = 0, certificates = 0 } = view.value?.asked.later ?? {}
  return [
    ...(registrations > 0 ? [`The registration with ${count(registrations, 'agency', 'agencies')}`] : []),
    ...(certificates > 0
      ? [`${registrations > 0 ? 'the' : 'The'} certificate of ${count(certificates, 'party', 'parties')}`]
      : []),
  ]
})
const missing = computed(() => (view.value ? view.value.documents - view.value.explained.drafted : 0))

const take = (answers: readonly { readonly key: string; readonly option: string }[]): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/decisions`, { revision: view.value?.revision ?? '', take: answers })
    await changed()
  })
const answer = (answers: AskedAnswers): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/decisions/answers`, answers)
    await changed()
  })
const named = (rows: readonly DecisionRow[]): string => fewOf(rows.map(nameOf), 8)
const takeAll = (rows: readonly DecisionRow[]): Promise<void> =>
  take(rows.map(({ key, options }) => ({ key, option: options[0]?.key ?? '' })))
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">What can be agreed from what the systems hold?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="view.documents === 0 && decisions.length === 0"
            ><strong>Nothing yet.</strong> No system was pulled that holds or charges anything</template
          >
          <template v-else-if="decisions.length === 0"
            ><strong>Nothing more.</strong> All that can be drafted is in the baseline, which explains
            {{ view.explained.now }} of {{ count(view.documents, 'document') }} to the cent<template
              v-if="asking > 0"
              >; {{ count(asking, 'answer') }} no system can give</template
            ></template
          >
          <template v-else-if="view.documents === 0"
            ><strong>{{ count(decisions.length, 'decision') }}.</strong> No sale was pulled that could show
            whether they hold</template
          >
          <template v-else
            ><strong>{{ view.explained.now }} of {{ view.documents }}</strong> documents explained to the cent
            by what is agreed, {{ view.explained.drafted }} with the draft; {{ open.length }} of
            {{ count(decisions.length, 'decision') }} to answer</template
          >
        </p>
        <p v-else-if="failed ?? refused" class="verdict"><strong>Not known.</strong> It could not be read</p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <LatestChanges />
        <button
          v-if="may && takeable.length > 0"
          class="do first"
          type="button"
          data-take-agreed
          :disabled="busy"
          @click="takeAll(takeable)"
        >
          Accept {{ takeable.length }} that systems agree upon
        </button>
      </div>
    </div>
    <AlignTabs chosen="decisions" />
    <RefusedNote :refused="failed ?? refused" />
    <template v-if="view">
      <div v-if="view.documents === 0 && decisions.length === 0" class="empty">
        <strong>Nothing to draft from</strong>A draft is read from what a ledger and the systems that sell
        hold: <RouterLink :to="{ name: 'connect' }">connect them and pull</RouterLink>.
      </div>
      <ExplainedBar v-if="view.documents > 0" :view="view" />
      <p v-if="may && view.explained.now === 0 && others" class="soft" data-elsewhere>
        What agencies say of rates and codes may be
        <RouterLink :to="{ name: 'copied' }">taken from another legal entity</RouterLink> of yours first.
      </p>
      <p v-if="aside.length > 0" class="soft" data-aside>Not looked at: {{ aside.join('; ') }}.</p>

      <section v-if="open.length > 0" aria-label="To answer">
        <h2>
          To answer <small>the systems differ, or leave it open; the first answer stands in the draft</small>
        </h2>
        <OpenDecision
          v-for="decision in open"
          :key="decision.key"
          :decision="decision"
          :may="may"
          :busy="busy"
          :currency="view.currency"
          @take="(option) => take([{ key: decision.key, option }])"
        />
      </section>
      <template v-for="group in groups" :key="group.title">
        <section v-if="group.batches.length > 0" :aria-label="group.title">
          <h2>
            {{ group.title }} <small>{{ group.means }}</small>
          </h2>
          <BatchRows
            v-for="batch in group.batches"
            :key="batch.about"
            :batch="batch"
            :may="may"
            :busy="busy"
            :currency="view.currency"
            @take="takeAll"
          />
        </section>
      </template>

      <section
        v-if="asking > 0 || later.length > 0 || unknown.length > 0 || missing > 0"
        aria-label="What no system can tell"
      >
        <h2>What no system can tell <small>asked plainly; the draft counts as if it were answered</small></h2>
        <AskedForm
          v-if="asking > 0"
          :asked="view.asked"
          :may="may"
          :busy="busy"
          :currency="view.currency"
          @keep="answer"
        />
        <ul v-if="later.length > 0 || unknown.length > 0 || missing > 0" class="asked">
          <li v-if="later.length > 0">
            {{ later.join(' and ') }} will be asked as well, once what is drafted of them is accepted
          </li>
          <li v-if="rates.length > 0">
            <RouterLink :to="{ name: 'align', params: { kind: 'rates' } }"
              >Where {{ count(rates.length, 'rate') }} {{ rates.length === 1 ? 'holds' : 'hold' }}</RouterLink
            >, or what {{ rates.length === 1 ? 'it is' : 'they are' }} made of: {{ named(rates) }}
          </li>
          <li v-if="items.length > 0">
            <RouterLink :to="{ name: 'align', params: { kind: 'items' } }"
              >The item tax code of {{ count(items.length, 'item') }}</RouterLink
            >: {{ named(items) }}
          </li>
          <li v-if="accounts.length > 0">
            <RouterLink :to="{ name: 'align', params: { kind: 'accounts' } }"
              >An account of the right type</RouterLink
            >: {{ named(accounts) }}
          </li>
          <li v-if="missing > 0">
            {{ count(missing, 'document') }} that the draft does not explain:
            <template v-for="(one, at) in view.unexplained" :key="one.unit"
              >{{ at > 0 ? ', ' : ''
              }}<button class="plain" type="button" @click="evidence.show({ of: 'total', unit: one.unit })">
                {{ one.number }}
              </button></template
            ><template v-if="missing > view.unexplained.length"> and others</template>
          </li>
        </ul>
      </section>
      <SeenRows :may="may" />
    </template>
  </main>
</template>

<style scoped src="./answers.css"></style>
<style scoped>
.asked {
  margin: 0;
  padding: 10px 18px;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--rule);
  display: grid;
  gap: 4px;
  font-size: 14px;
}
</style>
