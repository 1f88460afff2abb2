import {
  accountOf,
  BASE,
  CODES,
  COMPONENTS,
  CURRENCIES,
  percentOn,
  placeOf,
  REGIONS,
  type Component,
} from './world.ts'

/**
 * A tax calculator of its own, in bare integers, which shares no line with the core that it scores: what a system comes to for
 * a sale when it works as asked, rightly or with a mistake.
 */
export interface Line {
  readonly id: string
  readonly kind: 'goods' | 'shipping'
  readonly code: string
  readonly quantity: bigint
  readonly amount: bigint
}
export interface Sale {
  readonly number: string
  readonly kind: 'invoice' | 'credit-note'
  readonly date: string
  readonly place: string
  readonly party: 'plain' | 'farm' | 'lapsed'
  readonly currency: string
  readonly inside: boolean
  readonly discount: bigint
  readonly lines: readonly Line[]
}

/** How a system works a sale out. Each part can be wrong. */
export interface Way {
  readonly level: 'unit' | 'line' | 'document'
  readonly unit: 'component' | 'combined'
  readonly tie: 'half-away' | 'half-even' | 'truncate'
  readonly ratesOn: string
  readonly ratesOf: string
  readonly without: string | null
  readonly percents: ReadonlyMap<string, string>
  readonly accounts: ReadonlyMap<string, string>
  readonly oneAgency: string | null
  readonly flat: string | null
  readonly code: string | null
  readonly certificates: 'as-they-are' | 'ignored' | 'everyone'
  readonly shipping: 'as-ruled' | 'taxed' | 'untaxed'
  readonly beforeDiscount: boolean
  readonly inside: boolean
  readonly sign: 1n | -1n
  readonly leaveOut: string | null
  readonly atOne: boolean
}

/** What came out: tax by agency and account, with its base where there is one, and the net, signed; in both currencies. */
export interface Outcome {
  readonly taxes: readonly {
    readonly agency: string | null
    readonly account: string | null
    readonly jurisdiction: string | null
    readonly tax: bigint
    readonly base: bigint | null
    readonly inBase: bigint | null
  }[]
  readonly net: bigint
  readonly currency: string
  readonly date: string
}

export function rightWay(sale: Sale): Way {
  const region = REGIONS.find((r) => r.id === placeOf(sale.place).region)
  return {
    level: 'document',
    unit: 'component',
    tie: 'half-away',
    ratesOn: sale.date,
    ratesOf: sale.place,
    without: null,
    percents: new Map(),
    accounts: new Map(),
    oneAgency: null,
    flat: null,
    code: null,
    certificates: 'as-they-are',
    shipping: 'as-ruled',
    beforeDiscount: region?.taxedBeforeDiscount ?? false,
    inside: sale.inside,
    sign: 1n,
    leaveOut: null,
    atOne: false,
  }
}

export function reckon(sale: Sale, way: Way): Outcome {
  const lines = kept(sale, way)
  const components = placeOf(way.ratesOf).components.filter((c) => c.jurisdiction !== way.without)
  const percents = components.map((c) =>
    fraction(way.percents.get(c.jurisdiction) ?? percentOn(c, way.ratesOn)),
  )
  const bases = basesOf(sale, way, lines)
  const gross = lines.map((l) => l.amount)
  const each = way.inside
    ? within(bases, percents)
    : onTop(
        bases.map((base, at) => ({ base, quantity: lines[at]?.quantity ?? 1n })),
        percents,
        way,
      )
  const sign = (sale.kind === 'credit-note' ? -1n : 1n) * way.sign
  const taxed = sum(bases)
  const inside = way.inside ? sum(each) : 0n
  const flat = way.flat === null ? null : flatly(bases, lines, way)
  const rows =
    flat !== null
      ? [{ agency: null, account: null, jurisdiction: null, tax: flat * sign, base: null }]
      : components.map((c, at) => ({
          agency: way.oneAgency ?? c.agency,
          account: way.accounts.get(way.oneAgency ?? c.agency) ?? accountOf(way.oneAgency ?? c.agency),
          jurisdiction: c.jurisdiction,
          tax: (each[at] ?? 0n) * sign,
          base: (taxed - inside) * sign,
        }))
  const insideOf = way.inside ? components.map((_, at) => spread(each[at] ?? 0n, bases)) : []
  // Shipping of two treatments stays two lines all the way to the ledger.
  const nets = gross.flatMap((amount, at) => {
    const net = amount - sum(insideOf.map((of) => of[at] ?? 0n))
    const base = bases[at] ?? 0n
    return (
      lines[at]?.line.kind === 'shipping' && base > 0n && base < amount ? [base, net - base] : [net]
    ).map((part) => part * sign)
  })
  const net = (sum(gross) - inside) * sign
  const taxes = rows.filter((r) => r.tax !== 0n)
  const converted = inBase([...nets, ...taxes.map((r) => r.tax)], sale.currency, way.atOne)
  return {
    taxes: taxes.map((row, at) => ({
      ...row,
      inBase: converted === null ? null : (converted[at + nets.length] ?? 0n),
    })),
    net,
    currency: sale.currency,
    date: sale.date,
  }
}

/** The lines less their shares of the discount; a line left out takes its shares of discount and of followed shipping along. */
function kept(
  sale: Sale,
  way: Way,
): { readonly line: Line; readonly quantity: bigint; readonly amount: bigint; readonly full: bigint }[] {
  const goods = sale.lines.filter((l) => l.kind === 'goods')
  const shares = spread(
    sale.discount,
    sale.lines.map((l) => (l.kind === 'goods' || goods.length === 0 ? l.amount : 0n)),
  )
  const all = sale.lines.map((line, at) => ({
    line,
    quantity: line.quantity,
    amount: line.amount - (shares[at] ?? 0n),
    full: line.amount,
  }))
  if (way.leaveOut === null) return all
  const left = all.find((l) => l.line.id === way.leaveOut)
  const nets = all.filter((l) => l.line.kind === 'goods')
  return all
    .filter((l) => l !== left)
    .map((l) => {
      const follows = REGIONS.find((r) => r.id === placeOf(sale.place).region)?.shipping === 'follows'
      if (l.line.kind !== 'shipping' || left?.line.kind !== 'goods' || !follows) return l
      const carried =
        spread(
          l.amount,
          nets.map((n) => n.amount),
        )[nets.indexOf(left)] ?? 0n
      return { ...l, amount: l.amount - carried, full: l.full - carried }
    })
}

function basesOf(sale: Sale, way: Way, lines: ReturnType<typeof kept>): bigint[] {
  const exempt =
    way.certificates === 'everyone' || (sale.party === 'farm' && way.certificates === 'as-they-are')
  if (exempt) return lines.map(() => 0n)
  const region = REGIONS.find((r) => r.id === placeOf(way.ratesOf).region)
  const priceOf = (l: (typeof lines)[number]): bigint => (way.beforeDiscount ? l.full : l.amount)
  const isTaxed = (l: (typeof lines)[number]): boolean => CODES[way.code ?? l.line.code] === 'standard'
  const goods = lines.filter((l) => l.line.kind === 'goods')
  return lines.map((l) => {
    if (l.line.kind === 'goods') return isTaxed(l) ? priceOf(l) : 0n
    const rule =
      way.shipping === 'taxed' ? 'standard' : way.shipping === 'untaxed' ? 'exempt' : region?.shipping
    if (rule === 'follows' && goods.length > 0)
      return (
        spread(priceOf(l), [
          sum(goods.filter(isTaxed).map(priceOf)),
          sum(goods.filter((g) => !isTaxed(g)).map(priceOf)),
        ])[0] ?? 0n
      )
    return rule === 'exempt' ? 0n : priceOf(l)
  })
}

const HUNDRED = 100_000_000n
interface Based {
  readonly base: bigint
  readonly quantity: bigint
}

/** Tax on amounts before tax, component by component, at the place of rounding. */
function onTop(bases: readonly Based[], percents: readonly bigint[], { level, unit, tie }: Way): bigint[] {
  const whole = sum(percents)
  if (level === 'document') {
    const base = sum(bases.map((b) => b.base))
    return unit === 'component'
      ? percents.map((p) => rounded(base * p, HUNDRED, tie))
      : spread(
          rounded(base * whole, HUNDRED, tie),
          percents.map((p) => base * p),
        )
  }
  const rows = bases
    .filter((b) => b.base !== 0n)
    .map(({ base, quantity }) => {
      const of = (p: bigint): bigint =>
        level === 'line'
          ? rounded(base * p, HUNDRED, tie)
          : rounded(base * p, HUNDRED * quantity, tie) * quantity
      return unit === 'component'
        ? percents.map(of)
        : spread(
            of(whole),
            percents.map((p) => base * p),
          )
    })
  return percents.map((_, at) => sum(rows.map((row) => row[at] ?? 0n)))
}

/** What is inside amounts with tax, over the whole document. */
function within(bases: readonly bigint[], percents: readonly bigint[]): bigint[] {
  const gross = sum(bases)
  const net = rounded(gross * HUNDRED, HUNDRED + sum(percents), 'half-away')
  return spread(gross - net, percents)
}

function flatly(bases: readonly bigint[], lines: ReturnType<typeof kept>, way: Way): bigint {
  return (
    onTop(
      bases.map((base, at) => ({ base, quantity: lines[at]?.quantity ?? 1n })),
      [fraction(way.flat ?? '0')],
      { ...way, unit: 'combined' },
    )[0] ?? 0n
  )
}

/** The total converted once, and allocated to its lines. */
function inBase(credits: readonly bigint[], currency: string, atOne: boolean): bigint[] | null {
  if (currency === BASE) return null
  const { digits, rate } = CURRENCIES[currency] as { digits: number; rate: string }
  const [whole = '0', part = ''] = rate.split('.')
  const exact = atOne ? 10n ** 6n : BigInt(whole + part.padEnd(6, '0'))
  const total = sum(credits.map(size))
  const converted = rounded(total * exact * 100n, 10n ** BigInt(6 + digits), 'half-away')
  const negative = credits.every((c) => c <= 0n)
  return spread(converted, credits.map(size)).map((part_) => (negative ? -part_ : part_))
}

export function rounded(numerator: bigint, denominator: bigint, tie: Way['tie']): bigint {
  const negative = numerator < 0n
  const n = negative ? -numerator : numerator
  const floor = n / denominator
  const twice = 2n * (n % denominator)
  const up =
    tie === 'truncate'
      ? false
      : twice > denominator || (twice === denominator && (tie === 'half-away' || floor % 2n === 1n))
  const result = floor + (up ? 1n : 0n)
  return negative ? -result : result
}

function spread(whole: bigint, weights: readonly bigint[]): bigint[] {
  const total = sum(weights)
  if (total === 0n) return weights.map(() => 0n)
  const parts = weights.map((w, at) => ({ at, w, share: (whole * w) / total, rest: (whole * w) % total }))
  let left = whole - sum(parts.map((p) => p.share))
  for (const part of [...parts].sort((a, b) =>
    a.rest !== b.rest ? (a.rest > b.rest ? -1 : 1) : a.w !== b.w ? (a.w > b.w ? -1 : 1) : a.at - b.at,
  )) {
    if (left-- > 0n) part.share += 1n
  }
  return parts.map((p) => p.share)
}

const sum = (of: readonly bigint[]): bigint => of.reduce((total, one) => total + one, 0n)
const size = (n: bigint): bigint => (n < 0n ? -n : n)
/** A percent in millionths. */
function fraction(percent: string): bigint {
  const [whole = '0', part = ''] = percent.split('.')
  return BigInt(whole + part.padEnd(6, '0'))
}

export type { Component }
export { COMPONENTS }
