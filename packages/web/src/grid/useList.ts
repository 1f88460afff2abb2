import { computed, type ComputedRef, type Ref } from 'vue'
import type { Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { usePages, useReading } from '../shell/reading.ts'
import { useNarrowing, type Narrowing } from './useNarrowing.ts'

/** What every list is narrowed and ordered by, in the address. */
export const NARROWING = ['search', 'system', 'kind', 'from', 'to', 'least', 'most'] as const
const ORDER = ['sort', 'down'] as const

export interface List<V, R, S> extends Narrowing {
  readonly view: ComputedRef<V | null>
  /** How many documents the filter finds, and what they come to: they come after the first rows, and are never of another filter than these. */
  readonly sums: ComputedRef<S | null>
  /** Whether they are on their way. */
  readonly counting: Ref<boolean>
  readonly refused: ComputedRef<Refused | null>
  /** All rows that were read so far, page after page. */
  readonly rows: ComputedRef<readonly R[]>
  readonly reading: Ref<boolean>
  readonly hasMore: Ref<boolean>
  /** What the list is narrowed to, as a query; without order, for all of it. */
  readonly filter: ComputedRef<Readonly<Record<string, string>>>
  readonly address: ComputedRef<string>
  /** Reads the next page, where there is one. */
  more(): Promise<void>
  /** Orders by a column: again for the other way about, and once more for the usual order. */
  sortBy(name: string): void
}

interface Paged<R> {
  readonly rows: readonly R[]
  readonly next: string | null
}

interface Counted {
  readonly documents: number
}

/** A list of the month: one filter, page by page, with all of it in the address. */
export function useList<R, V extends Paged<R>, S extends Counted>(
  path: string,
  also: readonly string[],
): List<V, R, S> {
  const { api } = useMonth()
  const { query, set } = useNarrowing()
  const wanted = (names: readonly string[]): Record<string, string> =>
    Object.fromEntries(
      names.map((name) => [name, query(name)]).filter(([, value]) => value !== undefined) as [
        string,
        string,
      ][],
    )
  const filter = computed(() => wanted([...NARROWING, ...also]))
  const all = computed(() => new URLSearchParams({ ...filter.value, ...wanted(ORDER) }).toString())
  const { view, pages, current, hasMore, refused, reading, more } = usePages<V>(
    () => `${api.value}${path}?${all.value}`,
    'after',
  )
  const found = computed(() => new URLSearchParams(filter.value).toString())
  const sums = useReading<S>(
    () => `${api.value}${path}/sums?${found.value}`,
    (address) => address,
  )
  return {
    view,
    sums: computed(() => (current.value ? sums.view.value : null)),
    counting: computed(() => sums.loading.value || (!current.value && refused.value === null)),
    refused: computed(() => refused.value ?? sums.refused.value),
    rows: computed(() => pages.value.flatMap((page) => page.rows)),
    reading,
    hasMore,
    filter,
    address: computed(() => all.value),
    query,
    set,
    more,
    sortBy: (name) =>
      set(
        query('sort') !== name
          ? { sort: name, down: undefined }
          : query('down') === undefined
            ? { sort: name, down: 'yes' }
            : { sort: undefined, down: undefined },
      ),
  }
}
