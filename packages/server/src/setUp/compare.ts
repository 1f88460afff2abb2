import { percentOf, type Agency, type TaxRate } from '@axion/contract'
import {
  combinedPercent,
  covers,
  currencyDigits,
  formatPercent,
  parsePercent,
  type BaselineIndex,
  type CombinedRate,
  type Percent,
  type RateComponent,
  type Ratio,
} from '@axion/core'
import type { HeldSystem } from './held.ts'

/** One component of a combined rate beside what the system holds; null where it holds none. */
export interface ComparedComponent extends RateComponent {
  readonly theirs: Percent | null
  /** As the system states it; null where it is a percent there. */
  readonly theirPerUnit: string | null
  /** The component's place in the system's rate. */
  readonly at: number | null
  /** Whether it is per unit, or tax on tax, in both or in neither. */
  readonly sameLevy: boolean
}

export interface ComparedRate {
  readonly agrees: boolean
  /** A flat rate: the right total, perhaps, and no components. */
  readonly flat: boolean
  /** Of the system's components that hold on the date; of a flat rate its one percent. */
  readonly theirTotal: Percent
  readonly components: readonly ComparedComponent[]
  readonly words: string
}

/**
 * A system's rate beside the baseline's on a date, component by component through the agencies they belong to.
 * Components of one agency meet in their order; where an agency is not known, in the order of what is left.
 */
export function compareRate(
  rate: CombinedRate,
  theirs: TaxRate,
  {
    agencyOf,
    index,
    date,
  }: {
    readonly agencyOf: (objectId: string) => string | null
    readonly index: BaselineIndex
    readonly date: string
  },
): ComparedRate {
  const ours = index.componentsOn(rate, date)
  const total = totalOf(ours)
  if (theirs.components === null) {
    return {
      agrees: false,
      flat: true,
      theirTotal: parsePercent(theirs.percent),
      components: ours.map((c) => ({ ...c, theirs: null, theirPerUnit: null, at: null, sameLevy: false })),
      words: `${formatPercent(parsePercent(theirs.percent))} by hand, no parts`,
    }
  }
  const free = theirs.components
    .map((c, at) => ({
      at,
      percent: parsePercent(c.percent),
      perUnit: c.perUnit,
      levy: levyOf({ perUnit: c.perUnit, onTop: c.onTopOf.length > 0 }),
      agency: agencyOf(c.agencyId),
      used: false,
      ...datesOf(c),
    }))
    .filter((c) => covers({ from: c.from, to: c.to }, date))
  const take = (fits: (c: (typeof free)[number]) => boolean): (typeof free)[number] | null => {
    const found = free.find((c) => !c.used && fits(c)) ?? null
    if (found) found.used = true
    return found
  }
  const met = ours.map((c) => ({ ours: c, theirs: take((f) => f.agency === c.agencyId) }))
  const components = met.map(({ ours: c, theirs: found }) => {
    const match = found ?? take((f) => f.agency === null)
    return {
      ...c,
      theirs: match?.percent ?? null,
      theirPerUnit: match?.perUnit ?? null,
      at: match?.at ?? null,
      sameLevy:
        match !== null &&
        match.levy ===
          levyOf({ perUnit: c.perUnit && perUnitText(c.perUnit, c.currency), onTop: c.onTopOf.length > 0 }),
    }
  })
  const agrees = components.every((c) => c.theirs === c.percent && c.sameLevy) && free.every((f) => f.used)
  const theirTotal = percentOf(theirs.components, date)
  const said = {
    ours: sayTotal(total, ours.map(ownPerUnit)),
    theirs: sayTotal(
      theirTotal,
      free.map((f) => f.perUnit),
    ),
  }
  const bare = (text: string): string => text.replace(/ %$/, '')
  const words = agrees
    ? said.ours
    : said.theirs === said.ours
      ? `${bare(said.ours)}, split otherwise`
      : `${bare(said.theirs)}, not ${bare(said.ours)}`
  return { agrees, flat: false, theirTotal, components, words }
}

/** What a combined rate's components come to together, tax on tax included. */
export function totalOf(components: readonly RateComponent[]): Percent {
  return combinedPercent(
    components.map(({ percent, onTopOf }) => ({
      percent,
      onTopOf: components.flatMap((other, place) => (onTopOf.includes(other.jurisdictionId) ? [place] : [])),
    })),
  )
}

/** What a rate comes to, in words: "7.45 %", "0.12 a unit", or both. */
export function sayTotal(percent: Percent, perUnits: readonly (string | null)[]): string {
  const each = perUnits.flatMap((text) => (text === null ? [] : [`${formatPlain(text)} a unit`]))
  return [...(percent !== 0n || each.length === 0 ? [`${formatPercent(percent)} %`] : []), ...each].join(
    ' + ',
  )
}

/** A component's own tax per unit as text; null where it is a percent. */
export function ownPerUnit({
  perUnit,
  currency,
}: Pick<RateComponent, 'perUnit' | 'currency'>): string | null {
  return perUnit && perUnitText(perUnit, currency)
}

/** An open beginning is the first day of all. */
function datesOf({ from, to }: { readonly from: string | null; readonly to: string | null }): {
  readonly from: string
  readonly to: string | null
} {
  return { from: from ?? '0001-01-01', to }
}

function levyOf({ perUnit, onTop }: { readonly perUnit: string | null; readonly onTop: boolean }): string {
  return `${perUnit === null ? '' : formatPlain(perUnit)}${onTop ? '+' : ''}`
}

/** A tax per unit in whole units of its currency, as systems state it, to six places. */
export function perUnitText({ numerator, denominator }: Ratio, currency: string | null): string {
  const millionths =
    (numerator * 10n ** BigInt(6 - (currency === null ? 2 : currencyDigits(currency)))) / denominator
  return `${millionths / 1_000_000n}.${(millionths % 1_000_000n).toString().padStart(6, '0')}`
}

function formatPlain(text: string): string {
  return text.includes('.') ? text.replace(/\.?0+$/, '') : text
}

/** The percents that a system holds otherwise than the baseline, by jurisdiction. */
export function departingPercents({ components }: ComparedRate): Map<string, Percent> {
  return new Map(
    components.flatMap((c) =>
      c.theirs === null || c.theirs === c.percent ? [] : [[c.jurisdictionId, c.theirs] as const],
    ),
  )
}

export interface ComparedAgency {
  readonly agrees: boolean
  readonly account: { readonly ours: string | null; readonly theirs: string | null } | null
  readonly words: string
}

/** An agency beside the baseline's: in a ledger, the account that it posts to. */
export function compareAgency(
  agencyId: string,
  theirs: Agency,
  {
    system,
    index,
    date,
  }: { readonly system: HeldSystem; readonly index: BaselineIndex; readonly date: string },
): ComparedAgency {
  if (system.row.role !== 'ledger') return { agrees: true, account: null, words: theirs.name }
  const ours = index.postingRuleOn('tax', agencyId, date)?.account ?? null
  const account = { ours, theirs: system.accountNumber(theirs.liabilityAccountId) }
  if (ours === null || account.theirs === ours)
    return { agrees: true, account, words: account.theirs ?? 'no account' }
  return {
    agrees: false,
    account,
    words: account.theirs === null ? `no account, not ${ours}` : `posts to ${account.theirs}, not ${ours}`,
  }
}
