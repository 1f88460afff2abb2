import type { BaselineInput } from '@axion/contract'
import { drawing } from '../shared/draw.ts'
import { makeSale } from '../shared/makeSale.ts'
import type { Item, Place, Rate, Sale } from '../shared/sale.ts'

const FROM = { from: '2024-01-01', to: null }

/** A small legal entity: one ledger, one billing system, a month of invoices or more, and what is wrong in its ledger. */
export interface SmallEntity {
  readonly id: string
  readonly name: string
  readonly currency: string
  readonly timeZone: string
  readonly agencies: readonly (readonly [code: string, name: string, account: string, accountName: string])[]
  readonly jurisdictions: BaselineInput['jurisdictions']
  readonly rates: readonly Rate[]
  readonly codes: readonly (readonly [code: string, name: string])[]
  readonly codeRules: readonly Omit<BaselineInput['codeRules'][number], 'from' | 'to'>[]
  /** What it buys, of whom and at which rate; its purchasing system has a month of bills of it, and one more for each thing that is typed by hand. */
  readonly bought?: {
    readonly items: readonly Item[]
    readonly typed?: readonly Item[]
    readonly suppliers: readonly string[]
    readonly place: Place
    readonly rateFor: (item: Item) => string | null
    readonly accounts: Readonly<Record<'payable' | 'expense', string>>
    readonly recovered: Readonly<Record<string, string>>
  }
  /** Regions, each rounding by document and component. */
  readonly regions: readonly string[]
  readonly items: readonly Item[]
  /** What is typed on every fourth invoice by hand; rules are to decide it. */
  readonly typed?: readonly Item[]
  /** Rules over lines that somebody wrote before. */
  readonly rules?: BaselineInput['rules']
  /** Accounts of its ledger beside those that every entity has. */
  readonly accounts?: readonly (readonly [number: string, name: string, type: string])[]
  readonly places: readonly Place[]
  /** Months before September that it has sales in. */
  readonly earlier?: readonly string[]
  readonly names: readonly string[]
  /** The combined rate of an item at a place; null where it is not taxed. */
  readonly rateFor: (place: Place, item: Item) => string | null
  /** Whether a place's prices have tax inside. */
  readonly inside?: (place: Place) => boolean
  readonly prefix: string
  /** What its ledger has otherwise: an agency's account, a rate. */
  readonly wrongAccount?: Readonly<Record<string, string>>
  readonly wrongRate?: (rate: Rate) => Rate
}

export function baselineOf(entity: SmallEntity): BaselineInput {
  const parts = [
    ...new Map(
      entity.rates
        .filter((rate) => rate.itemTaxCode === undefined)
        .flatMap((rate) => rate.components.map((c) => [c.jurisdiction, { c, rate }] as const)),
    ).values(),
  ]
  return {
    agencies: entity.agencies.map(([code, name]) => ({ code, name })),
    jurisdictions: entity.jurisdictions,
    rateVersions: parts.map(({ c, rate }) => ({
      jurisdiction: c.jurisdiction,
      percent: c.percent,
      onTopOf: (c.onTopOf ?? []).map((place) => rate.components[place]?.jurisdiction ?? ''),
      ...FROM,
    })),
    combinedRates: entity.rates.map(({ code, name, components, itemTaxCode = null }) => ({
      code,
      name,
      itemTaxCode,
      jurisdictions: components.map((c) => c.jurisdiction),
      ...FROM,
    })),
    itemTaxCodes: entity.codes.map(([code, name]) => ({ code, name })),
    rules: entity.rules ?? [],
    items: [...entity.items, ...(entity.bought?.items ?? [])].map(({ code, name, taxCode }) => ({
      code,
      name,
      itemTaxCode: taxCode,
    })),
    codeRules: entity.codeRules.map((rule) => ({ ...rule, ...FROM })),
    registrations: entity.agencies.map(([agency], at) => ({
      agency,
      number: `${agency}-${7001 + at}`,
      ...FROM,
    })),
    roundings: entity.regions.map((jurisdiction) => ({
      jurisdiction,
      level: 'document',
      unit: 'component',
      tie: 'half-away',
      ...FROM,
    })),
    postingRules: [
      ...(
        Object.entries({ receivable: '1200', revenue: '4000', shipping: '4000' }) as ['receivable', string][]
      ).map(([kind, account]) => ({ kind, agency: null, account, ...FROM })),
      ...entity.agencies.map(([agency, , account]) => ({ kind: 'tax' as const, agency, account, ...FROM })),
      ...Object.entries(entity.bought?.recovered ?? {}).map(([agency, account]) => ({
        kind: 'input-tax' as const,
        agency,
        account,
        ...FROM,
      })),
      ...(Object.entries(entity.bought?.accounts ?? {}) as ['payable', string][]).map(([kind, account]) => ({
        kind,
        agency: null,
        account,
        ...FROM,
      })),
    ],
  }
}

export function salesOf(
  { places, items, typed = [], names, rateFor, currency, inside = () => false }: SmallEntity,
  seed: number,
  month = '2026-09',
): Sale[] {
  const draw = drawing(seed)
  let made = 0
  return places
    .flatMap((place) =>
      Array.from({ length: place.invoices }, () => {
        const name = names[draw(0, names.length - 1)] ?? ''
        const by = typed.length > 0 && ++made % 4 === 0 ? [typed[(made / 4) % typed.length] as Item] : []
        const wanted = [
          ...Array.from({ length: draw(1, 3) }, () => items[draw(0, items.length - 1)] as Item),
          ...by,
        ].map((sold) => ({ item: sold, quantity: draw(1, sold.most) }))
        return makeSale((at, item) => ({ rate: rateFor(at, item) }), {
          date: `${month}-${String(draw(1, 30)).padStart(2, '0')}`,
          place,
          customer: { id: `cus_${name.replace(/[^A-Za-z]/g, '').toLowerCase()}`, name },
          wanted,
          currency,
          inside: inside(place),
        })
      }),
    )
    .sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : 0))
}

export const item = (
  code: string,
  name: string,
  { taxCode, price, most }: { readonly taxCode: string; readonly price: number; readonly most: number },
): Item => ({
  code,
  name,
  price,
  most,
  kind: 'goods',
  taxCode,
})
export const place = (
  {
    country,
    region,
    city,
    postalCode,
  }: {
    readonly country: string
    readonly region: string
    readonly city: string
    readonly postalCode: string
  },
  rate: string,
  invoices: number,
): Place => ({ country, region, city, postalCode, rate, invoices })
