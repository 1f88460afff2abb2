import type { BaselineInput } from '@axion/contract'
import type { OtherSystem } from '../larkspur/others.ts'
import { documentOf } from '../shared/documents.ts'
import { drawing } from '../shared/draw.ts'
import { rightTax, type Answer } from '../shared/key.ts'
import { makeSale } from '../shared/makeSale.ts'
import { halfUp, millionths, spread } from '../shared/exact.ts'
import { heldRate } from '../shared/systems.ts'
import { addressOf, taken } from '../shared/taken.ts'
import type { Item, Place, Rate, Sale, SystemData } from '../shared/sale.ts'

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

const base = ({ id, name, currency, timeZone }: SmallEntity): object => ({
  company: { id, name },
  baseCurrency: currency,
  currencies: [currency],
  timeZone,
})

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

export function ledgerOf(entity: SmallEntity): SystemData {
  const { wrongAccount = {}, wrongRate = (rate: Rate) => rate } = entity
  const accounts = [
    ['1200', 'Trade debtors', 'receivable'],
    ['4000', 'Sales', 'income'],
    ['2390', 'Accruals', 'current-liability'],
    ...(entity.accounts ?? []),
    ...entity.agencies.map(([, , number, name]) => [number, name, 'current-liability']),
  ]
  return {
    settings: {
      ...base(entity),
      keepsDocumentNumbers: true,
      lockedThrough: entity.earlier?.includes('2026-08') ? '2026-07-31' : '2026-08-31',
      taxComputation: 'by-rate',
    },
    objects: [
      ...accounts.map(([number, name, type]) => ({
        resource: 'accounts',
        id: `acct_${number}`,
        value: { number, name, type },
      })),
      ...entity.agencies.map(([code, name, account]) => ({
        resource: 'agencies',
        id: `agency_${code}`,
        value: { code, name, liabilityAccountId: `acct_${wrongAccount[code] ?? account}` },
      })),
      ...entity.rates.map((rate) => ({
        resource: 'tax-rates',
        ...heldRate(`tax_${rate.code}`, wrongRate(rate), (code) => `agency_${code}`, { code: true }),
      })),
    ],
  }
}

export function billingOf(entity: SmallEntity, seed: number, webAddress: string): SystemData {
  const { agencies, rates, items, codeRules, prefix } = entity
  const taxed = (taxCode: string): boolean =>
    codeRules.some(
      (rule) => rule.itemTaxCode === taxCode && ['standard', 'reduced', 'per-unit'].includes(rule.treatment),
    )
  const sales = [
    ...(entity.earlier ?? []).flatMap((month, at) =>
      salesOf(entity, seed + 8 + at, month).map((sale, place) => ({ sale, number: 101 + 100 * at + place })),
    ),
    ...salesOf(entity, seed).map((sale, at) => ({ sale, number: 1001 + at })),
  ]
  return {
    settings: { ...base(entity), defaultItemTaxCode: entity.codes[0]?.[0] ?? null },
    objects: [
      ...agencies.map(([code, name]) => ({
        resource: 'agencies',
        id: `auth_${code}`,
        value: { code, name, liabilityAccountId: null },
      })),
      ...rates.map((rate) => ({
        resource: 'tax-rates',
        ...heldRate(`rate_${rate.code}`, rate, (code) => `auth_${code}`, { code: false }),
      })),
      ...items.map(({ code, name, kind, taxCode }) => ({
        resource: 'items',
        id: `item_${code}`,
        value: { code, name, kind, taxable: taxed(taxCode), itemTaxCode: taxCode },
      })),
      ...[...new Map(sales.map(({ sale: { customer } }) => [customer.id, customer.name]))].map(
        ([id, name]) => ({
          resource: 'parties',
          id,
          value: { name, address: null, exemption: null },
        }),
      ),
      ...sales.map(({ sale, number }) => ({
        resource: 'documents',
        id: `inv_${number}`,
        value: documentOf(`${prefix}-${number}`, sale, null, webAddress),
      })),
    ],
  }
}

/** Its purchasing system, where it buys anything: a bill every other day, with the tax that the supplier charged. */
export function purchasingOf(entity: SmallEntity, seed: number): OtherSystem[] {
  const { bought, agencies, rates, currency } = entity
  if (!bought) return []
  const draw = drawing(seed + 2)
  const { typed = [] } = bought
  const bills = Array.from({ length: 14 + typed.length }, (_, at) => {
    const supplier = at % bought.suppliers.length
    const byHand = typed[at - 14]
    const lines = (
      byHand
        ? [byHand]
        : Array.from({ length: draw(1, 3) }, () => bought.items[draw(0, bought.items.length - 1)] as Item)
    ).map((sold) => ({ item: sold, quantity: draw(1, sold.most) }))
    return {
      resource: 'documents',
      id: `bill_${201 + at}`,
      value: taken({
        id: `bill_${201 + at}`,
        number: `${entity.prefix}B-${201 + at}`,
        kind: 'bill',
        date: `2026-09-${String(Math.min(28, 1 + at * 2)).padStart(2, '0')}`,
        at: null,
        place: bought.place,
        location: null,
        party: { id: `sup_${supplier}`, name: bought.suppliers[supplier] ?? '' },
        lines,
        rateId: (code) => `buy_${code}`,
        agencyId: (code) => `buy_${code}`,
        rateOf: (code) => rates.find((rate) => rate.code === code) as Rate,
        method: null,
        currency,
        shipFrom: addressOf(bought.place),
        rightly: (_place, item) => bought.rateFor(item),
      }),
    }
  })
  const used = [...new Set(bought.items.flatMap((item) => bought.rateFor(item) ?? []))]
  return [
    {
      id: 'purchasing',
      role: 'purchasing',
      name: 'Purchasing',
      data: {
        settings: {
          ...base(entity),
          taxEnabled: true,
          computesTax: false,
          defaultItemTaxCode: null,
          rounding: null,
        },
        objects: [
          ...agencies
            .filter(([code]) =>
              rates.some(
                (rate) => used.includes(rate.code) && rate.components.some((c) => c.agency === code),
              ),
            )
            .map(([code, name]) => ({
              resource: 'agencies',
              id: `buy_${code}`,
              value: { code: null, name, liabilityAccountId: null },
            })),
          ...rates
            .filter((rate) => used.includes(rate.code))
            .map((rate) => ({
              resource: 'tax-rates',
              ...heldRate(`buy_${rate.code}`, rate, (code) => `buy_${code}`, { code: true }),
            })),
          ...bought.items.map(({ code, name, kind, taxCode }) => ({
            resource: 'items',
            id: `buy_${code}`,
            value: {
              code,
              name,
              kind,
              taxable: bought.rateFor({ code, name, kind, taxCode, price: 0, most: 0 }) !== null,
              itemTaxCode: taxCode,
            },
          })),
          ...bought.suppliers.map((name, at) => ({
            resource: 'parties',
            id: `sup_${at}`,
            value: { name, address: null, exemption: null },
          })),
          ...bills,
        ],
      },
    },
  ]
}

/** What of a month's purchases can be had back, by number and agency, as the generator knows it: shares in whole percents. */
export function recoveredOf(entity: SmallEntity, seed: number): Map<string, bigint> {
  const [system] = purchasingOf(entity, seed)
  const { bought } = entity
  const share = new Map(
    entity.codeRules
      .filter((rule) => rule.jurisdiction === bought?.place.country)
      .map((rule) => [rule.itemTaxCode, BigInt(rule.recoverable ?? '0')]),
  )
  const all = new Map<string, bigint>()
  for (const { resource, value } of system?.data.objects ?? []) {
    if (resource !== 'documents') continue
    const { number, lines } = value as {
      number: string
      lines: { itemCode: string; amount: string; taxRateId: string | null }[]
    }
    // A rate's tax is rounded once on the document, and goes over its lines; shares are taken of what falls on each.
    const shares = new Map<bigint, bigint>()
    for (const rate of new Set(lines.flatMap((line) => line.taxRateId ?? []))) {
      const own = lines.filter((line) => line.taxRateId === rate)
      const bases = own.map((line) => BigInt(line.amount.replace('.', '')))
      const percent = millionths(
        entity.rates.find((one) => `buy_${one.code}` === rate)?.components[0]?.percent ?? '0',
      )
      spread(halfUp(bases.reduce((sum, base) => sum + base, 0n) * percent, 100_000_000n), bases).forEach(
        (tax, at) => {
          const of =
            share.get(bought?.items.find((one) => one.code === own[at]?.itemCode)?.taxCode ?? '') ?? 0n
          shares.set(of, (shares.get(of) ?? 0n) + tax)
        },
      )
    }
    all.set(
      number,
      [...shares].reduce((sum, [of, tax]) => sum + halfUp(tax * of, 100n), 0n),
    )
  }
  return all
}

/** The answer key: what the ledger should hold of each invoice in the end. The application never reads it. */
export function answersOf(entity: SmallEntity, seed: number): Answer[] {
  const rateOf = (code: string): Rate =>
    entity.rates.find((rate) => rate.code === code) ??
    (() => {
      throw new Error(`no rate ${code}`)
    })()
  return salesOf(entity, seed).map((sale, at) => ({
    number: `${entity.prefix}-${1001 + at}`,
    currency: sale.currency,
    ...rightTax(sale, rateOf),
  }))
}

function salesOf(
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
