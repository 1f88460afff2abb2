import type { Draw } from '../shared/draw.ts'
import type { Item, Rate, SystemData } from '../shared/sale.ts'
import { heldRate } from '../shared/systems.ts'
import { taken, type Taken } from '../shared/taken.ts'
import { heldKind, itemOf } from './goods.ts'
import { AGENCIES, rateOf, rightly } from './places.ts'

/** The systems of Larkspur beside ledger and billing. What is wrong in their set-up, Axion has to find. */
export interface OtherSystem {
  readonly id: string
  readonly role: 'pos' | 'commerce' | 'purchasing' | 'payments' | 'bank' | 'tax-service'
  readonly name: string
  readonly data: SystemData
}

const COMPANY = { id: 'larkspur', name: 'Larkspur Apiary Supply' }
export const BASE = {
  company: COMPANY,
  baseCurrency: 'USD',
  currencies: ['USD'],
  timeZone: 'America/Chicago',
  taxEnabled: true,
  computesTax: true,
  defaultItemTaxCode: null,
  rounding: null,
}

export const HOME = { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' }

/** A document as Larkspur's systems have it: charged by the demo's own rule of what is taxed where. */
export const documentOf = (sold: Omit<Taken, 'rightly' | 'currency' | 'shipFrom'>): object =>
  taken({
    ...sold,
    rightly: (place, item, quantity) => rightly(place, item, quantity).rate,
    currency: 'USD',
    shipFrom: HOME,
  })
export type Objects = SystemData['objects'][number][]

export function agenciesOf(
  prefix: string,
  codes: readonly string[],
  renamed: Readonly<Record<string, string>> = {},
): Objects {
  return AGENCIES.filter((a) => codes.includes(a.code)).map(({ code, name }) => ({
    resource: 'agencies',
    id: `${prefix}_agency_${code}`,
    value: { code: null, name: renamed[code] ?? name, liabilityAccountId: null },
  }))
}

export function ratesOf(
  prefix: string,
  codes: readonly string[],
  change: (rate: Rate) => Rate = (rate) => rate,
): Objects {
  return codes.map((code) => ({
    resource: 'tax-rates',
    ...heldRate(`${prefix}_${code}`, change(rateOf(code)), (agency) => `${prefix}_agency_${agency}`, {
      code: true,
    }),
  }))
}

export function itemsOf(
  prefix: string,
  items: readonly Item[],
  wrong: Readonly<Record<string, object>> = {},
): Objects {
  return items.map((item) => ({
    resource: 'items',
    id: `${prefix}_${item.code}`,
    value: {
      code: item.code,
      name: item.name,
      kind: heldKind(item),
      taxable: !['FOOD', 'SEED', 'GIFT'].includes(item.taxCode),
      itemTaxCode: item.taxCode,
      ...wrong[item.code],
    },
  }))
}

export function methodsOf(
  rows: readonly (readonly [id: string, name: string, kind: string, masked?: string])[],
): Objects {
  return rows.map(([id, name, kind, maskedNumber = null]) => ({
    resource: 'payment-methods',
    id,
    value: { code: null, name, kind, maskedNumber, active: true },
  }))
}

/** Only the web shop has it. */
export const BALM: Item = {
  code: 'BALM-60',
  name: 'Beeswax balm, 60 ml',
  kind: 'goods',
  taxCode: 'GOODS',
  price: 1490,
  most: 4,
}

export const GOODS_SOLD = ['HIVE-8', 'FRAME-D', 'SMOKER', 'TOOL-J', 'SUIT-V', 'HONEY-5', 'HONEY-H', 'SEED-C']
export const goods = (draw: Draw, most: number): { item: Item; quantity: number }[] =>
  Array.from({ length: draw(1, most) }, () =>
    itemOf(GOODS_SOLD[draw(0, GOODS_SOLD.length - 1)] ?? 'SMOKER'),
  ).map((item) => ({ item, quantity: draw(1, Math.min(item.most, 4)) }))
export const september = (day: number): string => `2026-09-${String(day).padStart(2, '0')}`

/** A processor, or a bank: nothing there is taxed. */
export const untaxed = (objects: SystemData['objects']): SystemData => ({
  settings: { ...BASE, taxEnabled: false, computesTax: false },
  objects,
})
