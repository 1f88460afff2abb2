import type { RoundingPlace } from '../../baseline/baseline.ts'
import { isTaxed } from '../../determination/determination.ts'
import { extractAt, taxAt, type InclusiveLine } from '../../determination/taxRounding.ts'
import { absolute, sum, type MinorUnits } from '../../money/currency.ts'
import { formatPercent, multiply, PERCENT_SCALE, ratio, subtract, type Percent } from '../../money/decimal.ts'
import type { TaxFact, VoiceFacts } from '../../tieout/facts.ts'
import { voicing, type Cause, type Recomputable } from './cause.ts'

/** A rate typed by hand, without components. */
export interface FlatRate {
  readonly kind: 'flat-rate'
  readonly systemId: string
  readonly systemRateId: string
  readonly percent: Percent
}

export const flatRate: Cause<FlatRate, { readonly rate: string; readonly percent: string }> = {
  kind: 'flat-rate',
  rank: () => 2,
  key: (a) => [a.systemId, a.systemRateId],
  candidates: () => [],
  apply: (a, on, of) => voicing(on, (v) => flatly(v, a.percent, of)),
  facts: (a, { rate }) => ({
    rate: rate(a.systemId, a.systemRateId),
    percent: formatPercent(BigInt(a.percent)),
  }),
  says: (f) => `${f.system} used the flat rate “${f.rate}”, ${f.percent}\u00a0% without components.`,
}

/**
 * A flat rate on what is taxed, at the baseline's level: it has a total and no split. Inside prices that include tax it is taken out
 * of the gross, so that the total stays and net is what is left.
 */
function flatly(voice: VoiceFacts, percent: Percent, { document, determination }: Recomputable): VoiceFacts {
  const [any] = voice.facts
  if (!any) return voice
  const place: RoundingPlace = {
    level: determination.rounding?.level ?? 'document',
    unit: 'combined',
    tie: determination.rounding?.tie ?? 'half-away',
  }
  const taxed = document.lines.map((line) => {
    const own = determination.rows.filter((row) => row.lineId === line.id && isTaxed(row))
    const base = own.reduce((most, row) => (absolute(row.base) > absolute(most) ? row.base : most), 0n)
    return { line, base, inside: sum(own.map((row) => row.tax)) }
  })
  const before = sum(voice.facts.map((fact) => fact.tax))
  const tax = sum(
    document.pricesIncludeTax
      ? extractAt(
          place,
          taxed.map(({ base, inside }) => withinFlat(base + inside, percent)),
        ).flat()
      : taxAt(
          place,
          taxed.map(({ line, base }) => ({
            lineId: line.id,
            quantity: line.quantity,
            isReturn: base < 0n,
            components:
              base === 0n ? [] : [{ jurisdictionId: '', percent, perUnit: null, onTopOf: [], base }],
          })),
        ).flat(),
  )
  const fact: TaxFact = {
    ...any,
    lineId: null,
    jurisdictionId: null,
    agency: null,
    account: null,
    base: null,
    inBase: null,
    source: null,
    tax,
  }
  const nets = document.pricesIncludeTax
    ? voice.nets.map((n, at) => (at === 0 ? { ...n, net: n.net + before - tax } : n))
    : voice.nets
  return { ...voice, facts: [fact], nets }
}

function withinFlat(gross: MinorUnits, percent: Percent): InclusiveLine {
  const exact = multiply(ratio(gross), ratio(percent, PERCENT_SCALE + percent))
  return {
    gross,
    exactNet: subtract(ratio(gross), exact),
    components: gross === 0n ? [] : [{ key: '', exact }],
  }
}
