import { ref, watch, type Ref } from 'vue'
import { asRefused, call, type Refused } from './api.ts'
import { useMonth } from './month.ts'

export interface View<T> {
  readonly view: Ref<T | null>
  readonly refused: Ref<Refused | null>
  readonly loading: Ref<boolean>
  reload(): Promise<void>
}

/** What a page reads: again whenever its address changes, or something of the month does. The last answer stays until the next is there. */
export function useView<T>(path: () => string): View<T> {
  const { api, version } = useMonth()
  const view = ref(null) as Ref<T | null>
  const refused = ref<Refused | null>(null)
  const loading = ref(true)
  let asked = 0

  async function reload(): Promise<void> {
    const turn = ++asked
    loading.value = true
    try {
      const answer = await call<T>('GET', api.value + path())
      if (turn === asked) [view.value, refused.value] = [answer, null]
    } catch (error) {
      if (turn === asked) refused.value = asRefused(error)
    } finally {
      if (turn === asked) loading.value = false
    }
  }
  watch([() => api.value + path(), version], reload, { immediate: true })
  return { view, refused, loading, reload }
}
