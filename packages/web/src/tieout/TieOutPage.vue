<script setup lang="ts">
import type { CauseView, FullProofView, Selector, TieOutRow, TieOutView } from '@axion/contract'
import { sayCause } from '@axion/contract'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useEvidence } from '../evidence/useEvidence.ts'
import Amount from '../figures/Amount.vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import ProvedVerdict from '../figures/ProvedVerdict.vue'
import VoiceMark from '../figures/VoiceMark.vue'
import ListBar from '../grid/ListBar.vue'
import ListEnd from '../grid/ListEnd.vue'
import SortHead from '../grid/SortHead.vue'
import { NARROWING, useList } from '../grid/useList.ts'
import { useRows } from '../grid/useRows.ts'
import { useKeys } from '../shell/keyboard.ts'
import { asRefused, call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import KeepDialog from './KeepDialog.vue'
import KeptDialog from './KeptDialog.vue'
import MendDialog from './MendDialog.vue'
import type { Mending } from './mendWords.ts'
import WorkListDialog from './WorkListDialog.vue'

/** So many causes stand in full; more scroll, so that the documents keep their place. */
const FEW = 5
const route = useRoute()
const router = useRouter()
const runs = useRuns()
const { api, version } = useMonth()
const format = useFormat()
const evidence = useEvidence()
const mending = ref<Mending | null>(null)
const correcting = ref<CauseView | null>(null)
function mend(target: CauseView | undefined): void {
  if (target && target.remedies.length > 0)
    mending.value = { remedies: target.remedies, asks: target.asks, cause: target.key }
  else if (target && target.headline !== 'missing') correcting.value = target
}
const keeping = ref<CauseView | null>(null)
function keepInstead(target: CauseView): void {
  correcting.value = null
  keeping.value = target
}
/** What stands apart is looked at over the page. */
const apart = computed({
  get: () => query('apart') === 'yes',
  set: (open) => set({ apart: open ? 'yes' : undefined }),
})
const full = ref<FullProofView | null>(null)
const proving = ref(false)
async function proveInFull(): Promise<void> {
  proving.value = true
  try {
    full.value = await call<FullProofView>('POST', `${api.value}/full-proof`)
  } catch (error) {
    runs.refused.value = asRefused(error)
  } finally {
    proving.value = false
  }
}
const bar = ref<InstanceType<typeof ListBar> | null>(null)
const list = useList<TieOutRow, TieOutView>('/tie-out', ['cause', 'show', 'headline'])
const { view, refused, query, set } = list
const cause = computed(() => query('cause'))
const all = computed(() => query('show') === 'all')
/** Proved lines of documents that are not can be folded away. */
const folded = computed(() => query('fold') === 'yes')
const rows = computed(() => {
  if (!folded.value) return list.rows.value
  const open = list.rows.value.filter((row) => row.proved || !isNil(row.unproved) || row.unprovedAlone)
  return open.map((row, at) => ({ ...row, first: open[at - 1]?.unit !== row.unit }))
})
const documents = computed(() => new Set(list.rows.value.map((row) => row.unit)).size)
const order = (name: string): { name: string; sort: string | undefined; down: string | undefined } => ({
  name,
  sort: query('sort'),
  down: query('down'),
})
const SETTLED: Readonly<Record<NonNullable<TieOutRow['settled']>, string>> = {
  kept: 'kept',
  cured: 'given back',
}
const keyOf = (row: TieOutRow): string => `${row.unit}|${row.agency ?? ''}|${row.account ?? ''}`
const { chosen, choose } = useRows(
  () => rows.value,
  keyOf,
  (row) =>
    evidence.show(
      isNil(row.unproved)
        ? { of: 'tax', voice: 'expected', ...where(row) }
        : { of: 'unproved', ...where(row) },
    ),
)
const where = (row: TieOutRow): Pick<Selector, 'unit' | 'agency' | 'account'> => ({
  unit: row.unit,
  agency: row.agency ?? '',
  account: row.account ?? '',
})

/** What the list is filtered to: its totals open to the same. Where it is narrowed further, they stand by themselves. */
const further = computed(() => NARROWING.some((name) => name !== 'search' && query(name) !== undefined))
const opens = (of: Selector): Selector | null => (further.value ? null : { ...of, ...shown.value })
const shown = computed((): Partial<Selector> => ({
  ...(cause.value ? { cause: cause.value } : query('show') ? {} : { only: 'unproved' }),
  ...(query('search') ? { search: query('search') } : {}),
}))
const causes = computed(() => view.value?.causes ?? [])
const current = computed(() => causes.value.find((c) => c.key === cause.value) ?? null)
watch(version, () => (full.value = null))
watch(cause, async (key) => {
  await nextTick()
  if (key) document.querySelector('tr.chosen[data-cause]')?.scrollIntoView?.({ block: 'nearest' })
})
function openCause(target: CauseView | undefined): void {
  if (target)
    void router.replace({
      query: {
        cause: target.key,
        open: new URLSearchParams({ of: 'unproved', cause: target.key }).toString(),
      },
    })
}
useKeys(() => [
  {
    key: 'n',
    does: 'next cause, largest money first',
    act: () =>
      openCause(
        causes.value[
          (causes.value.findIndex((c) => c.key === cause.value) + 1) % Math.max(causes.value.length, 1)
        ],
      ),
  },
  {
    key: 'm',
    does: 'mend the chosen cause, with a preview',
    act: () => mend(current.value ?? causes.value[0]),
  },
  { key: '/', does: 'filter by number or party', act: () => bar.value?.focus() },
])
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">Do stated, expected and booked agree for every document?</p>
        <ProvedVerdict
          v-if="view && view.pulled && view.awaits.length === 0"
          :view="view"
          :proved="view.proved"
        />
        <p v-else-if="view" class="verdict">
          <strong>Not known yet.</strong>
          {{
            view.awaits.length === 0
              ? 'Nothing was pulled'
              : `${view.awaits.join(' and ')} ${view.awaits.length === 1 ? 'has' : 'have'} not been pulled`
          }}
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <button
          v-if="view?.pulled"
          class="do"
          type="button"
          :disabled="proving"
          title="Sums every fact anew, and compares with the quick proof"
          @click="proveInFull"
        >
          {{ proving ? 'Proving from detail' : 'Prove from detail' }}
        </button>
        <button class="do" type="button" @click="runs.start('/pulls', { systemIds: null })">
          Pull and prove again
        </button>
      </div>
    </div>
    <p v-if="refused" class="note bad" role="alert">{{ refused.says }} {{ refused.mend }}</p>
    <p v-if="full" class="note" :class="{ bad: full.disagreeing > 0 }" role="status" data-full-proof>
      <template v-if="full.disagreeing === 0"
        ><b>The full proof agrees.</b> {{ count(full.documents, 'document') }} summed anew from
        {{ count(full.facts, 'tax fact') }}: {{ full.astray }} astray, as above.</template
      >
      <template v-else
        ><b>The full proof does not agree on {{ count(full.disagreeing, 'document') }}:</b>
        {{ full.named.map((n) => n.number).join(', ') }}. Pull and prove again; if it stays, this is a fault
        of Axion’s, to be reported.</template
      >
    </p>

    <div
      v-if="causes.length > 0"
      class="scroll causes"
      :class="{ many: causes.length > FEW }"
      tabindex="0"
      role="region"
      aria-label="Causes"
    >
      <table class="sheet cards" aria-label="Causes">
        <tbody>
          <tr
            v-for="c in causes"
            :key="c.key"
            :class="{ chosen: c.key === cause }"
            :data-cause="c.key"
            @click="set({ cause: c.key === cause ? undefined : c.key })"
          >
            <td class="kind"><StateMark state="breaks" :word="c.headline" /></td>
            <td class="sentence" :title="sayCause(c.facts, format.longDay)">
              {{ sayCause(c.facts, format.longDay)
              }}<template v-if="c.others.length > 0">
                <span class="soft also"
                  >Or equally: {{ c.others.map((o) => sayCause(o, format.longDay)).join(' ') }}</span
                ></template
              >
            </td>
            <td class="n soft">{{ count(c.documents, 'document') }}</td>
            <td class="n money">
              <Amount :value="c.unproved" :of="{ of: 'unproved', cause: c.key }" breaks />
            </td>
            <td class="act">
              <button
                v-if="c.remedies.length > 0"
                class="do small"
                :class="{ first: c.key === (cause ?? causes[0]?.key) }"
                type="button"
                @click.stop="mend(c)"
              >
                Mend {{ c.documents }} <kbd v-if="c.key === (cause ?? causes[0]?.key)">m</kbd>
              </button>
              <RouterLink
                v-else-if="c.headline === 'missing'"
                class="do small"
                :to="{ name: 'post', params: route.params }"
                @click.stop
                >To Post</RouterLink
              >
              <button v-else class="do small" type="button" data-correct @click.stop="correcting = c">
                Correct {{ c.documents }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>

    <div class="bar">
      <button
        type="button"
        class="plain"
        :class="{ chosen: !query('show') && !cause }"
        @click="set({ show: undefined, cause: undefined })"
      >
        Not proved
      </button>
      <button v-if="cause" type="button" class="plain chosen" @click="set({ cause: undefined })">
        This cause, all again
      </button>
      <button
        v-if="view && view.kept.kept + view.kept.cured > 0"
        type="button"
        class="plain"
        :class="{ chosen: query('show') === 'settled' }"
        @click="set({ show: 'settled', cause: undefined })"
      >
        Standing apart
      </button>
      <button
        type="button"
        class="plain"
        :class="{ chosen: all }"
        @click="set({ show: 'all', cause: undefined })"
      >
        All documents
      </button>
      <label class="soft"
        ><input
          type="checkbox"
          :checked="folded"
          data-fold
          @change="set({ fold: folded ? undefined : 'yes' })"
        />
        only lines that differ</label
      >
      <ListBar
        v-if="view"
        ref="bar"
        :list="list"
        :choices="view.choices"
        amount="not proved"
        out="/tie-out/list"
      />
    </div>
    <div v-if="view && rows.length === 0" class="empty">
      <strong>{{ view.pulled ? 'Nothing here is unproved' : 'Nothing was pulled yet' }}</strong>{{
        view.pulled
          ? 'Look at all documents, or at the close sheet.'
          : 'Pull the systems, then their voices stand side by side here.'
      }}
    </div>
    <div v-else-if="view" class="scroll" tabindex="0" role="region" aria-label="Documents">
      <table class="sheet documents" aria-label="Documents">
        <thead>
          <tr>
            <SortHead v-bind="order('number')" @sort="list.sortBy">Document</SortHead>
            <SortHead v-bind="order('date')" @sort="list.sortBy">Date</SortHead>
            <SortHead v-bind="order('party')" @sort="list.sortBy">Party</SortHead>
            <th scope="col">Agency</th>
            <th scope="col">Account</th>
            <th scope="col" class="n"><VoiceMark voice="stated" />Stated, {{ view.currency }}</th>
            <th scope="col" class="n"><VoiceMark voice="expected" />Expected</th>
            <th scope="col" class="n"><VoiceMark voice="booked" />Booked</th>
            <SortHead v-bind="order('open')" n @sort="list.sortBy">Not proved</SortHead>
            <SortHead v-bind="order('state')" @sort="list.sortBy">Finding</SortHead>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(row, at) in rows"
            :key="keyOf(row)"
            :class="{ chosen: at === chosen, further: !row.first }"
            @click="choose(at)"
          >
            <td class="strong number">{{ row.first ? row.number : '' }}</td>
            <td class="soft day">{{ row.first ? format.day(row.date) : '' }}</td>
            <td class="party" :title="row.party">{{ row.first ? row.party : '' }}</td>
            <td class="agency" :title="row.agencyName ?? ''">
              {{
                row.agencyName ??
                (isNil(row.booked ?? '0') && row.stated === null && row.expected === null
                  ? 'no tax'
                  : 'no agency')
              }}
            </td>
            <td class="soft account">{{ row.account }}</td>
            <td class="n voice stated" data-voice="stated">
              <Amount
                v-if="row.stated !== null || row.expected !== null"
                :value="row.stated"
                :of="{ of: 'tax', voice: 'stated', ...where(row) }"
              />
            </td>
            <td class="n voice expected" data-voice="expected">
              <Amount
                :value="row.known === 'no' ? null : (row.expected ?? '0')"
                :of="{ of: 'tax', voice: 'expected', ...where(row) }"
                silence="not known"
              />
              <em
                v-if="row.known === 'partly' && row.first"
                class="faint"
                title="A line of it is not decided"
              >
                in part</em
              >
            </td>
            <td class="n voice booked" data-voice="booked">
              <Amount
                :value="row.bookedUnnamed && isNil(row.booked ?? '0') ? null : row.booked"
                :of="{ of: 'tax', voice: 'booked', ...where(row) }"
                :silence="row.bookedUnnamed ? 'no agency' : 'not booked'"
              />
            </td>
            <td class="n open">
              <Amount :value="row.unproved" :of="{ of: 'unproved', ...where(row) }" breaks />
            </td>
            <td class="finding">
              <StateMark
                v-if="row.first"
                :state="
                  row.proved ? 'holds' : row.settled ? 'asks' : row.headline === 'missing' ? 'open' : 'breaks'
                "
                :word="row.proved ? 'proved' : row.settled ? SETTLED[row.settled] : row.facets.join(', ')"
              />
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td colspan="5">{{ count(view.total, 'document') }}</td>
            <td class="n">
              <Amount :value="view.totals.stated" :of="opens({ of: 'tax', voice: 'stated' })" />
            </td>
            <td class="n">
              <Amount :value="view.totals.expected" :of="opens({ of: 'tax', voice: 'expected' })" />
            </td>
            <td class="n">
              <Amount :value="view.totals.booked" :of="opens({ of: 'tax', voice: 'booked' })" />
            </td>
            <td class="n">
              <Amount :value="view.totals.unproved" :of="opens({ of: 'unproved' })" breaks />
            </td>
            <td />
          </tr>
        </tfoot>
      </table>
      <ListEnd
        :shown="documents"
        :total="view.total"
        one="document"
        :reading="list.reading.value"
        @more="list.more"
      />
    </div>
    <MendDialog v-model="mending" />
    <WorkListDialog v-model="correcting" @keep="keepInstead" />
    <KeepDialog v-model="keeping" />
    <KeptDialog v-model="apart" />
  </main>
</template>

<style scoped>
.scroll.causes {
  margin-bottom: 10px;
  border-left: 3px solid var(--rust);
  flex: none;
  min-height: 0;
}
.causes.many {
  max-height: 192px;
}
.causes td {
  height: 34px;
}
.kind {
  width: 108px;
}
.sentence {
  max-width: 0;
  width: 100%;
  font-weight: 600;
}
.also {
  margin-left: 6px;
  font-weight: 400;
}
.money {
  font-size: 16px;
}
.act {
  width: 130px;
  text-align: right;
  max-width: none;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  margin-bottom: 6px;
}
.scroll {
  flex: 1;
  min-height: 180px;
}
.party {
  max-width: 190px;
}
.further td {
  border-top-color: transparent;
}
/* On a narrow page a document is a card, and each agency of it three voices under their names. */
@media (max-width: 760px) {
  .documents tfoot {
    display: block;
  }
  .documents thead {
    display: none;
  }
  .documents tbody tr {
    grid-template:
      'number number finding' auto
      'party party day' auto
      'agency account open' auto
      'stated expected booked' auto / minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1fr);
    border-top: 1px solid var(--rule);
  }
  .documents tbody tr.further {
    border-top: 0;
    grid-template:
      'agency account open' auto
      'stated expected booked' auto / minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1fr);
  }
  .documents .further :is(.number, .day, .party, .finding) {
    display: none;
  }
  .documents tbody .voice {
    text-align: left;
  }
  .documents .voice::before {
    content: attr(data-voice);
    display: block;
    font-size: 12px;
    color: var(--soft);
  }
  .documents :is(.day, .finding, .open) {
    text-align: right;
  }
  .documents :is(.agency, .finding) {
    white-space: normal;
  }
  .documents tfoot tr {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 2px 8px;
    padding: 6px 8px;
    border-top: 2px solid var(--rule);
  }
  .documents tfoot td:first-child {
    grid-column: 1 / -1;
  }
  .number {
    grid-area: number;
  }
  .day {
    grid-area: day;
  }
  .party {
    grid-area: party;
  }
  .agency {
    grid-area: agency;
  }
  .account {
    grid-area: account;
  }
  .stated {
    grid-area: stated;
  }
  .expected {
    grid-area: expected;
  }
  .booked {
    grid-area: booked;
  }
  .open {
    grid-area: open;
  }
  .finding {
    grid-area: finding;
  }
}
</style>
