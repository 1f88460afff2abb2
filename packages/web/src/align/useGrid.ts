import { PAGE_ROWS as PAGE, type AlignKind, type GridRow, type GridView } from '@axion/contract'
import { useQueries } from '@tanstack/vue-query'
import { computed, nextTick, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { asRefused, type Refused } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { queries, shown } from '../shell/reading.ts'
import { useView } from '../shell/useView.ts'

export interface Grid {
  readonly view: Ref<GridView | null>
  readonly refused: ComputedRef<Refused | null>
  /** A row by its place among all that the filters leave; null until it is read. */
  rowAt(at: number): GridRow | null
  /** Reads whatever of these places is not there yet. */
  want(from: number, to: number): void
  readonly chosen: ComputedRef<number>
  readonly row: ComputedRef<GridRow | null>
  choose(at: number): Promise<void>
}

/** A grid of any length: its filters and its chosen row are kept in the address, its rows are read page by page as they come into sight. */
export function useGrid(
  kind: () => AlignKind,
  open: (row: GridRow) => void,
  reveal: (at: number) => void,
): Grid {
  const route = useRoute()
  const router = useRouter()
  const { api } = useMonth()
  const filters = computed(() =>
    new URLSearchParams(
      Object.entries(route.query).filter(([key]) =>
        ['search', 'only', 'code', 'sort', 'system'].includes(key),
      ) as [string, string][],
    ).toString(),
  )
  const path = (offset: number): string =>
    `/align/${kind()}?${filters.value}${filters.value ? '&' : ''}offset=${offset}&limit=${PAGE}`
  const { view, refused: first } = useView<GridView>(() => path(0))
  /** Places in sight; what was read of others is kept a while, for whoever scrolls back. */
  const inSight = shallowRef<readonly number[]>([])
  watch(
    () => path(0),
    () => (inSight.value = []),
    { flush: 'sync' },
  )
  const page = (number: number) => ({
    ...shown<GridView>(api.value + path(number * PAGE)),
    gcTime: 300_000,
    staleTime: Infinity,
  })
  const further = computed(() => inSight.value.filter((number) => number > 0))
  const read = useQueries({ queries: computed(() => further.value.map(page)) }, queries)
  const pages = computed(
    () =>
      new Map<number, readonly GridRow[]>([
        [0, view.value?.rows ?? []],
        ...further.value.map((number, at) => [number, read.value[at]?.data?.rows ?? []] as const),
      ]),
  )
  const later = computed(() => {
    const failed = read.value.find(({ error }) => error)?.error
    return failed ? asRefused(failed) : null
  })
  const rowAt = (at: number): GridRow | null => pages.value.get(Math.floor(at / PAGE))?.[at % PAGE] ?? null
  const want = (from: number, to: number): void => {
    const numbers: number[] = []
    for (let number = Math.floor(from / PAGE); number <= Math.floor(Math.max(from, to - 1) / PAGE); number++)
      numbers.push(number)
    const ofChosen = chosen.value < 0 ? [] : [Math.floor(chosen.value / PAGE)]
    inSight.value = [...new Set([...numbers, ...ofChosen])]
  }
  const chosen = computed(() => {
    for (const [page, rows] of pages.value) {
      const at = rows.findIndex((row) => row.id === route.query['row'])
      if (at >= 0) return page * PAGE + at
    }
    return -1
  })
  const row = computed(() => (chosen.value < 0 ? null : rowAt(chosen.value)))
  async function choose(at: number): Promise<void> {
    const place = Math.min(Math.max(at, 0), (view.value?.total ?? 0) - 1)
    if (place < 0) return
    const number = Math.floor(place / PAGE)
    if (number > 0) {
      await queries.ensureQueryData(page(number))
      if (!inSight.value.includes(number)) inSight.value = [...inSight.value, number]
    }
    const target = rowAt(place)
    if (!target) return
    await router.replace({ query: { ...route.query, row: target.id } })
    await nextTick()
    reveal(place)
  }
  useRowKeys(
    (by) => void choose(chosen.value + by),
    () => row.value && open(row.value),
  )
  return { view, refused: computed(() => first.value ?? later.value), rowAt, want, chosen, row, choose }
}

function useRowKeys(move: (by: number) => void, open: () => void): void {
  useKeys(() => [
    { key: 'j', does: 'next row', act: () => move(1) },
    { key: 'ArrowDown', does: 'next row', act: () => move(1) },
    { key: 'k', does: 'row before', act: () => move(-1) },
    { key: 'ArrowUp', does: 'row before', act: () => move(-1) },
    { key: 'Enter', does: 'open the evidence', act: open },
  ])
}
