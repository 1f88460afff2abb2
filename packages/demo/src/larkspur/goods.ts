import type { Customer, Item } from '../shared/sale.ts'

const item = (
  code: string,
  name: string,
  { taxCode, price, most }: { readonly taxCode: string; readonly price: number; readonly most: number },
): Item => ({
  code,
  name,
  taxCode,
  price,
  most,
  kind: taxCode === 'SERVICE' ? 'service' : taxCode === 'SHIPPING' ? 'shipping' : 'goods',
})

export const CODES = [
  ['GOODS', 'Hives and equipment'],
  ['TOOLS', 'Hand tools'],
  ['CLOTHING', 'Protective clothing'],
  ['MACHINE', 'Machines'],
  ['FUEL', 'Smoker fuel'],
  ['FOOD', 'Food for people'],
  ['SEED', 'Seed for forage'],
  ['GIFT', 'Gift cards'],
  ['SERVICE', 'Inspections and other services'],
  ['SHIPPING', 'Shipping'],
] as const

/** What a system holds an item as: a gift card is owed until it is redeemed. */
export const heldKind = ({ kind, taxCode }: Item): string => (taxCode === 'GIFT' ? 'gift-card' : kind)

export const SHIPPING = item('SHIP', 'Shipping', { taxCode: 'SHIPPING', price: 1850, most: 1 })
export const COMB = item('COMB', 'Cut comb in a tray', { taxCode: 'FOOD', price: 1680, most: 24 })
const STANDARD = [
  item('HIVE-10', 'Cedar hive, ten frames', { taxCode: 'GOODS', price: 33000, most: 12 }),
  item('HIVE-8', 'Pine hive, eight frames', { taxCode: 'GOODS', price: 21450, most: 10 }),
  item('FRAME-D', 'Deep frame, waxed', { taxCode: 'GOODS', price: 495, most: 80 }),
  item('SMOKER', 'Smoker, stainless steel', { taxCode: 'GOODS', price: 4695, most: 6 }),
]
const SPECIAL = [
  item('TOOL-J', 'Hive tool, J hook', { taxCode: 'TOOLS', price: 1275, most: 12 }),
  item('SUIT-V', 'Ventilated suit with veil', { taxCode: 'CLOTHING', price: 13995, most: 4 }),
  item('GLOVES', 'Goatskin gloves', { taxCode: 'CLOTHING', price: 2495, most: 10 }),
  item('EXTRACT', 'Honey extractor, four frames', { taxCode: 'MACHINE', price: 48915, most: 2 }),
  item('FUEL-10', 'Smoker fuel, ten pucks', { taxCode: 'FUEL', price: 890, most: 20 }),
]
const UNTAXED = [
  item('HONEY-5', 'Clover honey, 500 g jar', { taxCode: 'FOOD', price: 1149, most: 48 }),
  item('HONEY-H', 'Heather honey, 250 g jar', { taxCode: 'FOOD', price: 925, most: 48 }),
  item('SEED-C', 'Clover seed, 1 kg', { taxCode: 'SEED', price: 2240, most: 6 }),
  item('GIFT-50', 'Gift card', { taxCode: 'GIFT', price: 5000, most: 3 }),
]
const INSPECT = item('INSPECT', 'Hive inspection', { taxCode: 'SERVICE', price: 8500, most: 5 })
export const ITEMS: readonly Item[] = [...STANDARD, ...SPECIAL, ...UNTAXED, INSPECT, COMB, SHIPPING]
/** What an ordinary invoice is drawn from; the first of each is taxed everywhere. */
export const ORDINARY: readonly Item[] = [...STANDARD, ...UNTAXED, INSPECT]
export const GOODS: readonly Item[] = STANDARD

export function itemOf(code: string): Item {
  const found = ITEMS.find((i) => i.code === code)
  if (!found) throw new Error(`no item ${code}`)
  return found
}

/** Buyers that nothing is special about. */
export const NAMES: readonly string[] = [
  'Harrowgate Orchards',
  'Blythe & Daughters',
  'Penhallow Market Garden',
  'The Candle Loft',
  'Northbank Allotments',
  'Marchbank Preserves',
  'Sable Creek Honey',
  'Wexcombe College of Agriculture and Rural Crafts',
  'Dovecote Kitchens',
  'Little Acre',
  'Tolliver Brothers',
  'Greywater Farm Shop',
  'Juniper Row Bakery ',
  'Fallowfield Trust',
  'Amberley Apiaries',
  'Hobb’s End Nursery',
]

/** Buyers who claim to be exempt, with what the accountant holds of them. */
export interface Claimant extends Customer {
  readonly claims: string
  readonly certificate: {
    readonly number: string
    readonly regions: readonly string[]
    readonly from: string
    readonly to: string | null
  } | null
}
const claimant = (
  id: string,
  name: string,
  claims: string,
  certificate: Claimant['certificate'],
): Claimant => ({ id: `cus_${id}`, name, claims, certificate })

export const THISTLEDOWN = claimant('thistledown', 'Thistledown Farm', 'farm-use', {
  number: 'WN-F-20411',
  regions: ['WN'],
  from: '2025-01-01',
  to: '2027-12-31',
})
export const OSTLER = claimant('ostler', 'Ostler Nurseries', 'resale', {
  number: 'WN-R-11873',
  regions: ['WN'],
  from: '2023-07-01',
  to: '2026-06-30',
})
export const RAVEL = claimant('ravel', 'Ravel Street Grocers', 'resale', {
  number: 'WN-R-30562',
  regions: ['WN'],
  from: '2026-09-01',
  to: null,
})
export const KESTREL = claimant('kestrel', 'Kestrel Hill Estate', 'farm-use', {
  number: 'TK-F-00917',
  regions: ['TK'],
  from: '2026-01-01',
  to: '2026-11-15',
})
export const CLAIMANTS: readonly Claimant[] = [THISTLEDOWN, OSTLER, RAVEL, KESTREL]

/** Two branches of one name, both entered for what the web shop sells them; the shop has one entry, and only somebody who knows them can tell which. */
export const FOLDGATE = {
  name: 'Foldgate Dairy',
  claims: 'resale',
  web: 'web_foldgate',
  branches: ['FOLD-HILL', 'FOLD-QUAY'],
} as const

/** How billing holds an item. */
export interface BillingItem {
  readonly name: string
  readonly taxable: boolean
  readonly itemTaxCode: string | null
}
const UNTAXED_CODES: readonly string[] = ['FOOD', 'SEED', 'GIFT']

/** Billing's items: right but for one on the default code, one under another's, one flagged against its code, and a space too many in a name. */
export function inBilling({ code, name, taxCode }: Item): BillingItem {
  const right = { name, taxable: !UNTAXED_CODES.includes(taxCode), itemTaxCode: taxCode }
  const wrong: Readonly<Record<string, Partial<BillingItem>>> = {
    COMB: { itemTaxCode: null },
    GLOVES: { itemTaxCode: 'GOODS' },
    'HONEY-H': { taxable: true },
    'FRAME-D': { name: 'Deep  frame, waxed' },
  }
  return { ...right, ...wrong[code] }
}

/** Parties that billing has, and no document names: one that stands for many and is exempt, and one that only billing knows to be exempt. */
export const BILLING_PARTIES: readonly {
  readonly id: string
  readonly name: string
  readonly exemption: {
    readonly reason: string
    readonly certificate: string | null
    readonly from: null
    readonly to: null
  }
}[] = [
  {
    id: 'cus_counter',
    name: 'Counter sale',
    exemption: { reason: 'resale', certificate: null, from: null, to: null },
  },
  {
    id: 'cus_almshouse',
    name: 'Fernside Almshouse',
    exemption: { reason: 'charity', certificate: 'C-77', from: null, to: null },
  },
]
