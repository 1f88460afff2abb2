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
  type Treatment,
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
  /** The place whose rate its lines name; null where they name none. */
  readonly names: string | null
}

/** How a system works a sale out. Each part can be wrong. */
export interface Way {
  readonly level: 'unit' | 'line' | 'document'
  readonly unit: 'component' | 'combined'
  readonly tie: 'half-away' | 'half-even' | 'truncate'
  readonly ratesOn: string
  readonly ratesOf: string
  readonly without: string | null
  /** Its amount is gone, and the rest as it stood. */
  readonly dropped: string | null
  readonly percents: ReadonlyMap<string, string>
  readonly accounts: ReadonlyMap<string, string>
  readonly oneAgency: string | null
  readonly flat: string | null
  readonly code: string | null
  readonly certificates: 'as-they-are' | 'ignored' | 'everyone'
  /** A certificate of the buyer's that counts. */
  readonly exempted: boolean
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
  /** What of the net is shipping. */
  readonly shipping: bigint
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
    dropped: null,
    percents: new Map(),
    accounts: new Map(),
    oneAgency: null,
    flat: null,
    code: null,
    certificates: 'as-they-are',
    exempted: sale.party === 'farm',
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
  const sign = (sale.kind === 'credit-note' ? -1n : 1n) * way.sign
  const gross = lines.map((l) => l.amount)
  const { bases, taxes: each } = way.inside ? inside(way, lines, percents) : outside(way, lines, percents)
  const flat = way.flat === null ? null : flatly(bases, each, lines, way)
  const rows =
    flat !== null
      ? [{ agency: null, account: null, jurisdiction: null, tax: flat * sign, base: null }]
      : components.map((c, at) => ({
          agency: way.oneAgency ?? c.agency,
          account: way.accounts.get(way.oneAgency ?? c.agency) ?? accountOf(way.oneAgency ?? c.agency),
          jurisdiction: c.jurisdiction,
          tax: sum(each[at] ?? []) * sign,
          base: sum(bases) * sign,
        }))
  const contained = (at: number): bigint =>
    way.inside ? (flat === null ? sum(each.map((of) => of[at] ?? 0n)) : 0n) : 0n
  const nets = gross.map((amount, at) => (amount - contained(at)) * sign)
  const net = sum(nets) - (way.inside && flat !== null ? flat * sign : 0n)
  const taxes = rows.filter((r) => r.tax !== 0n && (way.dropped === null || r.jurisdiction !== way.dropped))
  return {
    taxes: inBase(taxes, sale.currency, way.atOne),
    net,
    shipping: sum(nets.filter((_, at) => lines[at]?.line.kind === 'shipping')),
    currency: sale.currency,
    date: sale.date,
  }
}

interface Worked {
  /** Of each line, what tax stands on. */
  readonly bases: readonly bigint[]
  /** By component, of each line. */
  readonly taxes: readonly (readonly bigint[])[]
}

function outside(way: Way, lines: ReturnType<typeof kept>, percents: readonly bigint[]): Worked {
  const bases = basesOf(way, lines)
  const each = onTop(
    bases.map((base, at) => ({ base, quantity: lines[at]?.quantity ?? 1n })),
    percents,
    way,
  )
  // How a document's tax stands on its lines is asked of prices with tax inside alone.
  return { bases, taxes: each.map((tax) => [tax]) }
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

function basesOf(way: Way, lines: ReturnType<typeof kept>): bigint[] {
  if (way.certificates === 'everyone' || way.exempted) return lines.map(() => 0n)
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

/**
 * What is inside amounts with tax, over the whole document. Shipping that follows the goods is taxed for the share that taxed goods
 * have of the exact nets of all; every amount here is a fraction, its numerator over its denominator.
 */
function inside(way: Way, lines: ReturnType<typeof kept>, percents: readonly bigint[]): Worked {
  const rate = sum(percents)
  const treated = lines.map((l) => treatmentOf(way, l, lines))
  const priceOf = (l: (typeof lines)[number]): bigint => (way.beforeDiscount ? l.full : l.amount)
  const goods = (of: Treatment): bigint =>
    sum(lines.map((l, at) => (l.line.kind === 'goods' && treated[at] === of ? priceOf(l) : 0n)))
  // Exact nets: taxed goods T × H ÷ (H + P), untaxed ones as they are.
  const taxed = { over: goods('standard') * HUNDRED, under: HUNDRED + rate }
  const rest = { over: goods('exempt') * taxed.under, under: taxed.under }
  const all = taxed.over + rest.over
  const exact = lines.map((l, at) => {
    const price = priceOf(l)
    if (treated[at] === 'standard') return { price, over: price * HUNDRED, under: HUNDRED + rate }
    if (treated[at] !== 'follows' || taxed.over === 0n) return { price: 0n, over: 0n, under: 1n }
    // net + share × net × P ÷ H = price, with share = taxed ÷ all; what is taxed of it is share × net.
    const under = HUNDRED * all + taxed.over * rate
    return { price, over: price * HUNDRED * taxed.over, under, net: price * HUNDRED * all }
  })
  const common = exact.reduce((product, e) => (product % e.under === 0n ? product : product * e.under), 1n)
  const on = (e: (typeof exact)[number], over: bigint): bigint => over * (common / e.under)
  const net = rounded(sum(exact.map((e) => on(e, 'net' in e ? (e.net ?? 0n) : e.over))), common, 'half-away')
  const tax = sum(exact.map((e) => e.price)) - net
  const weights = exact.map((e) => on(e, e.over))
  const taxes = spread(tax, percents).map((part) => spread(part, weights))
  return {
    bases: exact.map((e, at) =>
      e.price === 0n
        ? 0n
        : treated[at] === 'standard' || rest.over === 0n
          ? e.price - sum(taxes.map((of) => of[at] ?? 0n))
          : rounded(e.over, e.under, 'half-away'),
    ),
    taxes,
  }
}

function treatmentOf(
  way: Way,
  { line }: ReturnType<typeof kept>[number],
  lines: ReturnType<typeof kept>,
): Treatment {
  if (way.certificates === 'everyone' || way.exempted) return 'exempt'
  if (line.kind === 'goods') return CODES[way.code ?? line.code] === 'standard' ? 'standard' : 'exempt'
  if (way.shipping !== 'as-ruled') return way.shipping === 'taxed' ? 'standard' : 'exempt'
  const rule = REGIONS.find((r) => r.id === placeOf(way.ratesOf).region)?.shipping ?? 'standard'
  return rule === 'follows' && lines.every((l) => l.line.kind !== 'goods') ? 'standard' : rule
}

/** On what is taxed, out of prices that have tax inside; never of a split. */
function flatly(
  bases: readonly bigint[],
  taxes: Worked['taxes'],
  lines: ReturnType<typeof kept>,
  way: Way,
): bigint {
  const flat = fraction(way.flat ?? '0')
  if (way.inside) {
    const gross = sum(bases) + sum(taxes.flat())
    return gross - rounded(gross * HUNDRED, HUNDRED + flat, 'half-away')
  }
  const [each] = onTop(
    bases.map((base, at) => ({ base, quantity: lines[at]?.quantity ?? 1n })),
    [flat],
    { ...way, unit: 'combined' },
  )
  return each ?? 0n
}

/** Each agency's tax converted and rounded by itself. */
function inBase(
  rows: readonly Omit<Outcome['taxes'][number], 'inBase'>[],
  currency: string,
  atOne: boolean,
): Outcome['taxes'] {
  if (currency === BASE) return rows.map((row) => ({ ...row, inBase: null }))
  const { digits, rate } = CURRENCIES[currency] as { digits: number; rate: string }
  const [whole = '0', part = ''] = rate.split('.')
  const exact = atOne ? 10n ** 6n : BigInt(whole + part.padEnd(6, '0'))
  const convert = (tax: bigint): bigint => rounded(tax * exact * 100n, 10n ** BigInt(6 + digits), 'half-away')
  const lineOf = (row: (typeof rows)[number]): string => `${row.agency}|${row.account}`
  return rows.map((row, at) => {
    const together = rows.filter((other) => lineOf(other) === lineOf(row))
    const first = rows.findIndex((other) => lineOf(other) === lineOf(row)) === at
    return { ...row, inBase: first ? convert(sum(together.map((r) => r.tax))) : 0n }
  })
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
/** A percent in millionths. */
function fraction(percent: string): bigint {
  const [whole = '0', part = ''] = percent.split('.')
  return BigInt(whole + part.padEnd(6, '0'))
}

export type { Component }
export { COMPONENTS }
