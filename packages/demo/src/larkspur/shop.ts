import type { Draw } from '../shared/draw.ts'
import type { Place, Rate, SystemData } from '../shared/sale.ts'
import { CLAIMANTS, FOLDGATE, ITEMS, NAMES } from './goods.ts'
import {
  agenciesOf,
  BALM,
  BASE,
  documentOf,
  goods,
  HOME,
  itemsOf,
  methodsOf,
  ratesOf,
  september,
  type Objects,
} from './otherParts.ts'
import { ALDER, asOfOctober, FENWICK, OSIER, QUILLBY, rateOf } from './places.ts'

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

const buyers = NAMES.slice(0, 10).map((name, at) => ({ id: `web_${100 + at}`, name: name.trim() }))

/** Forty orders, every fifth by way of a marketplace. */
function ordersOf(draw: Draw): Objects {
  const places = [FENWICK, ALDER, QUILLBY, OSIER]
  const onMarket = (at: number): boolean => at % 5 === (at < 20 ? 4 : 3)
  return Array.from({ length: 40 }, (_, at): Objects[number] => {
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
}

/** What somebody once set for two buyers: the rate of another place than their address, and no tax for no reason. */
const KEPT: Readonly<Record<string, object>> = {
  web_102: { address: { ...HOME, city: 'Fenwick Falls', postalCode: '40217' }, defaultTaxRateId: 'web_TK' },
  web_103: { taxable: false },
}

/** A web shop of its own, and a marketplace that collects the tax itself. */
export function shop(draw: Draw): SystemData {
  const orders = ordersOf(draw)
  return {
    // Whoever set the shop up had new articles start as tools, and new buyers as exempt; it falls back on the rate of the place they lived in.
    settings: { ...BASE, defaultItemTaxCode: 'TOOLS', newPartiesTaxable: false, defaultTaxRateId: 'web_TK' },
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
        value: { name, address: null, exemption: null, ...(KEPT[id] ?? {}) },
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
