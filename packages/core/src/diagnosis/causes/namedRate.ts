import type { Jurisdiction } from '../../baseline/baseline.ts'
import { groupBy } from '../../baseline/lookup.ts'
import type { RatedAs } from '../../determination/determination.ts'
import type { DocumentLine, TaxDocument } from '../../determination/document.ts'
import { LOST } from './componentLost.ts'
import { assuming, type Cause, type Recomputable } from './cause.ts'

/** The rate that the document itself names. One that only lacks a place tells no more than that one was lost, which comes first. */
export interface NamedRate {
  readonly kind: 'named-rate'
  readonly systemRateId: string
  readonly combinedRateId: string
  /** All its places are the document's own, so that it is as well one of them lost. */
  readonly within: boolean
  readonly enteredBy: string | null
}

export const namedRate: Cause<NamedRate, { readonly rate: string; readonly enteredBy: string | null }> = {
  kind: 'named-rate',
  rank: ({ within }) => (within ? LOST + 0.5 : 12),
  key: (a) => [a.systemRateId],
  candidates: ({ document, determination, index }) =>
    namedRates(document.original?.document ?? document).map((named) => ({
      kind: 'named-rate',
      ...named,
      within:
        index
          .combinedRate(named.combinedRateId)
          ?.jurisdictionIds.every((id) => determination.jurisdictions.some((j) => j.id === id)) === true,
      enteredBy: document.enteredBy ?? null,
    })),
  apply: (a, on, of) => {
    const ratedAs = ratesNamed(a.systemRateId, of)
    return ratedAs && assuming(on, { ratedAs })
  },
  facts: ({ systemRateId, enteredBy }, { rate }) => ({ rate: rate(null, systemRateId), enteredBy }),
  says: (f) =>
    `${f.system} used the rate “${f.rate}” that the document itself names, and not the one of its place and items${f.enteredBy ? `; ${f.enteredBy} entered it` : ''}.`,
}

/** The rates that lines themselves name; one that is the document's own place's concerns nothing. */
function namedRates({ lines }: TaxDocument): NonNullable<DocumentLine['names']>[] {
  return [
    ...groupBy(
      // What somebody chose for a line is told as that.
      lines.flatMap(({ names, overridden }) => (overridden ? [] : (names ?? []))),
      (named) => named.systemRateId,
    ).values(),
  ].flatMap(([first]) => first ?? [])
}

/** What lines are taxed as by the rate that they name, line by line; null where it is the rate of the document's own place and of their items. */
function ratesNamed(
  systemRateId: string,
  { document, determination, index }: Recomputable,
): ReadonlyMap<string, RatedAs> | null {
  const rated = document.original?.document ?? document
  const levying = (of: readonly Jurisdiction[]): string =>
    of
      .map((j) => j.id)
      .filter(index.levies)
      .sort()
      .join(' ')
  const own = levying(determination.jurisdictions)
  const named = rated.lines.flatMap((line) => {
    const rate =
      line.names?.systemRateId === systemRateId ? index.combinedRate(line.names.combinedRateId) : undefined
    if (!rate) return []
    const { itemTaxCode } = rate
    const jurisdictions = rate.jurisdictionIds.flatMap((id) => index.jurisdiction(id) ?? [])
    const elsewhere = levying(jurisdictions) !== own
    const isReduced =
      line.itemTaxCode !== null &&
      jurisdictions.some(
        (j) => index.codeRuleOn(j.id, line.itemTaxCode ?? '', rated.supplyDate)?.treatment === 'reduced',
      )
    const otherwise = itemTaxCode === null ? isReduced : itemTaxCode !== line.itemTaxCode
    return elsewhere || otherwise ? [[line.id, { jurisdictions, itemTaxCode }] as const] : []
  })
  return named.length === 0 ? null : new Map(named)
}
