import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { CUSTOMERS, ITEMS, SHIPPING, type Item } from './goods.ts'
import { PLACES, type Place } from './places.ts'

const HAND_TYPED_ONCE = 'Port Lennox'
const DAYS = 30

export type Draw = (from: number, to: number) => number

/** Whole numbers from a seed; both ends are drawn. */
export function drawing(seed: number): Draw {
  const generator = xoroshiro128plus(seed)
  return (from, to) => uniformInt(generator, from, to)
}

interface Sale {
  readonly place: Place
  readonly day: number
  readonly handTyped: boolean
}

/** One month's invoices, without the tax: billing charges that itself. The same seed gives the same bytes. */
export function invoices(seed: number, month: string, webAddress: string): { readonly id: string; readonly value: object }[] {
  const draw = drawing(seed)
  const sales: Sale[] = PLACES.flatMap((place) =>
    Array.from({ length: place.invoices }, (_, at) => ({ place, day: draw(1, DAYS), handTyped: place.city === HAND_TYPED_ONCE && at === 0 })),
  )
  return sales
    .sort((a, b) => a.day - b.day)
    .map((sale, at) => ({ id: `inv_${20801 + at}`, value: invoice(sale, `LA-${20801 + at}`, month, webAddress, draw) }))
}

function invoice({ place, day, handTyped }: Sale, number: string, month: string, webAddress: string, draw: Draw): object {
  const date = `${month}-${String(day).padStart(2, '0')}`
  const customer = CUSTOMERS[draw(0, CUSTOMERS.length - 1)] ?? ''
  const goods = Array.from({ length: draw(1, 4) }, () => ITEMS[draw(0, ITEMS.length - 2)] as Item)
  // The hand-typed rate and every rated place carries something taxable, so that its rate shows on each of its invoices.
  const items = [ITEMS[draw(0, 6)] as Item, ...goods.slice(1), ...(draw(0, 2) === 0 ? [] : [SHIPPING])]
  const lines = items.map((sold, at) => {
    const quantity = draw(1, sold.most)
    const taxed = place.rate !== null && !place.exempt.includes(sold.taxCode)
    return {
      id: String(at + 1), kind: sold.kind, itemCode: sold.code, description: sold.name, quantity: String(quantity),
      unitPrice: cents(sold.price), discount: '0.00', amount: cents(sold.price * quantity), creditsLineId: null, taxRateId: taxed ? (handTyped ? 'rate_typed' : `rate_${place.rate}`) : null,
    }
  })
  return {
    number, kind: 'invoice', status: 'open', documentDate: date, supplyDate: date, paymentDate: null, currency: 'USD', exchangeRate: null, pricesIncludeTax: false, creditsDocumentId: null, discount: '0.00', reimbursed: '0.00',
    party: { id: `cus_${customer.replace(/[^A-Za-z]/g, '').toLowerCase()}_${place.postalCode}`, name: customer },
    shipTo: { country: 'XA', region: place.region, city: place.city, postalCode: place.postalCode },
    shipFrom: { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' },
    lines, webAddress,
  }
}

/** Cents as a decimal. */
function cents(amount: number): string {
  const text = String(amount).padStart(3, '0')
  return `${text.slice(0, -2)}.${text.slice(-2)}`
}
