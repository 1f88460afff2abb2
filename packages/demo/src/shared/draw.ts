import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'

/** Whole numbers from a seed; both ends are drawn. */
export type Draw = (from: number, to: number) => number

export function drawing(seed: number): Draw {
  const generator = xoroshiro128plus(seed)
  return (from, to) => uniformInt(generator, from, to)
}
