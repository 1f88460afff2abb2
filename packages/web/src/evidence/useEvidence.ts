import { parseSelector, selectorText, type Selector } from '@axion/contract'
import { computed, type ComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'

export interface EvidenceState {
  /** The open amount's selector as text, or null while the dock is closed. It stands in the address. */
  readonly open: ComputedRef<string | null>
  readonly selector: ComputedRef<Selector | null>
  show(selector: Selector): void
  close(): void
}

/** The evidence dock's state is the address: a colleague who gets the link sees the same amount open. */
export function useEvidence(): EvidenceState {
  const route = useRoute()
  const router = useRouter()
  const open = computed(() =>
    typeof route.query['open'] === 'string' && route.query['open'] !== '' ? route.query['open'] : null,
  )
  return {
    open,
    selector: computed(() => {
      try {
        return open.value === null ? null : parseSelector(open.value)
      } catch {
        // An address that somebody wrote by hand selects nothing; the dock says so.
        return null
      }
    }),
    show: (selector) => void router.push({ query: { ...route.query, open: selectorText(selector) } }),
    close: () => void router.push({ query: { ...route.query, open: undefined } }),
  }
}
