import { drawing, type Draw } from '../shared/draw.ts'
import { makeSale } from '../shared/makeSale.ts'
import type { Item, Place, Sale } from '../shared/sale.ts'
import { GOODS, NAMES, ORDINARY, SHIPPING } from './goods.ts'
import { LENNOX, PLACES, rightly } from './places.ts'
import { stories } from './stories.ts'

/** How many of a place's usual invoices fall in each month of the quarter. */
const MONTHS = [
  ['2026-07', 31, 4],
  ['2026-08', 31, 4],
  ['2026-09', 30, 1],
] as const
const FIRST_NUMBER = 20801

/** A sale with its number; in the order of dates, as a billing system gives them out. */
export interface Numbered {
  readonly id: string
  readonly number: string
  readonly sale: Sale
}

/** The quarter: ordinary sales from the seed, and September's stories. The same seed gives the same sales. */
export function quarter(seed: number): Numbered[] {
  const draw = drawing(seed)
  const ordinary = MONTHS.flatMap(([month, days, part]) =>
    PLACES.flatMap((place) =>
      Array.from({ length: Math.ceil(place.invoices / part) }, (_, at) =>
        ordinarySale(draw, { place, month, days, handTyped: at === 0 && part === 1 && place === LENNOX }),
      ),
    ),
  )
  const sales = [...ordinary, ...stories()]
    .map((sale, at) => ({ sale, at }))
    .sort((a, b) => (a.sale.date === b.sale.date ? a.at - b.at : a.sale.date < b.sale.date ? -1 : 1))
  let [invoices, credits] = [FIRST_NUMBER, 3901]
  return sales.map(({ sale }) => {
    const number = sale.kind === 'credit-note' ? `CN-${credits++}` : `LA-${invoices++}`
    return { id: `${sale.kind === 'credit-note' ? 'crn' : 'inv'}_${number.slice(3)}`, number, sale }
  })
}

function ordinarySale(
  draw: Draw,
  {
    place,
    month,
    days,
    handTyped,
  }: { readonly place: Place; readonly month: string; readonly days: number; readonly handTyped: boolean },
): Sale {
  const date = `${month}-${String(draw(1, days)).padStart(2, '0')}`
  const name = NAMES[draw(0, NAMES.length - 1)] ?? ''
  // Every rated place carries something taxable, so that its rate shows on each of its invoices.
  const items = [
    GOODS[draw(0, GOODS.length - 1)] as Item,
    ...Array.from({ length: draw(0, 3) }, () => ORDINARY[draw(0, ORDINARY.length - 1)] as Item),
    ...(draw(0, 2) === 0 ? [] : [SHIPPING]),
  ]
  const sale = makeSale(rightly, {
    date,
    place,
    customer: { id: `cus_${name.replace(/[^A-Za-z]/g, '').toLowerCase()}_${place.postalCode}`, name },
    wanted: items.map((item) => ({ item, quantity: draw(1, item.most) })),
  })
  return handTyped
    ? {
        ...sale,
        mishap: 'hand-typed',
        lines: sale.lines.map((line) => ({
          ...line,
          charged: line.right.rate === null ? line.right : { rate: 'typed' },
        })),
      }
    : sale
}
