import type { drawing } from '../../../demo/src/shared/draw.ts'
import type { World } from '../world.ts'

/** What one act has to do it with. */
export interface Acting {
  readonly world: World
  readonly draw: Draw
}

export interface Draw {
  below(limit: number): number
  is(percent: number): boolean
  of<T>(some: readonly T[]): T
}

export function drawOf(drawn: ReturnType<typeof drawing>): Draw {
  return {
    below: (limit) => drawn(0, limit - 1),
    is: (percent) => drawn(0, 99) < percent,
    of: <T>(some: readonly T[]) => some[drawn(0, some.length - 1)] as T,
  }
}

/** Something that writes, with drawn arguments. @returns what was done, in a few words */
export type Act = (acting: Acting) => Promise<string>
