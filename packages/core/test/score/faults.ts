import type { Sale, Way } from './calculator.ts'
import { AGENCIES, accountOf, HOME, placeOf, percentOn } from './world.ts'

export type Draw = (from: number, to: number) => number

/** What a system's own set-up holds wrongly, for all of a month. */
export interface SystemMistakes {
  /** "{place}|{jurisdiction}" to the percent held there. */
  readonly percents: ReadonlyMap<string, string>
  readonly accounts: ReadonlyMap<string, string>
  readonly flat: string
  readonly defaultCode: string
}

export const KINDS = [
  'rounding',
  'rate-date',
  'rate-place',
  'named-rate',
  'component-lost',
  'one-agency',
  'component-percent',
  'liability-account',
  'flat-rate',
  'default-code',
  'exemption-ignored',
  'exempted-without-certificate',
  'shipping',
  'discount',
  'prices',
  'sign',
  'line-left-out',
  'exchange-at-one',
] as const
export type Kind = (typeof KINDS)[number]

/** The mistake of a kind, made with this sale; null where it cannot be made with it. `shown` says where the set-up itself shows it. */
export function mistake(
  kind: Kind,
  sale: Sale,
  right: Way,
  mistakes: SystemMistakes,
  draw: Draw,
): Partial<Way> | null {
  const { components, region } = placeOf(sale.place)
  const one = <T>(of: readonly T[]): T => of[draw(0, of.length - 1)] as T
  switch (kind) {
    case 'rounding': {
      if (sale.inside) return null
      const places = (['unit', 'line', 'document'] as const)
        .flatMap((level) => (['component', 'combined'] as const).map((unit) => ({ level, unit })))
        .filter((p) => p.level !== 'document' || p.unit !== 'component')
      return one([...places, { tie: 'half-even' as const }, { tie: 'truncate' as const }])
    }
    case 'rate-date':
      return { ratesOn: right.ratesOn < '2026-09-01' ? '2026-09-01' : '2026-08-31' }
    case 'rate-place':
      return sale.place === HOME ? null : { ratesOf: HOME }
    case 'named-rate':
      return sale.names === null || sale.names === sale.place || sale.names === HOME
        ? null
        : { ratesOf: sale.names }
    case 'component-lost':
      return components.length < 2
        ? null
        : { [one(['without', 'dropped'] as const)]: one(components).jurisdiction }
    case 'one-agency':
      return components.length < 2 ? null : { oneAgency: one(components).agency }
    case 'component-percent': {
      const held = components.flatMap((c) => {
        const percent = mistakes.percents.get(`${sale.place}|${c.jurisdiction}`)
        return percent === undefined || percent === percentOn(c, sale.date)
          ? []
          : [[c.jurisdiction, percent] as const]
      })
      return held.length === 0 ? null : { percents: new Map(held) }
    }
    case 'liability-account': {
      const own = components.filter((c) => mistakes.accounts.has(c.agency))
      return own.length === 0
        ? null
        : { accounts: new Map(own.map((c) => [c.agency, mistakes.accounts.get(c.agency) ?? ''])) }
    }
    case 'flat-rate':
      return { flat: mistakes.flat }
    case 'default-code':
      return sale.lines.filter((l) => l.kind === 'goods').every((l) => l.code === mistakes.defaultCode)
        ? null
        : { code: mistakes.defaultCode }
    case 'exemption-ignored':
      return sale.party === 'farm' ? { certificates: 'ignored', exempted: false } : null
    case 'exempted-without-certificate':
      return sale.party === 'farm' ? null : { certificates: 'everyone' }
    case 'shipping':
      return sale.lines.some((l) => l.kind === 'shipping')
        ? { shipping: region === 'MI' ? 'taxed' : one(['taxed', 'untaxed'] as const) }
        : null
    case 'discount':
      return sale.discount === 0n ? null : { beforeDiscount: !right.beforeDiscount }
    case 'prices':
      return { inside: !right.inside }
    case 'sign':
      return { sign: -1n }
    case 'line-left-out':
      // A credit that lacks a line takes the rest of its original as the original was: shipping followed that line too.
      return sale.lines.length < 2 || (sale.kind === 'credit-note' && region === 'NE')
        ? null
        : { leaveOut: one(sale.lines).id }
    case 'exchange-at-one':
      return sale.currency === 'USD' ? null : { atOne: true }
  }
}

/** A month's set-up with one wrong percent, one wrong account, a flat rate and a default code. */
export function mistakesOf(draw: Draw): SystemMistakes {
  const place = placeOf(['NE-1', 'SW-1', 'MI-1'][draw(0, 2)] ?? 'NE-1')
  const component = place.components[draw(0, place.components.length - 1)] ?? place.components[0]
  const agency = AGENCIES[draw(0, AGENCIES.length - 1)] ?? ''
  const other =
    AGENCIES[(AGENCIES.indexOf(agency) + 1 + draw(0, AGENCIES.length - 2)) % AGENCIES.length] ?? ''
  return {
    percents: new Map([
      [`${place.id}|${component?.jurisdiction ?? ''}`, ['0.9', '3.4', '7.1'][draw(0, 2)] ?? '0.9'],
    ]),
    accounts: new Map([[agency, accountOf(other)]]),
    flat: ['6.9', '7.77', '5.05'][draw(0, 2)] ?? '6.9',
    defaultCode: ['GOODS', 'FOOD'][draw(0, 1)] ?? 'GOODS',
  }
}
