import { makeSale, type SaleOptions, type Wanted } from '../shared/makeSale.ts'
import type { Charge, Item, Sale } from '../shared/sale.ts'
import { itemOf, SHIPPING } from './goods.ts'
import { rightly } from './places.ts'

export const buyer = (name: string): { id: string; name: string } => ({
  id: `cus_${name.toLowerCase().replace(/[^a-z]/g, '')}`,
  name,
})
export const of = (code: string, quantity = 1, more: Partial<Wanted> = {}): Wanted => ({
  item: itemOf(code),
  quantity,
  ...more,
})
export const ship = (more: Partial<Wanted> = {}): Wanted => ({ item: SHIPPING, ...more })
export const sell = (options: SaleOptions): Sale => makeSale(rightly, options)
/** Every line at another rate than the right one. */
export const at = (
  sale: Sale,
  charge: (item: Item, right: Charge, amount: bigint) => Charge,
  mishap: string,
): Sale => ({
  ...sale,
  mishap,
  lines: sale.lines.map((line) => ({ ...line, charged: charge(line.item, line.right, line.amount) })),
})

export const september = (day: number): string => `2026-09-${String(day).padStart(2, '0')}`
