import type { BaselineIndex } from '../baseline/lookup.ts'
import type { TaxDocument } from '../determination/document.ts'
import { determine, type Determination } from '../determination/determine.ts'
import type { Percent } from '../money/decimal.ts'
import { expectedVoice, type VoiceFacts } from '../tieout/facts.ts'
import { agree } from '../tieout/signature.ts'

/**
 * One changed assumption under which a unit is recomputed (K10).
 * The percent of a component, or the liability account of an agency, is as a system's own snapshot holds it.
 */
export type Assumption =
  | { readonly kind: 'component-percent'; readonly systemId: string; readonly systemRateId: string; readonly combinedRateId: string; readonly jurisdictionId: string; readonly percent: Percent }
  | { readonly kind: 'liability-account'; readonly systemId: string; readonly systemAgencyId: string; readonly agencyId: string; readonly account: string }

/** Where a system's snapshot departs from the baseline, on one date. */
export type Departures = readonly Assumption[]

/**
 * The assumptions that reproduce the odd voice exactly, as equals; none is `unexplained`, never the nearest guess.
 * A candidate must differ from what the baseline expects.
 */
export function diagnose(
  document: TaxDocument,
  determination: Determination,
  odd: VoiceFacts,
  departures: Departures,
  index: BaselineIndex,
): Assumption[] {
  if (!determination.complete) return []
  const expected = expectedVoice(document, determination, index)
  return departures.filter((assumption) => {
    const recomputed = under(assumption, document, determination, expected, index)
    return recomputed !== null && !agree(recomputed, expected) && agree(recomputed, odd)
  })
}

function under(
  assumption: Assumption,
  document: TaxDocument,
  determination: Determination,
  expected: VoiceFacts,
  index: BaselineIndex,
): VoiceFacts | null {
  if (assumption.kind === 'liability-account') {
    const facts = expected.facts.map((fact) => (fact.agency === assumption.agencyId ? { ...fact, account: assumption.account } : fact))
    return { ...expected, facts }
  }
  if (combinedRateOf(document, determination, index) !== assumption.combinedRateId) return null
  const percentOf = (id: string): Percent | undefined => (id === assumption.jurisdictionId ? assumption.percent : undefined)
  return expectedVoice(document, determine(document, index, { percentOf }), index)
}

/** The baseline's combined rate that a document's taxed rows make up, if any. */
export function combinedRateOf(document: TaxDocument, determination: Determination, index: BaselineIndex): string | null {
  const taxed = new Set(determination.rows.filter((row) => row.reason === 'standard').map((row) => row.jurisdictionId))
  return taxed.size === 0 ? null : (index.combinedRateOf([...taxed], document.supplyDate)?.id ?? null)
}

/** The same assumption on another document has the same key: it makes one cause. */
export function causeKey(assumption: Assumption): string {
  return assumption.kind === 'component-percent'
    ? ['component-percent', assumption.systemId, assumption.systemRateId, assumption.jurisdictionId, assumption.percent].join('|')
    : ['liability-account', assumption.systemId, assumption.systemAgencyId, assumption.account].join('|')
}
