import { heldRate } from '../shared/systems.ts'
import { drawing, type Draw } from '../shared/draw.ts'
import { addressOf, taken, type Taken } from '../shared/taken.ts'
import type { Item, Place, Rate, SystemData } from '../shared/sale.ts'
import { CLAIMANTS, FOLDGATE, heldKind, ITEMS, itemOf, NAMES } from './goods.ts'
import { FAIR, OUTLETS } from './house.ts'
import { moneyOf, tendered, type MoneyException } from './money.ts'
import { AGENCIES, ALDER, asOfOctober, FENWICK, MERROW, OSIER, QUILLBY, rateOf, rightly } from './places.ts'

/** The systems of Larkspur beside ledger and billing. What is wrong in their set-up, Axion has to find. */
export interface OtherSystem {
  readonly id: string
  readonly role: 'pos' | 'commerce' | 'purchasing' | 'payments' | 'bank'
  readonly name: string
  readonly data: SystemData
}

const COMPANY = { id: 'larkspur', name: 'Larkspur Apiary Supply' }
const BASE = {
  company: COMPANY,
  baseCurrency: 'USD',
  currencies: ['USD'],
  timeZone: 'America/Chicago',
  taxEnabled: true,
  computesTax: true,
  defaultItemTaxCode: null,
  rounding: null,
}
const HOME = { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' }
/** A document as Larkspur's systems have it: charged by the demo's own rule of what is taxed where. */
const documentOf = (sold: Omit<Taken, 'rightly' | 'currency' | 'shipFrom'>): object =>
  taken({
    ...sold,
    rightly: (place, item, quantity) => rightly(place, item, quantity).rate,
    currency: 'USD',
    shipFrom: HOME,
  })
type Objects = SystemData['objects'][number][]

function agenciesOf(
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

function ratesOf(
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

function itemsOf(
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

function methodsOf(
  rows: readonly (readonly [id: string, name: string, kind: string, masked?: string])[],
): Objects {
  return rows.map(([id, name, kind, maskedNumber = null]) => ({
    resource: 'payment-methods',
    id,
    value: { code: null, name, kind, maskedNumber, active: true },
  }))
}

/** The shop's rates: not ready for November, Hollis County's split typed wrong with the right total, and the fuel levy at last year's amount. */
function webRate(rate: Rate): Rate {
  if (rate.code === 'TK') return asOfOctober(rate)
  if (rate.code === 'WN-HOL')
    return {
      ...rate,
      components: rate.components.map((c) =>
        c.agency === 'WRO'
          ? { ...c, percent: '5.45' }
          : c.from === '2026-09-01'
            ? { ...c, percent: '1.50' }
            : c,
      ),
    }
  return rate.code === 'BK-FUEL'
    ? { ...rate, components: rate.components.map((c) => ({ ...c, perUnit: '0.10' })) }
    : rate
}

/** Only the web shop has it. */
const BALM: Item = {
  code: 'BALM-60',
  name: 'Beeswax balm, 60 ml',
  kind: 'goods',
  taxCode: 'GOODS',
  price: 1490,
  most: 4,
}
const GOODS_SOLD = ['HIVE-8', 'FRAME-D', 'SMOKER', 'TOOL-J', 'SUIT-V', 'HONEY-5', 'HONEY-H', 'SEED-C']
const goods = (draw: Draw, most: number): { item: Item; quantity: number }[] =>
  Array.from({ length: draw(1, most) }, () =>
    itemOf(GOODS_SOLD[draw(0, GOODS_SOLD.length - 1)] ?? 'SMOKER'),
  ).map((item) => ({ item, quantity: draw(1, Math.min(item.most, 4)) }))
const september = (day: number): string => `2026-09-${String(day).padStart(2, '0')}`

/** Three outlets in three jurisdictions; one of them is open past midnight. */
function tills(draw: Draw): SystemData {
  const outlets = OUTLETS.flatMap((outlet) =>
    outlet.till === null ? [] : [[outlet.till, outlet.name, outlet.place, outlet.cutOff] as const],
  )
  // Somebody set the quay's day to end an hour early, and typed the market's postal code wrong.
  const wrong: Readonly<Record<string, object>> = {
    loc_quay: { cutOff: '02:00' },
    loc_merrow: { address: { ...addressOf(MERROW), postalCode: '52090' } },
  }
  // Nobody told the tills of the county's rise; and Merrow's rate was typed in.
  const old = (rate: Rate): Rate =>
    rate.code === 'WN-PLX'
      ? {
          ...rate,
          components: rate.components.filter((c) => c.from === undefined).map(({ to: _to, ...c }) => c),
        }
      : rate
  const typed = {
    resource: 'tax-rates',
    id: 'till_TK-MER',
    value: { code: null, name: 'Merrow county', percent: '6.75', active: true, components: null },
  }
  // Merrow market's till sends nothing after the 24th, and nobody has noticed.
  const receipts = Array.from({ length: 90 }, (_, at) => at)
    .filter((at) => at % 3 !== 2 || at < 72)
    .map((at): Objects[number] => {
      const [location, , place] = outlets[at % 3] as (typeof outlets)[number]
      const day = 1 + Math.floor(at / 3)
      // The quay is open past midnight.
      const hour = String(location === 'loc_quay' && day % 4 === 1 ? 1 : draw(9, 21)).padStart(2, '0')
      const number = `${location.slice(4, 5).toUpperCase()}-${5001 + at}`
      return {
        resource: 'documents',
        id: `rec_${5001 + at}`,
        value: documentOf({
          id: number,
          number,
          kind: 'receipt',
          date: september(day),
          at: `${september(day)}T${hour}:${String(draw(0, 59)).padStart(2, '0')}:00-05:00`,
          place,
          location,
          party: { id: 'walk-in', name: 'Walk-in' },
          lines: goods(draw, 3),
          rateId: (code) => `till_${code}`,
          agencyId: (code) => `till_agency_${code}`,
          rateOf: (code) => old(rateOf(code)),
          // The last days are paid by card.
          method: draw(0, 2) === 0 && day < 29 ? 'pm_cash' : 'pm_card',
        }),
      }
    })
  return {
    settings: {
      ...BASE,
      defaultItemTaxCode: 'GOODS',
      keepsInventory: true,
      rounding: { level: 'line', unit: 'combined', tie: 'half-away' },
    },
    objects: [
      ...agenciesOf('till', ['WRO', 'HCT', 'CPL', 'TDT', 'MCA'], { MCA: 'Merrow County Assesor' }),
      ...ratesOf('till', ['WN', 'WN-PLX'], old),
      typed,
      ...itemsOf('till', GOODS_SOLD.map(itemOf), {
        'SUIT-V': { itemTaxCode: 'CLOTHES' },
        'HONEY-5': { itemTaxCode: null },
        SMOKER: { code: 'smoker' },
      }),
      ...methodsOf([
        ['pm_cash', 'Cash', 'cash'],
        ['pm_card', 'Card', 'card'],
        ['pm_gift', 'Gift card', 'card'],
      ]),
      ...outlets.map(([id, name, place, cutOff]) => ({
        resource: 'locations',
        id,
        value: {
          code: null,
          name,
          timeZone: 'America/Chicago',
          cutOff,
          address: addressOf(place),
          ...wrong[id],
        },
      })),
      {
        resource: 'locations',
        id: FAIR.till,
        value: {
          code: null,
          name: FAIR.name,
          timeZone: 'America/Chicago',
          cutOff: null,
          address: addressOf(FAIR.place),
        },
      },
      ...tendered(receipts),
    ],
  }
}

/** A web shop of its own, and a marketplace that collects the tax itself. */
function shop(draw: Draw): SystemData {
  const places = [FENWICK, ALDER, QUILLBY, OSIER]
  const buyers = NAMES.slice(0, 10).map((name, at) => ({ id: `web_${100 + at}`, name: name.trim() }))
  const onMarket = (at: number): boolean => at % 5 === (at < 20 ? 4 : 3)
  const orders = Array.from({ length: 40 }, (_, at): Objects[number] => {
    const place = places[at % places.length] as Place
    const day = september(1 + ((at * 3) % 30))
    return {
      resource: 'documents',
      id: `ord_${7001 + at}`,
      value: documentOf({
        id: `W-${7001 + at}`,
        number: `W-${7001 + at}`,
        kind: 'order',
        date: day,
        at: `${day}T${String(draw(0, 23)).padStart(2, '0')}:15:00-05:00`,
        place,
        location: null,
        party: buyers[at % buyers.length] ?? { id: 'web_100', name: '' },
        lines: goods(draw, 2),
        rateId: (code) => `web_${code}`,
        agencyId: (code) => `web_agency_${code}`,
        rateOf,
        // One order of the marketplace was paid by card all the same.
        method: onMarket(at) && at !== 23 ? 'pm_market' : 'pm_web_card',
        ...(onMarket(at) ? { marketplace: 'Commonfair' } : {}),
      }),
    }
  })
  return {
    // Whoever set the shop up had new articles start as tools, and new buyers as exempt.
    settings: { ...BASE, defaultItemTaxCode: 'TOOLS', newPartiesTaxable: false },
    objects: [
      ...agenciesOf('web', ['WRO', 'HCT', 'BTD', 'TDT', 'BRD']),
      ...ratesOf('web', ['WN', 'WN-FEN', 'WN-HOL', 'TK', 'BK-FUEL'], webRate).map((o) =>
        o.id === 'web_WN' ? { ...o, value: { ...(o.value as object), active: false } } : o,
      ),
      ...itemsOf('web', [...ITEMS.filter((i) => i.kind === 'goods'), BALM], {
        'TOOL-J': { name: 'Hive tool, J-hook' },
        'SEED-C': { itemTaxCode: 'FOOD' },
      }),
      ...['GOODS', 'TOOLS', 'CLOTHING', 'MACHINE', 'FUEL', 'FOOD', 'SEED', 'GIFT', 'SERVICE'].map((code) => ({
        resource: 'item-tax-codes',
        id: code,
        value: { code, name: code.toLowerCase() },
      })),
      ...buyers.map(({ id, name }) => ({
        resource: 'parties',
        id,
        value: { name, address: null, exemption: null },
      })),
      // Who is exempt in billing buys here as anybody.
      ...CLAIMANTS.map(({ id, name, claims }) => ({
        resource: 'parties',
        id,
        value: {
          name,
          address: null,
          exemption:
            id === 'cus_thistledown' ? null : { reason: claims, certificate: null, from: null, to: null },
        },
      })),
      {
        resource: 'parties',
        id: FOLDGATE.web,
        value: {
          name: FOLDGATE.name,
          address: null,
          exemption: { reason: FOLDGATE.claims, certificate: null, from: null, to: null },
        },
      },
      {
        resource: 'parties',
        id: 'web_kestrel',
        value: { name: 'Kestrel  Hill estate', address: null, exemption: null },
      },
      ...methodsOf([
        ['pm_web_card', 'Card on the web', 'card'],
        ['pm_market', 'Commonfair balanse', 'other'],
      ]),
      {
        resource: 'locations',
        id: 'loc_warehouse',
        value: {
          code: 'WH',
          name: 'Quillby warehouse',
          timeZone: 'America/Chicago',
          cutOff: null,
          address: { ...HOME, city: 'Quilby' },
        },
      },
      ...orders,
    ],
  }
}

/** Bills of suppliers with the tax they charge, paid by transfer or by a company card. */
function buying(draw: Draw): SystemData {
  const suppliers = [
    'Brindle Timber',
    'Wax & Wick Supply',
    'Northbank Glass',
    'Ferrier Sheet Metal',
    'Corran Paper',
  ]
  const wrong = (rate: Rate): Rate =>
    rate.code === 'TK'
      ? {
          ...rate,
          components: rate.components.map((c) => (c.to === '2026-10-31' ? { ...c, percent: '5.75' } : c)),
        }
      : rate
  const bills = Array.from({ length: 12 }, (_, at): Objects[number] => {
    const name = suppliers[at % suppliers.length] ?? ''
    return {
      resource: 'documents',
      id: `bill_${at + 1}`,
      value: documentOf({
        id: `B-${301 + at}`,
        number: `B-${301 + at}`,
        kind: 'bill',
        date: september(2 + Math.floor((at * 28) / 11)),
        at: null,
        place: at % 3 === 2 ? OSIER : QUILLBY,
        location: null,
        party: { id: `sup_${at % suppliers.length}`, name },
        lines: goods(draw, 2),
        rateId: (code) => `buy_${code}`,
        agencyId: (code) => `buy_agency_${code}`,
        rateOf: (code) => wrong(rateOf(code)),
        method: null,
      }),
    }
  })
  return {
    settings: { ...BASE, computesTax: false },
    objects: [
      ...agenciesOf('buy', ['WRO', 'TDT']),
      ...ratesOf('buy', ['WN', 'TK'], wrong),
      ...suppliers.map((name, at) => ({
        resource: 'parties',
        id: `sup_${at}`,
        value: { name, address: null, exemption: null },
      })),
      ...methodsOf([
        ['pm_transfer', 'Bank transfer', 'transfer'],
        ['pm_card_yard', 'Company card, yard', 'card', '****4417'],
        ['pm_card_office', 'Company card, office', 'card', '****9023'],
      ]).map((o) =>
        o.id === 'pm_transfer' ? { ...o, value: { ...(o.value as object), active: false } } : o,
      ),
      ...bills,
    ],
  }
}

/** A processor, or a bank: nothing there is taxed. */
const untaxed = (objects: SystemData['objects']): SystemData => ({
  settings: { ...BASE, taxEnabled: false, computesTax: false },
  objects,
})

/** Point of sale, web shop, purchasing, two processors and the bank, from the seed. */
export function otherSystems(seed: number): readonly OtherSystem[] {
  const draw = drawing(seed + 1)
  const [pos, commerce, purchasing] = [tills(draw), shop(draw), buying(draw)]
  const { brook, tarn, bank } = moneyOf(pos, commerce)
  return [
    { id: 'pos', role: 'pos', name: 'Tills', data: pos },
    { id: 'commerce', role: 'commerce', name: 'Web shop', data: commerce },
    { id: 'purchasing', role: 'purchasing', name: 'Purchasing', data: purchasing },
    {
      id: 'payments',
      role: 'payments',
      name: 'Brook',
      data: untaxed([...methodsOf([['brk_card', 'Cards at the till', 'card']]), ...brook.objects]),
    },
    {
      id: 'payments-web',
      role: 'payments',
      name: 'Tarn Pay',
      data: untaxed([...methodsOf([['trn_card', 'Cards on the web', 'card']]), ...tarn.objects]),
    },
    { id: 'bank', role: 'bank', name: 'Bank', data: untaxed(bank.objects) },
  ]
}

/** The answer key of what moved: where it is not what was sold. The application never reads this, and its form may still change. */
export function moneyExceptions(seed: number): readonly MoneyException[] {
  const systems = otherSystems(seed)
  const of = (id: string): SystemData => systems.find((system) => system.id === id)?.data ?? untaxed([])
  return moneyOf(of('pos'), of('commerce')).exceptions
}
