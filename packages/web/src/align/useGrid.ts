import type { AlignKind, GridRow, GridView } from '@axion/contract'
import { computed, nextTick, ref, shallowRef, watch, type ComputedRef, type Ref, type ShallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { useView } from '../shell/useView.ts'

/** So many rows come with one answer. */
const PAGE = 200

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
  const pages: ShallowRef<ReadonlyMap<number, readonly GridRow[]>> = shallowRef(new Map())
  const asked = new Set<number>()
  const later = ref<Refused | null>(null)

  watch(view, (now) => {
    asked.clear()
    asked.add(0)
    pages.value = new Map(now ? [[0, now.rows]] : [])
  })
  async function read(page: number): Promise<void> {
    if (asked.has(page)) return
    asked.add(page)
    const of = view.value
    try {
      const answer = await call<GridView>('GET', api.value + path(page * PAGE))
      if (view.value === of) pages.value = new Map([...pages.value, [page, answer.rows]])
    } catch (error) {
      asked.delete(page)
      later.value = asRefused(error)
    }
  }
  const rowAt = (at: number): GridRow | null => pages.value.get(Math.floor(at / PAGE))?.[at % PAGE] ?? null
  const want = (from: number, to: number): void => {
    for (let page = Math.floor(from / PAGE); page <= Math.floor(Math.max(from, to - 1) / PAGE); page++)
      void read(page)
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
    await read(Math.floor(place / PAGE))
    const target = rowAt(place)
    if (!target) return
    await router.replace({ query: { ...route.query, row: target.id } })
    await nextTick()
    reveal(place)
  }
  const move = (by: number): void => void choose(chosen.value + by)
  useKeys(() => [
    { key: 'j', does: 'next row', act: () => move(1) },
    { key: 'ArrowDown', does: 'next row', act: () => move(1) },
    { key: 'k', does: 'row before', act: () => move(-1) },
    { key: 'ArrowUp', does: 'row before', act: () => move(-1) },
    { key: 'Enter', does: 'open the evidence', act: () => row.value && open(row.value) },
  ])
  return { view, refused: computed(() => first.value ?? later.value), rowAt, want, chosen, row, choose }
}
