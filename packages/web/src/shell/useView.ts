import { useMonth } from './month.ts'
import { useReading, type Reading } from './reading.ts'

/** What a page reads of the month, at a path below it. */
export function useView<T>(path: () => string | null): Reading<T> {
  const { api } = useMonth()
  return useReading<T>(() => {
    const below = path()
    return below === null ? null : api.value + below
  })
}
