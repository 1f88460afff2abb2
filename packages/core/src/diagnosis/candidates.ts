import type { RoundingPlace } from '../baseline/baseline.ts'
import { covers, type IsoDate } from '../baseline/dates.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import { isTaxed, type Determination } from '../determination/determination.ts'
import type { DocumentLine, TaxDocument } from '../determination/document.ts'
import { RATE_PLACES, type Assumption } from './assumptions.ts'

const LEVELS = ['unit', 'line', 'document'] as const
const UNITS = ['component', 'combined'] as const
const TIES = ['half-away', 'half-even', 'truncate'] as const

/** Every other place of K1: another level or unit, or another tie mode with both as they are. */
export function otherPlaces(own: RoundingPlace): RoundingPlace[] {
  const places = LEVELS.flatMap((level) => UNITS.map((unit) => ({ level, unit, tie: own.tie })))
  return [...places, ...TIES.map((tie) => ({ ...own, tie }))].filter(
    (place) => place.level !== own.level || place.unit !== own.unit || place.tie !== own.tie,
  )
}

/** The mistakes that could have been made with this document, its systems' snapshots aside; those that change nothing sort themselves out. */
export function candidatesOf(
  document: TaxDocument,
  determination: Determination,
  index: BaselineIndex,
): Assumption[] {
  const taxed = determination.rows.filter(isTaxed)
  const jurisdictions = [...new Set(taxed.map((row) => row.jurisdictionId))]
  const agencies = [...new Set(taxed.map((row) => row.agencyId))]
  const rated = document.original?.document ?? document
  const shipping = rated.lines.some((line) => line.kind === 'shipping')
  return [
    ...(determination.rounding
      ? otherPlaces(determination.rounding).map((place): Assumption => ({ kind: 'rounding', place }))
      : []),
    ...otherDates(rated.supplyDate, determination, index).map((date): Assumption => ({
      kind: 'rate-date',
      date,
    })),
    ...RATE_PLACES.flatMap((place): Assumption[] =>
      [false, true].map((whole) => ({ kind: 'rate-place', place, whole })),
    ),
    ...namedRates(rated).map((named): Assumption => ({
      kind: 'named-rate',
      ...named,
      within:
        index
          .combinedRate(named.combinedRateId)
          ?.jurisdictionIds.every((id) => determination.jurisdictions.some((j) => j.id === id)) === true,
      enteredBy: document.enteredBy ?? null,
    })),
    // The only one lost is tax not charged at all.
    ...(jurisdictions.length > 1
      ? jurisdictions.flatMap((jurisdictionId): Assumption[] =>
          [false, true].map((dropped) => ({ kind: 'component-lost', jurisdictionId, dropped })),
        )
      : []),
    ...(agencies.length > 1
      ? agencies.map((agencyId): Assumption => ({ kind: 'one-agency', agencyId }))
      : []),
    ...(determination.rows.some((row) => row.reason === 'certificate')
      ? [{ kind: 'exemption-ignored' } as const]
      : taxed.length > 0
        ? [{ kind: 'exempted-without-certificate' } as const]
        : []),
    ...(shipping
      ? [{ kind: 'shipping', taxed: true } as const, { kind: 'shipping', taxed: false } as const]
      : []),
    ...(rated.discount !== 0n
      ? [{ kind: 'discount', beforeTax: true } as const, { kind: 'discount', beforeTax: false } as const]
      : []),
    { kind: 'prices', includeTax: !rated.pricesIncludeTax },
    { kind: 'sign' },
    ...(document.lines.length > 1
      ? document.lines.map((line): Assumption => ({ kind: 'line-left-out', lineId: line.id }))
      : []),
    ...(document.exchange ? [{ kind: 'exchange-at-one' } as const] : []),
  ]
}

/** The rates that lines themselves name; one that is the document's own place's concerns nothing. */
function namedRates({ lines }: TaxDocument): NonNullable<DocumentLine['names']>[] {
  return [
    ...groupBy(
      lines.flatMap(({ names }) => names ?? []),
      (named) => named.systemRateId,
    ).values(),
  ].flatMap(([first]) => first ?? [])
}

/** One date per other version of the rates concerned. */
function otherDates(date: IsoDate, { jurisdictions }: Determination, index: BaselineIndex): IsoDate[] {
  const versions = jurisdictions
    .flatMap((j) => index.ratesOf(j.id))
    .filter((version) => !covers(version.valid, date))
  return [
    ...new Set(
      versions.map(({ valid }) => (valid.from <= date && valid.to !== null ? valid.to : valid.from)),
    ),
  ].sort()
}
