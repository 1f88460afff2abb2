import { QueryClient, useInfiniteQuery, useQuery, type InfiniteData } from '@tanstack/vue-query'
import { computed, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
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
  readonly view: ComputedRef<T | null>
  readonly refused: ComputedRef<Refused | null>
  readonly loading: Ref<boolean>
  reload(): Promise<void>
}

/** What is asked for, without how it is narrowed and ordered: an answer about something else never stands in its place. */
const subjectOf = (address: string): string => address.replace(/\?.*/s, '')

/**
 * What stands at an address: read whenever it changes, and with everything that is read anew. Where it is only narrowed otherwise, the last answer stays
 * until the next is there; nothing is read, nor shown, while there is no address.
 * @param of what an answer is about: of what is narrowed otherwise, too, unless the whole address says it
 */
export function useReading<T>(
  address: () => string | null,
  of: (address: string) => string = subjectOf,
): Reading<T> {
  const { data, error, isFetching, refetch } = useQuery(
    computed(() => {
      const asked = address()
      return {
        ...shown<T>(asked ?? ''),
        enabled: asked !== null,
        select: (answer: T) => ({ of: of(asked ?? ''), answer }),
      }
    }),
    queries,
  )
  const last = lastOf(data, address, of)
  return {
    view: computed(() => last.value?.answer ?? null),
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
  /** Whether they are of what is asked for now, and not of how it was narrowed before. */
  readonly current: ComputedRef<boolean>
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
    computed(() => {
      const asked = address()
      return {
        queryKey: ['shown', 'pages', asked],
        queryFn: ({ pageParam, signal }: { pageParam: string | null; signal: AbortSignal }) =>
          call<V>(
            'GET',
            pageParam === null ? asked : `${asked}&${place}=${encodeURIComponent(pageParam)}`,
            undefined,
            signal,
          ),
        initialPageParam: null as string | null,
        getNextPageParam: (page: V) => page.next,
        select: ({ pages }: InfiniteData<V>) => ({ of: subjectOf(asked), pages }),
      }
    }),
    queries,
  )
  const last = lastOf(data, address, subjectOf)
  const pages = computed(() => last.value?.pages ?? [])
  return {
    view: computed(() => pages.value[0] ?? null),
    pages,
    current: computed(() => data.value !== undefined),
    hasMore: hasNextPage,
    refused: refusedOf(error),
    reading: isFetchingNextPage,
    more: async () => {
      if (hasNextPage.value && !isFetching.value) await fetchNextPage()
    },
  }
}

/** The last answer, as long as it is about what is asked for. */
function lastOf<T extends { readonly of: string }>(
  data: Ref<T | undefined>,
  address: () => string | null,
  of: (address: string) => string,
): ComputedRef<T | null> {
  const last = shallowRef<T | null>(null)
  watch(
    [data, address] as const,
    ([now, asked]) => {
      if (asked === null) last.value = null
      else if (now !== undefined) last.value = now
    },
    { immediate: true, flush: 'sync' },
  )
  return computed(() => (last.value?.of === of(address() ?? '') ? last.value : null))
}

function refusedOf(error: Ref<Error | null>): ComputedRef<Refused | null> {
  return computed(() => (error.value ? asRefused(error.value) : null))
}
