import { finding, type Finding } from '../faults.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, type MinorUnits } from '../money/currency.ts'
import { add, divide, ratio, subtract, type Ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { isTaxed, type Reason } from './determination.ts'
import type { TaxDocument } from './document.ts'
import { exactNetOf } from './inclusive.ts'
import type { Levy } from './levies.ts'
import type { PricedLine } from './prices.ts'
import { taxedPart, WHOLE } from './slice.ts'

export interface LeviedLine extends PricedLine {
  readonly levies: readonly Levy[]
}

/** A levy on a part of a line: all of it, or what K2 gives a followed shipping of it. */
export interface Part extends Levy {
  /** Of the line's taxable price; null where the slice decides (prices with tax inside). */
  readonly taxable: MinorUnits | null
}

export interface PartedLine extends PricedLine {
  readonly parts: readonly Part[]
}

/**
 * Splits shipping that follows the goods, jurisdiction by jurisdiction, over their taxed bases per percent and their untaxed
 * rest (K3, step 7). Without goods it is taxable at the standard percent, with a remark.
 */
export function withFollowedShipping(
  document: TaxDocument,
  lines: readonly LeviedLine[],
  { inclusive, undecided }: { readonly inclusive: boolean; readonly undecided: readonly string[] },
): { lines: PartedLine[]; findings: Finding[]; open: string[] } {
  const findings: Finding[] = []
  const open: string[] = []
  const parted = lines.map((line): PartedLine => {
    const parts = line.levies.flatMap((levy): Part[] => {
      if (!levy.followsGoods) return [partOf(levy, line.taxable)]
      const goods = goodsBeside(line, lines)
      if (goods.some((other) => undecided.includes(other.line.id))) {
        if (!open.includes(line.line.id)) open.push(line.line.id)
        return []
      }
      if (goods.every(({ taxable }) => taxable === 0n)) {
        findings.push(
          finding('AXION_SHIPPING_WITHOUT_GOODS', { document: document.number, line: line.line.id }),
        )
        return [partOf(levy, line.taxable)]
      }
      return inclusive ? exactParts(levy, goods) : wholeParts(levy, line.taxable, goods)
    })
    return {
      line: line.line,
      amount: line.amount,
      taxable: line.taxable,
      discount: line.discount,
      parts: open.includes(line.line.id) ? [] : parts,
    }
  })
  const waiting = open.map((line): Finding =>
    finding('AXION_SHIPPING_FOLLOWS_OPEN_GOODS', { document: document.number, line }),
  )
  return { lines: parted, findings: [...findings.slice(0, 1), ...waiting], open }
}

/** One literal: spread, it took as long as all else that is done of it. */
function partOf(levy: Levy, taxable: MinorUnits): Part {
  return {
    jurisdictionId: levy.jurisdictionId,
    agencyId: levy.agencyId,
    percent: levy.percent,
    perUnit: levy.perUnit,
    onTopOf: levy.onTopOf,
    slice: levy.slice,
    reason: levy.reason,
    waived: levy.waived,
    followsGoods: levy.followsGoods,
    source: levy.source,
    taxable,
  }
}

/** Goods that go the shipping's way: returned lines are none, and a service is not shipped. */
function goodsBeside({ taxable }: LeviedLine, lines: readonly LeviedLine[]): LeviedLine[] {
  return lines.filter(
    ({ line, taxable: price }) => line.kind === 'goods' && price !== 0n && price < 0n === taxable < 0n,
  )
}

interface Share {
  readonly levy: Levy
  readonly base: Ratio
}

/** What a jurisdiction's levies tax of the goods, per percent; goods taxed per unit count as untaxed. */
function sharesOf(
  levy: Levy,
  goods: readonly LeviedLine[],
  priceOf: (line: LeviedLine) => Ratio,
): { taxed: Share[]; rest: Ratio; restReason: Reason } {
  const taxed = new Map<string, Share>()
  let all = ratio(0n)
  let restReason: Reason | null = null
  for (const line of goods) {
    const price = priceOf(line)
    all = add(all, price)
    const own = line.levies.find((l) => l.jurisdictionId === levy.jurisdictionId)
    if (own && isTaxed(own) && own.perUnit === null) {
      const base = taxedPart(own.slice, price, line.line.quantity)
      const before = taxed.get(String(own.percent))
      taxed.set(String(own.percent), { levy: own, base: before ? add(before.base, base) : base })
    } else if (own && !isTaxed(own)) restReason ??= own.reason
  }
  const base = [...taxed.values()].reduce((sum, share) => add(sum, share.base), ratio(0n))
  return { taxed: [...taxed.values()], rest: subtract(all, base), restReason: restReason ?? 'exempt' }
}

function followed(levy: Levy, share: Share): Levy {
  return {
    ...levy,
    percent: share.levy.percent,
    reason: share.levy.reason,
    onTopOf: share.levy.onTopOf,
    waived: share.levy.waived,
    source: { ...share.levy.source, codeRule: levy.source.codeRule },
    followsGoods: false,
  }
}

function untaxed(levy: Levy, reason: Reason): Levy {
  return {
    ...levy,
    percent: 0n,
    onTopOf: [],
    reason,
    waived: null,
    followsGoods: false,
    source: { ...levy.source, rateVersion: null, certificate: null, registration: null },
  }
}

function wholeParts(levy: Levy, taxable: MinorUnits, goods: readonly LeviedLine[]): Part[] {
  const { taxed, rest, restReason } = sharesOf(levy, goods, (line) => ratio(line.taxable))
  const weights = [...taxed.map((share) => absolute(round(share.base))), absolute(round(rest))]
  const parts = allocate(taxable, weights)
  return [...taxed.map((share) => followed(levy, share)), untaxed(levy, restReason)]
    .map((of, at) => ({ ...of, slice: WHOLE, taxable: parts[at] ?? 0n }))
    .filter((part) => part.taxable !== 0n || taxable === 0n)
}

/** Inside prices that include tax the shares are exact, not whole units. */
function exactParts(levy: Levy, goods: readonly LeviedLine[]): Part[] {
  const { taxed, rest, restReason } = sharesOf(levy, goods, exactNetOf)
  const all = taxed.reduce((sum, share) => add(sum, share.base), rest)
  const parts = taxed.map((share): Part => ({
    ...followed(levy, share),
    slice: { ...WHOLE, share: divide(share.base, all) },
    taxable: null,
  }))
  return rest.numerator === 0n
    ? parts
    : [
        ...parts,
        { ...untaxed(levy, restReason), slice: { ...WHOLE, share: divide(rest, all) }, taxable: null },
      ]
}
