import { fault } from '../faults.ts'
import type { Ratio } from './decimal.ts'

/**
 * Splits a whole over weights by largest remainder (K2). The parts always add up to the whole.
 * Ties go to the larger weight, then to the earlier part. A negative whole is the mirror of its absolute value.
 * @param whole minor units
 * @param weights all of one sign; all negative counts as their absolute values
 * @throws AXION_ALLOCATION_WITHOUT_WEIGHT when every weight is nil and the whole is not
 * @throws AXION_ALLOCATION_OF_BOTH_SIGNS when weights have both signs: allocate sales and returns apart
 * @example allocate(220n, [167475n, 38062n, 15225n]) // [167n, 38n, 15n]
 */
export function allocate(whole: bigint, weights: readonly bigint[]): bigint[] {
  if (weights.some((w) => w > 0n) && weights.some((w) => w < 0n)) {
    throw fault('AXION_ALLOCATION_OF_BOTH_SIGNS', { whole: whole.toString() })
  }
  const sizes = weights.map((w) => (w < 0n ? -w : w))
  const total = sizes.reduce((sum, size) => sum + size, 0n)
  if (total === 0n) {
    if (whole !== 0n) throw fault('AXION_ALLOCATION_WITHOUT_WEIGHT', { whole: whole.toString() })
    return weights.map(() => 0n)
  }
  const parts = allocateUnits(whole < 0n ? -whole : whole, sizes, total)
  return whole < 0n ? parts.map((part) => -part) : parts
}

/** The same over exact ratios, brought to one denominator first. */
export function allocateByRatio(whole: bigint, weights: readonly Ratio[]): bigint[] {
  const common = weights.reduce(
    (product, w) => (product % w.denominator === 0n ? product : product * w.denominator),
    1n,
  )
  return allocate(
    whole,
    weights.map((w) => w.numerator * (common / w.denominator)),
  )
}

function allocateUnits(whole: bigint, sizes: readonly bigint[], total: bigint): bigint[] {
  const shares = sizes.map((size, index) => {
    const product = whole * size
    return { index, size, part: product / total, remainder: product % total }
  })
  const left = whole - shares.reduce((sum, share) => sum + share.part, 0n)
  const inOrder = [...shares].sort(
    (a, b) => descending(a.remainder, b.remainder) || descending(a.size, b.size) || a.index - b.index,
  )
  const raised = new Set(inOrder.slice(0, Number(left)).map((share) => share.index))
  return shares.map((share) => (raised.has(share.index) ? share.part + 1n : share.part))
}

function descending(a: bigint, b: bigint): number {
  return a > b ? -1 : a < b ? 1 : 0
}
