<script setup lang="ts">
import {
  ALIGN_KINDS,
  BULK_ACTIONS,
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
import AlignGrid from './AlignGrid.vue'
import AlignTabs from './AlignTabs.vue'
import BulkDialog from './BulkDialog.vue'
import DefaultsForm from './DefaultsForm.vue'
import LatestChanges from './LatestChanges.vue'
import NewRateForm from './newRate/NewRateForm.vue'
import RowDetail from './RowDetail.vue'
import RuleForm from './RuleForm.vue'
import { useGrid } from './useGrid.ts'
import { useSelection } from './useSelection.ts'
import { BULK_WORDS, KIND_WORDS } from './words.ts'

const route = useRoute()
const router = useRouter()
const kind = computed(() => route.params['kind'] as AlignKind)
const words = computed(() => KIND_WORDS[kind.value])
const linkKind = computed(() => LINK_KIND_OF[kind.value])
const { api, entity, changed } = useMonth()
const evidence = useEvidence()
const linkRefused = ref<Refused | null>(null)
const mending = ref<Mending | null>(null)
const filter = ref<HTMLInputElement | null>(null)
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
const reason = ref<string | null>(null)
function askBulk(action: BulkAction): void {
  if (action === 'leave' && reason.value === null) reason.value = ''
  else asking.value = selection.request(action, action === 'leave' ? (reason.value ?? '') : undefined)
}
function begun(): void {
  selection.clear()
  reason.value = null
}
const query = (key: string): string | undefined =>
  typeof route.query[key] === 'string' ? route.query[key] : undefined
function set(change: Readonly<Record<string, string | undefined>>): void {
  void router.replace({ query: { ...route.query, row: undefined, ...change } })
}
const only = computed(() => query('only') === 'differs')

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
  { key: 'f', does: 'only what differs', act: () => set({ only: only.value ? undefined : 'differs' }) },
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
    <div v-if="selection.some.value && view" class="bar chosenbar" data-selected>
      <b>{{ selection.all.value ? `all ${view.total}` : selection.ids.value.size }} selected</b>
      <form v-if="reason !== null" class="why" @submit.prevent="askBulk('leave')">
        <input
          v-model="reason"
          required
          minlength="3"
          maxlength="400"
          aria-label="Why they are left"
          placeholder="Why they stay as they are"
          autofocus
        />{{ ' ' }} <button class="do small" type="submit">Leave their findings</button>{{ ' ' }}
        <button class="plain" type="button" @click="reason = null">Not now</button>
      </form>
      <template v-else
        ><button
          v-for="action in BULK_ACTIONS"
          :key="action"
          class="plain"
          type="button"
          @click="askBulk(action)"
        >
          {{ BULK_WORDS[action].label }}
        </button></template
      >
      <span class="push"
        ><button
          v-if="!selection.all.value && view.total > selection.ids.value.size"
          class="plain"
          type="button"
          @click="selection.all.value = true"
        >
          select all {{ view.total }}</button
        >{{ ' ' }} <button class="plain" type="button" @click="selection.clear">select none</button></span
      >
    </div>
    <div v-else class="bar">
      <input
        ref="filter"
        type="search"
        :value="query('search') ?? ''"
        placeholder="Name or code"
        aria-label="Filter by name or code"
        @change="set({ search: ($event.target as HTMLInputElement).value || undefined })"
      />
      <select
        v-if="view && (view.byCode.length > 0 || query('code'))"
        :value="query('code') ?? ''"
        aria-label="Filter by finding"
        @change="set({ code: ($event.target as HTMLSelectElement).value || undefined })"
      >
        <option value="">every finding</option>
        <option v-for="each in view.byCode" :key="each.code" :value="each.code">
          {{ each.title }} ({{ each.findings }})
        </option>
      </select>
      <label class="soft"
        >in order of
        <select
          :value="query('sort') ?? 'name'"
          aria-label="Order"
          @change="
            set({
              sort:
                ($event.target as HTMLSelectElement).value === 'name'
                  ? undefined
                  : ($event.target as HTMLSelectElement).value,
            })
          "
        >
          <option value="name">the baseline</option>
          <option value="stake">what is at stake</option>
          <option value="findings">findings</option>
          <option value="documents">documents touched</option>
        </select></label
      >
      <button
        type="button"
        class="plain"
        :class="{ chosen: query('only') === 'left' }"
        @click="set({ only: query('only') === 'left' ? undefined : 'left' })"
      >
        left as they are
      </button>
      <button type="button" class="plain" @click="set({ only: only ? undefined : 'differs' })">
        {{ only ? 'show all' : 'only what differs' }} <kbd>f</kbd>
      </button>
      <span v-if="view" class="soft push"
        >{{ count(view.total, 'row')
        }}<template v-if="view.total !== view.inBaseline"
          >, {{ view.inBaseline }} in the baseline</template
        ></span
      >
    </div>
    <p v-if="refused ?? linkRefused" class="note bad" role="alert">
      {{ (refused ?? linkRefused)?.says }} {{ (refused ?? linkRefused)?.mend }}
    </p>

    <div v-if="view && view.total === 0" class="empty">
      <strong>Nothing here</strong
      >{{ view.findings === 0 && only ? 'Everything agrees.' : 'No row fits the filter.' }}
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

<style scoped>
.bar {
  display: flex;
  gap: 16px;
  align-items: center;
  margin-bottom: 8px;
  font-size: 14px;
  flex-wrap: wrap;
}
.bar input,
.bar select {
  font: inherit;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
  height: 26px;
}
.bar input {
  width: 190px;
}
.push {
  margin-left: auto;
  font-size: 13.5px;
}
.chosenbar {
  background: var(--plum-wash, var(--slate-wash));
  padding: 3px 10px;
  margin-left: -10px;
  margin-right: -10px;
}
.why {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.why input {
  width: 280px;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
</style>
