import { isTaxed } from '../../determination/determination.ts'
import { assuming, voicing, type Cause } from './cause.ts'

/** Its rank, which a named rate that lacks a place comes right after. */
export const LOST = 15

/** One component lost. */
export interface ComponentLost {
  readonly kind: 'component-lost'
  readonly jurisdictionId: string
  /** Its amount is gone and the rest as it stood; else all is worked out without it. */
  readonly dropped: boolean
}

export const componentLost: Cause<ComponentLost, { readonly jurisdiction: string }> = {
  kind: 'component-lost',
  rank: () => LOST,
  key: (a) => [a.jurisdictionId],
  candidates: ({ determination }) => {
    const taxed = [...new Set(determination.rows.filter(isTaxed).map((row) => row.jurisdictionId))]
    // The only one lost is tax not charged at all.
    if (taxed.length < 2) return []
    return taxed.flatMap((jurisdictionId) =>
      [false, true].map((dropped) => ({ kind: 'component-lost', jurisdictionId, dropped }) as const),
    )
  },
  apply: (a, on) =>
    a.dropped
      ? voicing(on, (v) => ({ ...v, facts: v.facts.filter((f) => f.jurisdictionId !== a.jurisdictionId) }))
      : assuming(on, { without: a.jurisdictionId }),
  facts: (a, { jurisdiction }) => ({ jurisdiction: jurisdiction(a.jurisdictionId) }),
  says: (f) => `${f.system} left out the component of ${f.jurisdiction}.`,
}
