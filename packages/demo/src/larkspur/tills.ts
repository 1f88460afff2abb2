import type { Draw } from '../shared/draw.ts'
import type { Rate, SystemData } from '../shared/sale.ts'
import { addressOf } from '../shared/taken.ts'
import { itemOf } from './goods.ts'
import { FAIR, OUTLETS } from './house.ts'
import { tendered } from './money.ts'
import {
  agenciesOf,
  BASE,
  documentOf,
  goods,
  GOODS_SOLD,
  itemsOf,
  methodsOf,
  ratesOf,
  september,
  type Objects,
} from './otherParts.ts'
import { MERROW, rateOf } from './places.ts'

const outlets = OUTLETS.flatMap((outlet) =>
  outlet.till === null ? [] : [[outlet.till, outlet.name, outlet.place, outlet.cutOff] as const],
)

/** Nobody told the tills of the county's rise. */
const old = (rate: Rate): Rate =>
  rate.code === 'WN-PLX'
    ? {
        ...rate,
        components: rate.components.filter((c) => c.from === undefined).map(({ to: _to, ...c }) => c),
      }
    : rate

/** Three receipts a day, but for what one till keeps to itself. */
function receiptsOf(draw: Draw): Objects {
  // Merrow market's till sends nothing after the 24th, and nobody has noticed.
  return Array.from({ length: 90 }, (_, at) => at)
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
}

/** Three outlets in three jurisdictions; one of them is open past midnight. */
export function tills(draw: Draw): SystemData {
  // Somebody set the quay's day to end an hour early, and typed the market's postal code wrong.
  const wrong: Readonly<Record<string, object>> = {
    loc_quay: { cutOff: '02:00' },
    loc_merrow: { address: { ...addressOf(MERROW), postalCode: '52090' } },
  }
  // Merrow's rate was typed in.
  const typed = {
    resource: 'tax-rates',
    id: 'till_TK-MER',
    value: { code: null, name: 'Merrow county', percent: '6.75', active: true, components: null },
  }
  const receipts = receiptsOf(draw)
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
