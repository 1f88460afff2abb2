<script setup lang="ts">
import {
  ALIGN_KINDS,
  BULK_ACTIONS,
  LINK_KIND_OF,
  type AlignKind,
  type BulkAction,
  type BulkInput,
  type FindingView,
  type GridCell,
  type GridRow,
  type Remedy,
} from '@axion/contract'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useEvidence } from '../evidence/useEvidence.ts'
import Amount from '../figures/Amount.vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import MendDialog from '../tieout/MendDialog.vue'
import type { Mending } from '../tieout/mendWords.ts'
import AlignTabs from './AlignTabs.vue'
import BulkDialog from './BulkDialog.vue'
import DefaultsForm from './DefaultsForm.vue'
import GridCellMark from './GridCellMark.vue'
import LatestChanges from './LatestChanges.vue'
import LinkChoice from './LinkChoice.vue'
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
const format = useFormat()
const linkRefused = ref<Refused | null>(null)
const mending = ref<Mending | null>(null)
const scroller = ref<HTMLElement | null>(null)
const filter = ref<HTMLInputElement | null>(null)
/** Heights of a row and of the table's head, in pixels. */
const ROW = 29
const HEAD = 46

const grid = useGrid(
  () => kind.value,
  (row) => {
    if (!isNil(row.stake)) evidence.show({ of: 'stake', finding: row.keys })
  },
  (at) => virtual.value.scrollToIndex(at, { align: 'auto' }),
)
const { view, refused, chosen, row } = grid
const virtual = useVirtualizer(
  computed(() => ({
    count: view.value?.total ?? 0,
    getScrollElement: () => scroller.value,
    estimateSize: () => ROW,
    // Where nothing is laid out, a row has its usual height.
    measureElement: (element: Element) => element.getBoundingClientRect().height || ROW,
    overscan: 12,
    initialRect: { width: 1000, height: 700 },
    scrollPaddingStart: HEAD,
    scrollPaddingEnd: ROW,
  })),
)
const inSight = computed(() => virtual.value.getVirtualItems())
const above = computed(() => inSight.value[0]?.start ?? 0)
const below = computed(() => Math.max(0, virtual.value.getTotalSize() - (inSight.value.at(-1)?.end ?? 0)))
watch(inSight, (items) => {
  const [first] = items
  if (first) grid.want(first.index, (items.at(-1)?.index ?? first.index) + 1)
})
watch(kind, () => scroller.value?.scrollTo?.({ top: 0 }))
watch(row, async (now, before) => {
  // The detail takes height from the table: what was chosen stays in sight.
  if ((now === null) === (before === null)) return
  await nextTick()
  if (chosen.value >= 0) virtual.value.scrollToIndex(chosen.value, { align: 'auto' })
})

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
/** What is to be said of a cell beside its state. */
const besides = (r: GridRow, cell: GridCell): string =>
  !r.extra && cell.objects.some((o) => !o.linked) ? 'not linked' : isAlmost(r, cell) ? 'other name' : ''
/** Whether something is wrong with what the baseline itself says of a row: the value it is said of stands out. */
const ownFault = (r: GridRow): boolean => r.findings.some((f) => f.system === null && !f.left)
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
/** Whether a system calls a row by nearly the same name. */
const isAlmost = (r: GridRow, cell: GridCell): boolean =>
  r.findings.some(
    (f) =>
      f.code === 'AXION_ALIGN_NAME' &&
      !f.left &&
      f.system === view.value?.systems.find((s) => s.id === cell.systemId)?.name,
  )
/** With many systems the width belongs to them. */
const many = computed(() => (view.value?.systems.length ?? 0) > 3)
/** A group's name stands once, where it begins. */
const begins = (at: number): boolean => at === 0 || grid.rowAt(at - 1)?.group !== grid.rowAt(at)?.group
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
          <template v-else-if="view.systems.every((s) => s.pulledAt === null)"
            ><strong>Not known yet.</strong> Pull the systems in Connect</template
          >
          <template v-else-if="view.findings === 0"
            ><strong>Yes.</strong> {{ count(view.inBaseline, words.one, words.many) }} in
            {{ count(view.systems.length, 'system') }}: nothing is astray</template
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
    <div
      v-show="view && view.total > 0"
      ref="scroller"
      class="scroll rows"
      tabindex="0"
      role="region"
      :aria-label="words.title"
    >
      <table v-if="view" class="sheet grid" :class="{ many }" :aria-rowcount="view.total">
        <colgroup>
          <col class="select" />
          <col class="name" />
          <col v-if="!many" class="group" />
          <col class="detail" />
          <col class="total" />
          <col v-for="system in view.systems" :key="system.id" />
          <col :class="kind === 'accounts' ? 'moved' : 'touches'" />
          <col class="stake" />
        </colgroup>
        <thead>
          <tr>
            <th scope="col" aria-label="Selected" />
            <template v-for="(head, at) in words.columns" :key="head"
              ><th v-if="at !== 1 || !many" scope="col" :class="{ n: at === 3 && words.figure }">
                {{ head }}
              </th></template
            >
            <th v-for="system in view.systems" :key="system.id" scope="col" class="system">
              {{ system.name
              }}<small
                >{{ system.pulledAt ? `pulled ${format.instant(system.pulledAt)}` : 'not pulled'
                }}<template v-if="system.changes > 0"
                  >, {{ count(system.changes, 'change') }}</template
                ></small
              >
            </th>
            <th
              v-if="kind === 'accounts'"
              scope="col"
              class="n"
              :title="`What the ledger moved on it in the month, ${view.currency}; credits count up`"
            >
              Moved, {{ view.currency }}
            </th>
            <th v-else scope="col" class="n touches">Touches</th>
            <th scope="col" class="n" :title="`Tax at stake, ${view.currency}`">At stake</th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="above > 0" aria-hidden="true">
            <td class="gap" :style="{ height: `${above}px` }" :colspan="7 + view.systems.length" />
          </tr>
          <template v-for="{ index: at } in inSight" :key="grid.rowAt(at)?.id ?? at">
            <tr v-if="!grid.rowAt(at)">
              <td class="soft" :colspan="7 + view.systems.length">reading</td>
            </tr>
            <tr
              v-else
              :ref="(element) => virtual.measureElement(element as Element | null)"
              :class="{ chosen: at === chosen }"
              :data-row="grid.rowAt(at)?.extra ? undefined : grid.rowAt(at)?.id"
              :data-extra="grid.rowAt(at)?.extra?.objectId"
              :data-index="at"
              :aria-rowindex="at + 1"
              @click="grid.choose(at)"
            >
              <template v-for="r in [grid.rowAt(at) as GridRow]" :key="r.id">
                <td class="select" @click.stop>
                  <input
                    type="checkbox"
                    :checked="selection.has(r.id)"
                    :aria-label="`Select ${r.name}`"
                    @change="selection.toggle(r)"
                  />
                </td>
                <td class="strong" :title="r.shared ? `${r.name}, ${r.id}` : r.name">
                  {{ r.name }}<small v-if="r.shared" class="code">{{ r.id }}</small>
                </td>
                <template v-if="r.extra">
                  <td v-if="!many" class="soft" :title="`Held by ${r.extra.system}, linked to nothing`">
                    only {{ r.detail }}
                  </td>
                  <td class="candidates" colspan="2">
                    <LinkChoice
                      :row="r"
                      :kind="kind"
                      @link="link(r.extra.systemId, r.extra.objectId, $event)"
                    />
                  </td>
                </template>
                <template v-else>
                  <td v-if="!many" class="soft" :title="r.group">
                    {{ begins(at) || r.group === r.id ? r.group : '' }}
                  </td>
                  <td :class="kind === 'locations' && ownFault(r) ? 'astray' : 'soft'" :title="r.detail">
                    {{ r.detail }}
                  </td>
                  <td
                    :class="[
                      words.figure ? 'n strong' : 'strong',
                      { astray: kind !== 'locations' && ownFault(r) },
                    ]"
                    :title="r.total"
                  >
                    {{ r.total || (r.findings.some((f) => f.system === null) ? 'none' : '') }}
                  </td>
                </template>
                <td
                  v-for="cell in r.cells"
                  :key="cell.systemId"
                  class="system"
                  :data-system="view.systems.find((s) => s.id === cell.systemId)?.name"
                  :data-cell="cell.systemId"
                  :data-state="cell.state"
                >
                  <GridCellMark
                    v-if="cell.state !== 'none'"
                    :state="cell.state"
                    :words="cell.words"
                    :besides="besides(r, cell)"
                  />
                </td>
                <td v-if="kind === 'accounts'" class="n">
                  {{ r.moved === null || isNil(r.moved) ? '–' : format.signed(r.moved) }}
                </td>
                <td v-else class="n soft touches">
                  {{ r.documents === 0 ? '–' : count(r.documents, 'doc') }}
                </td>
                <td class="n"><Amount :value="r.stake" :of="{ of: 'stake', finding: r.keys }" breaks /></td>
              </template>
            </tr>
          </template>
          <tr v-if="below > 0" aria-hidden="true">
            <td class="gap" :style="{ height: `${below}px` }" :colspan="7 + view.systems.length" />
          </tr>
        </tbody>
      </table>
    </div>
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
.rows {
  flex: 0 1 auto;
  min-height: 180px;
}
.astray {
  color: var(--rust);
  font-weight: 600;
}
.system {
  border-left: 1px solid var(--rule);
}
th small {
  display: block;
  font-weight: 400;
  font-size: 12px;
}
.grid {
  table-layout: fixed;
}
/* What differs stands whole, over as many lines as it takes. */
.grid td.system {
  white-space: normal;
  padding-top: 3px;
  padding-bottom: 3px;
  line-height: 1.25;
}
.grid td,
.grid th {
  max-width: none;
  overflow: hidden;
  text-overflow: ellipsis;
}
col.select {
  width: 30px;
}
td.select {
  padding: 0 6px;
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
col.name {
  width: 16%;
}
col.group {
  width: 8.5%;
}
col.detail {
  width: 11%;
}
col.total {
  width: 108px;
}
.many col.name {
  width: 172px;
}
.many col.detail {
  width: 122px;
}
.many col.total {
  width: 80px;
}
col.touches {
  width: 70px;
}
col.moved {
  width: 118px;
}
col.stake {
  width: 96px;
}
.code {
  margin-left: 6px;
  font-weight: 400;
  font-size: 12.5px;
  color: var(--soft);
}
.sheet td.gap {
  padding: 0;
  border: 0;
}
/* Narrower, the width belongs to what differs. */
@media (max-width: 1100px) {
  .many .touches {
    display: none;
  }
  .many col.name {
    width: 150px;
  }
  .many col.detail {
    width: 104px;
  }
  .many col.total {
    width: 68px;
  }
  .many col.stake {
    width: 80px;
  }
  .many td.strong,
  .many td.soft {
    white-space: normal;
    line-height: 1.25;
  }
  th.system small {
    display: none;
  }
}
/* On a narrow page a row is a card: what it is, what is at stake, and each system that has it otherwise. */
@media (max-width: 760px) {
  .grid,
  .grid tbody {
    display: block;
  }
  .grid thead {
    display: none;
  }
  .grid tr[data-index] {
    display: grid;
    grid-template-columns: 26px minmax(0, 1fr) auto;
    border-bottom: 1px solid var(--rule);
    padding: 5px 6px;
    column-gap: 6px;
  }
  .grid tr[data-index] td {
    display: none;
    border: 0;
    padding: 0;
    height: auto;
    white-space: normal;
  }
  .grid tr[data-index] td:nth-child(1),
  .grid tr[data-index] td:nth-child(2),
  .grid tr[data-index] td:last-child {
    display: block;
  }
  .grid tr[data-index] td.candidates,
  .grid
    tr[data-index]
    td:is([data-state='differs'], [data-state='absent'], [data-state='proposed'], [data-state='question']) {
    display: block;
    grid-column: 2 / -1;
    order: 1;
  }
  .grid tr[data-index] td.system::before {
    content: attr(data-system) ': ';
    color: var(--soft);
  }
}
</style>
