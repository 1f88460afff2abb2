import { QueryClient, useInfiniteQuery, useQuery, type InfiniteData } from '@tanstack/vue-query'
import { computed, shallowRef, watch, type ComputedRef, type Ref, type ShallowRef } from 'vue'
import { asRefused, call, type Refused } from './api.ts'

/** What was read, while somebody looks at it: nothing is asked again by itself, and nothing stays once it is left. */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: false,
      networkMode: 'always',
      refetchOnWindowFocus: false,
      refetchOnReconnect: false,
      gcTime: 0,
    },
  },
})

/** Everything that is shown is read anew; lists from their first page. */
export async function readAnew(): Promise<void> {
  queries.setQueriesData<InfiniteData<unknown>>({ queryKey: ['shown', 'pages'] }, (read) =>
    read ? { pages: read.pages.slice(0, 1), pageParams: read.pageParams.slice(0, 1) } : read,
  )
  // What was asked before says nothing of what changed, the first time either.
  await queries.cancelQueries({ queryKey: ['shown'] })
  await queries.invalidateQueries({ queryKey: ['shown'] })
}

/** What a form begins with: it is not read again under somebody's hands. @throws Refused */
export function readOnce<T>(address: string): Promise<T> {
  return queries.fetchQuery({
    queryKey: ['once', address],
    queryFn: ({ signal }) => call<T>('GET', address, undefined, signal),
  })
}

/** How an address of the API is asked, and under which key its answer is shown. */
export function shown<T>(address: string) {
  return {
    queryKey: ['shown', 'one', address],
    queryFn: ({ signal }: { signal: AbortSignal }) => call<T>('GET', address, undefined, signal),
  }
}

export interface Reading<T> {
  readonly view: ShallowRef<T | null>
  readonly refused: ComputedRef<Refused | null>
  readonly loading: Ref<boolean>
  reload(): Promise<void>
}

/** What stands at an address: read whenever it changes, and with everything that is read anew. The last answer stays until the next is there; nothing is read, nor shown, while there is no address. */
export function useReading<T>(address: () => string | null): Reading<T> {
  const { data, error, isFetching, refetch } = useQuery(
    computed(() => ({ ...shown<T>(address() ?? ''), enabled: address() !== null })),
    queries,
  )
  return {
    view: lastOf(data, () => address() === null),
    refused: refusedOf(error),
    loading: isFetching,
    reload: async () => void (await refetch()),
  }
}

interface Page {
  readonly next: string | null
}
export interface Pages<V> {
  /** The first page, with what it says of all of them. */
  readonly view: ComputedRef<V | null>
  readonly pages: ComputedRef<readonly V[]>
  readonly hasMore: Ref<boolean>
  readonly refused: ComputedRef<Refused | null>
  /** Whether a further page is on its way. */
  readonly reading: Ref<boolean>
  /** Reads the next page, where there is one. */
  more(): Promise<void>
}

/**
 * A list that is read page by page.
 * @param address with its query begun
 * @param place the name of what says where a page begins
 */
export function usePages<V extends Page>(address: () => string, place: 'after' | 'before'): Pages<V> {
  const { data, error, hasNextPage, isFetching, isFetchingNextPage, fetchNextPage } = useInfiniteQuery(
    computed(() => ({
      queryKey: ['shown', 'pages', address()],
      queryFn: ({ pageParam, signal }: { pageParam: string | null; signal: AbortSignal }) =>
        call<V>(
          'GET',
          pageParam === null ? address() : `${address()}&${place}=${encodeURIComponent(pageParam)}`,
          undefined,
          signal,
        ),
      initialPageParam: null as string | null,
      getNextPageParam: (page: V) => page.next,
    })),
    queries,
  )
  const last = lastOf(data, () => false)
  const pages = computed(() => last.value?.pages ?? [])
  return {
    view: computed(() => pages.value[0] ?? null),
    pages,
    hasMore: hasNextPage,
    refused: refusedOf(error),
    reading: isFetchingNextPage,
    more: async () => {
      if (hasNextPage.value && !isFetching.value) await fetchNextPage()
    },
  }
}

function lastOf<T>(data: Ref<T | undefined>, isLeft: () => boolean): ShallowRef<T | null> {
  const last = shallowRef<T | null>(null)
  watch(
    [data, isLeft] as const,
    ([now, left]) => {
      if (left) last.value = null
      else if (now !== undefined) last.value = now
    },
    { immediate: true, flush: 'sync' },
  )
  return last
}

function refusedOf(error: Ref<Error | null>): ComputedRef<Refused | null> {
  return computed(() => (error.value ? asRefused(error.value) : null))
}
