import { spread } from './exact.ts'
import type { Charge, Customer, Item, Place, Sale, SoldLine } from './sale.ts'

/** One line as it is asked for; whatever is left out is as usual. */
export interface Wanted {
  readonly item: Item
  readonly quantity?: number
  readonly discount?: bigint
  readonly unitPrice?: bigint
  readonly charged?: Charge
}

export type Rightly = (place: Place, item: Item, quantity: number) => Charge

export interface SaleOptions extends Partial<Omit<Sale, 'lines' | 'place' | 'customer' | 'date' | 'kind'>> {
  readonly date: string
  readonly place: Place
  readonly customer: Customer
  readonly wanted: readonly Wanted[]
  /** Nothing of it is taxed: a certificate holds. */
  readonly exempt?: boolean
}

/** An invoice with the right charge of every line; shipping that follows its goods takes its share of them. */
export function makeSale(rightly: Rightly, { wanted, exempt = false, ...options }: SaleOptions): Sale {
  const { place } = options
  const lines = wanted.map(
    ({ item, quantity = 1, discount = 0n, unitPrice = BigInt(item.price), charged }): SoldLine => ({
      item,
      quantity,
      unitPrice,
      discount,
      amount: unitPrice * BigInt(quantity) - discount,
      right: exempt ? { rate: null } : rightly(place, item, quantity),
      ...(charged ? { charged } : {}),
    }),
  )
  const goods = lines.filter((line) => line.item.kind === 'goods')
  const followed = lines.map((line) =>
    line.item.kind === 'shipping' && place.region === 'XA-BK' && !exempt
      ? { ...line, right: following(line.amount, goods, place.rate) }
      : line,
  )
  return {
    supply: options.date,
    kind: 'invoice',
    status: 'open',
    currency: 'USD',
    exchangeRate: null,
    inside: false,
    discount: 0n,
    reimbursed: 0n,
    credits: null,
    taxTo: null,
    mishap: null,
    ...options,
    lines: followed,
  }
}

function following(amount: bigint, goods: readonly SoldLine[], rate: string | null): Charge {
  const taxed = goods.filter((line) => line.right.rate !== null).reduce((sum, line) => sum + line.amount, 0n)
  const rest = goods.filter((line) => line.right.rate === null).reduce((sum, line) => sum + line.amount, 0n)
  const [taxable = 0n] = spread(amount, [taxed, rest])
  return taxable === 0n ? { rate: null } : { rate, taxable }
}

/** A credit note for some of an invoice's lines: place, from 1, and how much of each. */
export function credit(
  original: Sale,
  date: string,
  of: readonly (readonly [number, bigint])[],
  mishap: string | null = null,
): Sale {
  const lines = of.map(([place, amount]): SoldLine => {
    const line = original.lines[place - 1]
    if (!line) throw new Error(`no line ${place}`)
    return { ...line, quantity: 1, unitPrice: amount, discount: 0n, amount, credits: place }
  })
  return {
    ...original,
    date,
    supply: date,
    kind: 'credit-note',
    lines,
    discount: 0n,
    reimbursed: 0n,
    credits: original,
    mishap,
  }
}
