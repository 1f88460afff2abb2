import type { SourceDocument } from '@axion/contract'
import { OUTLETS } from '../../packages/demo/src/larkspur/house.ts'
import { ITEMS, NAMES, THISTLEDOWN } from '../../packages/demo/src/larkspur/goods.ts'
import { PLACES, rateOf, rightly } from '../../packages/demo/src/larkspur/places.ts'
import { halfUp, millionths, money, spread } from '../../packages/demo/src/shared/exact.ts'
import type { Item, Place } from '../../packages/demo/src/shared/sale.ts'

/** Sales, returns and purchases of a business of any size: which one is the tenth says the tenth number alone. */

/** Which system sends a document, and how it names its rates, agencies and outlets. */
interface Source {
  readonly system: 'billing' | 'pos' | 'commerce' | 'purchasing'
  readonly kind: SourceDocument['kind']
  readonly rate: string
  readonly agency: string
  /** It rounds the tax of each line over all components, rather than each component over all lines. */
  readonly byLine: boolean
}
const BILLING: Source = { system: 'billing', kind: 'invoice', rate: 'rate_', agency: 'auth_', byLine: false }
const TILL: Source = { system: 'pos', kind: 'receipt', rate: 'till_', agency: 'till_agency_', byLine: true }
const SHOP: Source = { system: 'commerce', kind: 'order', rate: 'web_', agency: 'web_agency_', byLine: true }
const BUYING: Source = {
  system: 'purchasing',
  kind: 'bill',
  rate: 'buy_',
  agency: 'buy_agency_',
  byLine: true,
}
export const SYSTEMS = ['billing', 'pos', 'commerce', 'purchasing'] as const

interface Step {
  readonly source: Source
  /** What it takes back: so many documents before it, in whole. */
  readonly takesBack?: number
  readonly currency?: 'EUR' | 'JPY'
  readonly exempt?: true
}
/** Twenty documents as they follow each other: thirteen sales by invoice, one of them to a farm with a certificate, and what else there is. */
const ROUND: readonly Step[] = [
  ...Array.from({ length: 10 }, () => ({ source: BILLING })),
  { source: BILLING, currency: 'EUR' },
  { source: BILLING, currency: 'JPY' },
  { source: BILLING, exempt: true },
  { source: { ...BILLING, kind: 'credit-note' }, takesBack: 5 },
  { source: TILL },
  { source: TILL },
  { source: { ...TILL, kind: 'refund' }, takesBack: 2 },
  { source: SHOP },
  { source: { ...SHOP, kind: 'return' }, takesBack: 1 },
  { source: BUYING },
]
const EXCHANGE = { USD: null, EUR: '1.0830', JPY: '0.006700' } as const

const WHERE: Readonly<Record<Source['system'], readonly string[]>> = {
  billing: ['WN-FEN', 'WN-PLX', 'WN-HOL', 'WN', 'TK-MER', 'TK'],
  pos: ['WN-PLX', 'WN'],
  commerce: ['WN-FEN', 'WN-HOL', 'WN', 'TK'],
  purchasing: ['WN', 'TK'],
}
const SOLD = ITEMS.filter(
  ({ kind, taxCode }) => kind === 'goods' && ['GOODS', 'FOOD', 'SEED'].includes(taxCode),
)
const HOME = { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' }

/** Whole numbers from nothing but a place in the order: the same for the same place. */
function drawing(at: number): (below: number) => number {
  let state = (at + 1) * 0x9e3779b1
  return (below) => {
    state = (state + 0x6d2b79f5) | 0
    let mixed = Math.imul(state ^ (state >>> 15), state | 1)
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61)
    return ((mixed ^ (mixed >>> 14)) >>> 0) % below
  }
}

export interface Made {
  readonly system: Source['system']
  readonly id: string
  readonly value: SourceDocument
  /** The document that it takes back. */
  readonly original: Made | null
}

/**
 * The document at a place, from nought.
 * @param dayOf the day that it is of: a month has all of them, or a year
 */
export function documentAt(at: number, dayOf: (at: number) => string): Made {
  const { source, takesBack, currency = 'USD', exempt } = ROUND[at % ROUND.length] as Step
  const original = takesBack === undefined ? null : documentAt(at - takesBack, dayOf)
  const id = `${source.kind.slice(0, 3)}_${at}`
  if (original)
    return { system: source.system, id, value: takenBack(original, source.kind, at, dayOf), original }
  const draw = drawing(at)
  const rated = PLACES.filter((place) => place.rate !== null && WHERE[source.system].includes(place.rate))
  const place = (exempt ? rated.filter((one) => one.region === 'XA-WN') : rated)[draw(3)] as Place
  const lines = Array.from({ length: 1 + draw(3) }, (_, line) => {
    const item = SOLD[draw(SOLD.length)] as Item
    const quantity = 1 + draw(item.most)
    // No two are alike.
    const unitPrice = BigInt(item.price + (line === 0 ? at % 9973 : draw(500)))
    return {
      item,
      quantity,
      unitPrice,
      amount: unitPrice * BigInt(quantity),
      rate: exempt ? null : rightly(place, item, quantity).rate,
    }
  })
  const text = (units: bigint): string => money(units, currency)
  const taxes = taxesOf(lines, source, dayOf(at))
  const total = lines.reduce((sum, l) => sum + l.amount, 0n) + taxes.reduce((sum, t) => sum + t.tax, 0n)
  const outlet = OUTLETS.find((one) => one.place.rate === place.rate && one.till !== null)
  const name = NAMES[draw(NAMES.length)] ?? ''
  return {
    system: source.system,
    id,
    original: null,
    value: {
      number: `${source.kind.slice(0, 1).toUpperCase()}-${at}`,
      kind: source.kind,
      status: 'open',
      documentDate: dayOf(at),
      supplyDate: dayOf(at),
      paymentDate: null,
      currency,
      exchangeRate: EXCHANGE[currency],
      pricesIncludeTax: false,
      creditsDocumentId: null,
      party: exempt
        ? { id: THISTLEDOWN.id, name: THISTLEDOWN.name }
        : { id: `cus_${draw(50_000)}`, name: `${name} ${draw(50_000)}` },
      shipTo: {
        country: place.country,
        region: place.region,
        city: place.city,
        postalCode: place.postalCode,
      },
      shipFrom: HOME,
      discount: text(0n),
      reimbursed: text(0n),
      webAddress: null,
      lines: lines.map((line, at) => ({
        id: String(at + 1),
        kind: 'goods',
        itemCode: line.item.code,
        description: line.item.name,
        quantity: String(line.quantity),
        unitPrice: text(line.unitPrice),
        discount: text(0n),
        amount: text(line.amount),
        taxRateId: line.rate === null ? null : source.rate + line.rate,
        creditsLineId: null,
        overridden: null,
        taxableFlag: null,
      })),
      taxes: taxes.map(({ rate, base, tax, parts }) => ({
        taxRateId: source.rate + rate,
        base: text(base),
        tax: text(tax),
        components: parts.map((part) => ({
          agencyId: source.agency + part.agency,
          percent: part.percent,
          tax: text(part.tax),
        })),
      })),
      total: text(total),
      soldAt: source === TILL ? `${dayOf(at)}T11:00:00-05:00` : null,
      locationId: source === TILL ? (outlet?.till ?? null) : null,
      channel: null,
      marketplace: null,
      tenders: [],
      enteredBy: null,
      saleKind: null,
    },
  }
}

interface Line {
  readonly amount: bigint
  readonly rate: string | null
}

function taxesOf(lines: readonly Line[], { byLine }: Source, day: string) {
  return [...new Set(lines.flatMap(({ rate }) => rate ?? []))].map((rate) => {
    const components = rateOf(rate).components.filter(
      ({ from, to }) => (from === undefined || day >= from) && (to === undefined || day <= to),
    )
    const percents = components.map(({ percent }) => millionths(percent))
    const amounts = lines.filter((line) => line.rate === rate).map(({ amount }) => amount)
    const base = amounts.reduce((sum, one) => sum + one, 0n)
    const all = percents.reduce((sum, one) => sum + one, 0n)
    const each = byLine
      ? amounts
          .map((amount) => spread(halfUp(amount * all, 100_000_000n), percents))
          .reduce((sums, of) => sums.map((sum, at) => sum + (of[at] ?? 0n)))
      : percents.map((percent) => halfUp(base * percent, 100_000_000n))
    return {
      rate,
      base,
      tax: each.reduce((sum, one) => sum + one, 0n),
      parts: components.map(({ agency, percent }, at) => ({ agency, percent, tax: each[at] ?? 0n })),
    }
  })
}

function takenBack(
  { id, value }: Made,
  kind: SourceDocument['kind'],
  at: number,
  dayOf: (at: number) => string,
): SourceDocument {
  return {
    ...value,
    kind,
    number: `${kind.slice(0, 1).toUpperCase()}${at}`,
    documentDate: dayOf(at),
    supplyDate: dayOf(at),
    creditsDocumentId: id,
    lines: value.lines.map((line) => ({ ...line, creditsLineId: line.id })),
  }
}
