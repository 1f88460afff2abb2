import { digitsOf, divideRounded, largestRemainder, millionths, toText, toUnits } from '../shared/exact.ts'
import { partsOn, taxesOn, taxesWithin, type Rate } from '../shared/rates.ts'

export type BillingRate = Rate
export interface InvoiceLine {
  readonly id: string
  readonly kind: string
  readonly itemCode: string | null
  readonly description: string
  readonly quantity: string
  readonly unitPrice: string
  readonly discount: string
  readonly amount: string
  readonly taxRateId: string | null
  readonly creditsLineId: string | null
  /** This system's own: the part of the line that its rate is taken of, where that is not all of it. */
  readonly taxable?: string
}
export interface Invoice {
  readonly number: string
  readonly kind: string
  readonly status: string
  readonly documentDate: string
  readonly supplyDate: string
  readonly paymentDate: string | null
  readonly currency: string
  readonly exchangeRate: string | null
  readonly pricesIncludeTax: boolean
  readonly creditsDocumentId: string | null
  readonly party: { readonly id: string; readonly name: string }
  readonly shipTo: object
  readonly shipFrom: object | null
  readonly lines: readonly InvoiceLine[]
  readonly discount: string
  readonly reimbursed: string
  readonly webAddress: string | null
  /** This system's own: one office that all its tax is put down to, as it came in. */
  readonly taxTo?: string
}

/** What a credit note credits, and how much of each of its lines went before. */
export interface Credited {
  readonly original: Invoice
  readonly before: ReadonlyMap<string, bigint>
}

/** Bases and quantities by rate. */
type Bases = Map<string, { base: bigint; quantity: bigint }>

/**
 * Adds what this billing system charges: by document and component, a rate without components by its flat percent. A credit
 * note is charged as what its original would have had so far, less what went before.
 */
export function charged(
  invoice: Invoice,
  rates: ReadonlyMap<string, BillingRate>,
  credited: Credited | null = null,
): object {
  const { currency } = invoice
  const dated = credited?.original ?? invoice
  const rate = (id: string): BillingRate =>
    rates.get(id) ??
    (() => {
      throw new Error(`invoice ${invoice.number} has the unknown rate ${id}`)
    })()
  const now = credited ? creditedBases(credited, afterwards(invoice, credited)) : basesOf(invoice)
  const before: Bases = credited ? creditedBases(credited, credited.before) : new Map()

  let tax = 0n
  const taxes = [...now].map(([taxRateId, { base, quantity }]) => {
    const of = rate(taxRateId)
    const parts = partsOn(of, dated.supplyDate)
    const on = (b: bigint, q: bigint): bigint[] =>
      dated.pricesIncludeTax
        ? taxesWithin(parts, b)
        : taxesOn(parts, of.components ?? [], {
            base: b,
            quantity: q,
            unit: 10n ** BigInt(digitsOf(currency)),
          })
    const past = before.get(taxRateId) ?? { base: 0n, quantity: 0n }
    const [upTo, until] = [on(base, quantity), on(past.base, past.quantity)]
    const each = upTo.map((part, at) => part - (until[at] ?? 0n))
    const total = each.reduce((sum, part) => sum + part, 0n)
    tax += total
    const net = base - past.base - (dated.pricesIncludeTax ? total : 0n)
    return {
      taxRateId,
      base: toText(net, currency),
      tax: toText(total, currency),
      components: of.components
        ? parts.map((part, at) => ({
            agencyId: invoice.taxTo ?? part.agencyId,
            percent: part.percent,
            tax: toText(each[at] ?? 0n, currency),
          }))
        : null,
    }
  })
  const sold =
    invoice.lines.reduce((sum, line) => sum + toUnits(line.amount, currency), 0n) -
    toUnits(invoice.discount, currency)
  const { taxTo: _own, ...document } = invoice
  return {
    ...document,
    lines: invoice.lines.map(({ taxable: _own, ...line }) => line),
    taxes,
    total: toText(sold + (dated.pricesIncludeTax ? 0n : tax), currency),
  }
}

/** Each line's amount less its share of the document's discount, which goes over goods and services first. */
export function discounted({ lines, discount, currency }: Invoice): bigint[] {
  const amounts = lines.map((line) => toUnits(line.amount, currency))
  const goods = lines.some((line) => line.kind !== 'shipping')
  const shares = largestRemainder(
    toUnits(discount, currency),
    amounts.map((amount, at) => ((lines[at]?.kind === 'shipping') === goods || amount < 0n ? 0n : amount)),
  )
  return amounts.map((amount, at) => amount - (shares[at] ?? 0n))
}

function basesOf(invoice: Invoice): Bases {
  const bases: Bases = new Map()
  discounted(invoice).forEach((amount, at) => {
    const line = invoice.lines[at]
    if (line?.taxRateId == null) return
    put(
      bases,
      line.taxRateId,
      line.taxable === undefined ? amount : toUnits(line.taxable, invoice.currency),
      millionths(line.quantity),
    )
  })
  return bases
}

function put(bases: Bases, rateId: string, base: bigint, quantity: bigint): void {
  const sum = bases.get(rateId) ?? { base: 0n, quantity: 0n }
  bases.set(rateId, { base: sum.base + base, quantity: sum.quantity + quantity })
}

function afterwards(credit: Invoice, { before }: Credited): ReadonlyMap<string, bigint> {
  const after = new Map(before)
  discounted(credit).forEach((amount, at) => {
    const id = credit.lines[at]?.creditsLineId
    if (id != null) after.set(id, (after.get(id) ?? 0n) + amount)
  })
  return after
}

/** The original's bases, each line scaled to what is credited of it. */
function creditedBases({ original }: Credited, so: ReadonlyMap<string, bigint>): Bases {
  const bases: Bases = new Map()
  discounted(original).forEach((amount, at) => {
    const line = original.lines[at]
    const part = so.get(line?.id ?? '') ?? 0n
    if (line?.taxRateId == null || amount === 0n || part === 0n) return
    const taxable = line.taxable === undefined ? amount : toUnits(line.taxable, original.currency)
    put(
      bases,
      line.taxRateId,
      divideRounded(taxable * part, amount),
      divideRounded(millionths(line.quantity) * part, amount),
    )
  })
  return bases
}
