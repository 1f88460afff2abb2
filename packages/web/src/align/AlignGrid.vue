<script setup lang="ts">
import type { AlignKind, GridCell, GridRow } from '@axion/contract'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import Amount from '../figures/Amount.vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import GridCellMark from './GridCellMark.vue'
import GridHead from './GridHead.vue'
import LinkChoice from './LinkChoice.vue'
import type { Grid } from './useGrid.ts'
import type { Selection } from './useSelection.ts'
import { KIND_WORDS } from './words.ts'

/** The table of a kind: a row for each object of the baseline, a column for each system; only what is in sight is drawn. */
const { kind, grid, selection } = defineProps<{ kind: AlignKind; grid: Grid; selection: Selection }>()
const emit = defineEmits<{ link: [systemId: string, objectId: string, baselineId: string] }>()
const words = computed(() => KIND_WORDS[kind])
const format = useFormat()
const scroller = ref<HTMLElement | null>(null)
const { view, chosen, row } = grid
/** Heights of a row and of the table's head, in pixels. */
const ROW = 29
const HEAD = 46

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
watch(
  () => kind,
  () => scroller.value?.scrollTo?.({ top: 0 }),
)
watch(row, async (now, before) => {
  // The detail takes height from the table: what was chosen stays in sight.
  if ((now === null) === (before === null)) return
  await nextTick()
  if (chosen.value >= 0) virtual.value.scrollToIndex(chosen.value, { align: 'auto' })
})

/** Brings a row into sight. */
function show(at: number): void {
  virtual.value.scrollToIndex(at, { align: 'auto' })
}
defineExpose({ show })

/** What is to be said of a cell beside its state. */
const besides = (r: GridRow, cell: GridCell): string =>
  !r.extra && cell.objects.some((o) => !o.linked) ? 'not linked' : isAlmost(r, cell) ? 'other name' : ''
/** Whether something is wrong with what the baseline itself says of a row: the value it is said of stands out. */
const ownFault = (r: GridRow): boolean => r.findings.some((f) => f.system === null && !f.left)
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
  <div ref="scroller" class="scroll rows" tabindex="0" role="region" :aria-label="words.title">
    <table v-if="view" class="sheet grid" :class="{ many }" :aria-rowcount="view.total">
      <GridHead :kind="kind" :view="view" :many="many" />
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
                    @link="emit('link', r.extra.systemId, r.extra.objectId, $event)"
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
</template>

<style scoped>
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
.grid td {
  max-width: none;
  overflow: hidden;
  text-overflow: ellipsis;
}
td.select {
  padding: 0 6px;
}
.many td.strong,
.many td.soft {
  white-space: normal;
  line-height: 1.25;
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
}
/* On a narrow page a row is a card: what it is, what is at stake, and each system that has it otherwise. */
@media (max-width: 760px) {
  .grid,
  .grid tbody {
    display: block;
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
