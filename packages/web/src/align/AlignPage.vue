<script setup lang="ts">
import {
  ALIGN_KINDS,
  LINK_KIND_OF,
  type AlignKind,
  type BulkAction,
  type BulkInput,
  type FindingView,
  type GridRow,
  type Remedy,
} from '@axion/contract'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useEvidence } from '../evidence/useEvidence.ts'
import Amount from '../figures/Amount.vue'
import { count, isNil } from '../figures/format.ts'
import YesVerdict from '../figures/YesVerdict.vue'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import MendDialog from '../tieout/MendDialog.vue'
import type { Mending } from '../tieout/mendWords.ts'
import AlignFilters from './AlignFilters.vue'
import AlignGrid from './AlignGrid.vue'
import AlignTabs from './AlignTabs.vue'
import BulkDialog from './BulkDialog.vue'
import DefaultsForm from './DefaultsForm.vue'
import LatestChanges from './LatestChanges.vue'
import NewRateForm from './newRate/NewRateForm.vue'
import GenericCustomers from './GenericCustomers.vue'
import RowDetail from './RowDetail.vue'
import RuleForm from './RuleForm.vue'
import SelectionBar from './SelectionBar.vue'
import { useGrid } from './useGrid.ts'
import { useSelection } from './useSelection.ts'
import { KIND_WORDS } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

const route = useRoute()
const router = useRouter()
const kind = computed(() => route.params['kind'] as AlignKind)
const words = computed(() => KIND_WORDS[kind.value])
const linkKind = computed(() => LINK_KIND_OF[kind.value])
const { api, entity, changed } = useMonth()
const evidence = useEvidence()
const linkRefused = ref<Refused | null>(null)
const mending = ref<Mending | null>(null)
const filter = ref<InstanceType<typeof AlignFilters> | null>(null)
const table = ref<InstanceType<typeof AlignGrid> | null>(null)
const grid = useGrid(
  () => kind.value,
  (row) => {
    if (!isNil(row.stake)) evidence.show({ of: 'stake', finding: row.keys })
  },
  (at) => table.value?.show(at),
)
const { view, refused, row } = grid
const selection = useSelection(() => kind.value)
const asking = ref<BulkInput | null>(null)
function askBulk(action: BulkAction, reason?: string): void {
  asking.value = selection.request(action, reason)
}
/** Kinds of amount that the month holds and that no rule sends anywhere. */
const goesNowhere = computed(
  () => view.value?.byCode.find(({ code }) => code === 'AXION_NO_RULE')?.findings ?? 0,
)
const openAccounts = (): void =>
  void (asking.value = {
    kind: 'accounts',
    action: 'open',
    rows: { filter: { code: 'AXION_NO_RULE' } },
  })
function begun(): void {
  selection.clear()
}
const only = computed(() => route.query['only'] === 'differs')
const isNarrowed = computed(() => ['search', 'only', 'code', 'system'].some((name) => route.query[name]))
const nothing = computed(() =>
  !isNarrowed.value
    ? 'Neither the baseline nor a system has any. They come with a pull, or with the baseline.'
    : view.value?.findings === 0 && only.value
      ? 'Everything agrees.'
      : 'No row fits the filter.',
)
const showOnly = (differing: boolean): void =>
  void router.replace({ query: { ...route.query, row: undefined, only: differing ? 'differs' : undefined } })

async function change(method: 'PUT' | 'DELETE' | 'POST', to: string, body: unknown): Promise<void> {
  linkRefused.value = null
  try {
    await call(method, api.value + to, body)
    await changed()
  } catch (error) {
    linkRefused.value = asRefused(error)
  }
}
const link = (systemId: string, objectId: string, baselineId: string): Promise<void> =>
  change('PUT', '/links', { systemId, kind: linkKind.value, objectId, baselineId })
const unlink = (systemId: string, objectId: string): Promise<void> =>
  change('DELETE', '/links', { systemId, kind: linkKind.value, objectId })
const acceptClear = (kinds: readonly AlignKind[]): Promise<void> => change('POST', '/links/clear', { kinds })
/** Agencies first: what they are linked to is evidence for rates. */
const EVERY_KIND = [...ALIGN_KINDS].sort((a, b) => Number(b === 'agencies') - Number(a === 'agencies'))
async function acceptRow(target: GridRow | null): Promise<void> {
  if (!target || target.extra) return
  for (const cell of target.cells)
    for (const object of cell.objects.filter((o) => !o.linked))
      await link(cell.systemId, object.id, target.id)
}
function mend(remedies: readonly Remedy[]): void {
  if (remedies.length > 0) mending.value = { remedies, asks: false }
}
const leave = (finding: FindingView, reason: string | null): Promise<void> =>
  change('PUT', '/align/left', {
    kind: kind.value,
    rowId: row.value?.id ?? '',
    code: finding.code,
    systemId: finding.systemId,
    reason,
  })
useKeys(() => [
  { key: 'a', does: 'accept the row’s proposed links', act: () => void acceptRow(row.value) },
  {
    key: 'm',
    does: 'mend the row’s difference',
    act: () => mend(row.value?.cells.map((c) => c.remedies).find((r) => r.length > 0) ?? []),
  },
  { key: 'x', does: 'select the row', act: () => selection.toggle(row.value) },
  { key: 'f', does: 'only what differs', act: () => showOnly(!only.value) },
  { key: '/', does: 'filter by name or code', act: () => filter.value?.focus() },
])
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">{{ words.question }}</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="view.inBaseline === 0"
            ><strong>Not known yet.</strong> The baseline has no {{ words.many }}</template
          >
          <YesVerdict v-else-if="view.limits.all || view.findings === 0" :limits="view.limits"
            >{{ count(view.inBaseline, words.one, words.many) }} in
            {{ count(view.systems.length - view.limits.notPulled.length, 'system') }}: nothing is
            astray</YesVerdict
          >
          <template v-else
            ><strong>No: {{ count(view.findings, 'finding') }}</strong
            ><template v-if="!isNil(view.stake) && linkKind"
              >{{ view.findings === 1 ? ' puts ' : ' put '
              }}<Amount :value="view.stake" :of="{ of: 'stake', kind: linkKind }" breaks />
              {{ view.currency }} of the month’s tax at stake</template
            ></template
          >
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <LatestChanges />
        <button
          v-if="view && view.clearInAll > view.clearLinks"
          class="do"
          type="button"
          data-accept-all
          @click="acceptClear(EVERY_KIND)"
        >
          Every kind: accept {{ view.clearInAll }}
        </button>
        <button
          v-if="kind === 'accounts' && goesNowhere > 0 && entity.role !== 'viewer'"
          class="do first"
          type="button"
          data-open-accounts
          @click="openAccounts"
        >
          Accounts for {{ goesNowhere }} that {{ goesNowhere === 1 ? 'goes' : 'go' }} nowhere
        </button>
        <button
          v-if="view && view.clearLinks > 0"
          class="do first"
          type="button"
          @click="acceptClear([kind])"
        >
          Accept {{ count(view.clearLinks, 'clear link') }}
        </button>
      </div>
    </div>
    <AlignTabs :chosen="kind" />
    <SelectionBar
      v-if="selection.some.value && view"
      :selection="selection"
      :total="view.total"
      :kind="kind"
      @ask="askBulk"
    />
    <AlignFilters v-else ref="filter" :view="view" />
    <RefusedNote :refused="refused ?? linkRefused" />

    <div v-if="view && view.total === 0" class="empty">
      <strong>Nothing here</strong>{{ nothing
      }}<template v-if="!isNarrowed"
        >{{ ' ' }}What systems hold makes a
        <RouterLink :to="{ name: 'decisions' }">draft to decide upon</RouterLink>.</template
      >
    </div>
    <AlignGrid
      v-show="view && view.total > 0"
      ref="table"
      :kind="kind"
      :grid="grid"
      :selection="selection"
      @link="link"
    />
    <RuleForm v-if="kind === 'accounts'" @mend="mend" />
    <NewRateForm v-if="kind === 'rates' && entity.role !== 'viewer'" />
    <DefaultsForm v-if="kind === 'items' || kind === 'parties'" :key="kind" :kind="kind" />
    <GenericCustomers v-if="kind === 'parties'" />
    <BulkDialog v-model="asking" @begun="begun" />
    <RowDetail
      v-if="row && view"
      :row="row"
      :view="view"
      @link="link"
      @unlink="unlink"
      @mend="mend"
      @leave="leave"
    />
    <MendDialog v-model="mending" />
  </main>
</template>
