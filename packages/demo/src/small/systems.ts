import type { OtherSystem } from '../larkspur/otherParts.ts'
import { documentOf } from '../shared/documents.ts'
import { drawing } from '../shared/draw.ts'
import type { Item, Rate, SystemData } from '../shared/sale.ts'
import { heldRate } from '../shared/systems.ts'
import { addressOf, taken } from '../shared/taken.ts'
import { salesOf, type SmallEntity } from './entity.ts'

export const base = ({ id, name, currency, timeZone }: SmallEntity): object => ({
  company: { id, name },
  baseCurrency: currency,
  currencies: [currency],
  timeZone,
})

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

function billsOf(
  { prefix, rates, currency }: SmallEntity,
  bought: NonNullable<SmallEntity['bought']>,
  seed: number,
): SystemData['objects'] {
  const draw = drawing(seed + 2)
  const { typed = [] } = bought
  return Array.from({ length: 14 + typed.length }, (_, at) => {
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
        number: `${prefix}B-${201 + at}`,
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
}

/** Its purchasing system, where it buys anything: a bill every other day, with the tax that the supplier charged. */
export function purchasingOf(entity: SmallEntity, seed: number): OtherSystem[] {
  const { bought, agencies, rates } = entity
  if (!bought) return []
  const bills = billsOf(entity, bought, seed)
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
