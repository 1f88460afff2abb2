import { halfUp, spread } from '../shared/exact.ts'
import { percentOn, type Levy, type Place, type Rounding } from './land.ts'

export interface Goods {
  readonly id: string
  readonly code: string
  readonly kind: 'goods' | 'service' | 'shipping'
  readonly quantity: number
  /** Minor units before tax. */
  readonly amount: bigint
}

/** What is charged on a line: the levies that tax it, each at its percent in millionths, and by which of the systems' rates. */
export interface Charge {
  readonly line: Goods
  readonly base: bigint
  readonly parts: readonly { readonly levy: Levy; readonly percent: bigint }[]
  /** Null where nothing is charged. */
  readonly rate: string | null
}

const HUNDRED = 100n * 1_000_000n

/** The key of a rate: what it is made of, and the code that it is for. */
export function rateKey(levies: readonly Levy[], code: string | null): string {
  return `${levies.map(({ id }) => id).join('+')}${code === null ? '' : `/${code}`}`
}

/** How the lines of a sale are rightly charged at a place. */
export function rightly(lines: readonly Goods[], place: Place, day: string): Charge[] {
  const goods = lines.filter(({ kind }) => kind !== 'shipping').map((line) => chargeOf(line, place, day))
  return lines.map((line) => {
    const own = goods.find((charge) => charge.line === line)
    if (own) return own
    const rule = place.region.rules[line.code]
    // Shipping that follows goods goes with goods that are all alike.
    if (rule?.is === 'follows-goods') {
      const [first] = goods
      return first
        ? { ...first, line, base: first.rate === null ? 0n : line.amount }
        : chargeOf(line, place, day)
    }
    return chargeOf(line, place, day)
  })
}

function chargeOf(line: Goods, place: Place, day: string): Charge {
  const nothing: Charge = { line, base: 0n, parts: [], rate: null }
  const rule = place.region.rules[line.code] ?? { is: 'standard' }
  const { levies } = place
  if (levies.length === 0 || rule.is === 'exempt') return nothing
  if (rule.is === 'threshold' && line.amount < rule.limit * BigInt(line.quantity)) return nothing
  if (rule.is === 'reduced') {
    const [own, ...locals] = levies
    const taxed = rule.locals === 'none' ? [own as Levy] : levies
    return {
      line,
      base: line.amount,
      parts: taxed.map((levy) => ({ levy, percent: percentOn(levy === own ? rule : levy, day) })),
      rate: rateKey(rule.locals === 'none' ? [own as Levy] : [own as Levy, ...locals], line.code),
    }
  }
  return {
    line,
    base: line.amount,
    parts: levies.map((levy) => ({ levy, percent: percentOn(levy, day) })),
    rate: rateKey(levies, null),
  }
}

/** The tax of each charge's parts, rounded where the region rounds. */
export function taxesOf(charges: readonly Charge[], rounding: Rounding): bigint[][] {
  const [level, unit] = rounding.split(' ')
  const exact = charges.map(({ base, parts }) => parts.map(({ percent }) => base * percent))
  const out = exact.map((parts) => parts.map(() => 0n))
  const set = ([c, p]: readonly [number, number], tax: bigint): void => {
    const row = out[c]
    if (row) row[p] = tax
  }
  // A group's tax goes over its levies, and each levy's over its lines.
  const settle = (cells: readonly (readonly [number, number])[]): void => {
    const weigh = (of: readonly (readonly [number, number])[]): bigint =>
      of.reduce((sum, [c, p]) => sum + (exact[c]?.[p] ?? 0n), 0n)
    const levies = new Map<string, (readonly [number, number])[]>()
    for (const cell of cells) {
      const id = charges[cell[0]]?.parts[cell[1]]?.levy.id ?? ''
      levies.set(id, [...(levies.get(id) ?? []), cell])
    }
    const own = [...levies.values()]
    spread(halfUp(weigh(cells), HUNDRED), own.map(weigh)).forEach((whole, at) => {
      const of = own[at] ?? []
      spread(
        whole,
        of.map((cell) => weigh([cell])),
      ).forEach((tax, line) => set(of[line] ?? [0, 0], tax))
    })
  }
  const groups = new Map<string, (readonly [number, number])[]>()
  charges.forEach((charge, c) =>
    charge.parts.forEach(({ levy, percent }, p) => {
      const own = `${levy.id} ${percent}`
      const whole = charge.parts.map((part) => `${part.levy.id} ${part.percent}`).join('+')
      const key = `${level === 'line' ? c : ''}|${unit === 'component' ? own : whole}`
      groups.set(key, [...(groups.get(key) ?? []), [c, p]])
    }),
  )
  for (const cells of groups.values()) settle(cells)
  return out
}
