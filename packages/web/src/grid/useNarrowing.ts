import { useRoute, useRouter } from 'vue-router'

export interface Narrowing {
  /** What stands in the address under a name; undefined where nothing does. */
  query(name: string): string | undefined
  /** Narrows otherwise, and lets go of the row that was open. */
  set(changes: Readonly<Record<string, string | undefined>>): void
}

/** What a page is narrowed to and ordered by: all of it stands in the address. */
export function useNarrowing(): Narrowing {
  const route = useRoute()
  const router = useRouter()
  return {
    query: (name) => {
      const value = route.query[name]
      return typeof value === 'string' && value !== '' ? value : undefined
    },
    set: (changes) => void router.replace({ query: { ...route.query, row: undefined, ...changes } }),
  }
}
