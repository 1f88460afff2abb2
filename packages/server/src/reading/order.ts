import type { Page } from '@axion/contract'
import type { z } from 'zod'

/** What is wrong with the order of a page's changes: more than were asked for, one that goes back, or promises that lead nowhere. */
export function disorderOf(
  { items, next, more }: z.infer<typeof Page>,
  after: bigint,
  limit: number,
): string | null {
  if (items.length > limit) return `${items.length} changes came where ${limit} were asked for`
  let last = after
  for (const { id, sequence } of items) {
    if (BigInt(sequence) <= last) return `${id} stands at ${sequence}, which is not past ${last}`
    last = BigInt(sequence)
  }
  if (BigInt(next) < last) return `next goes back, to ${next} from ${last}`
  return more && BigInt(next) <= after ? 'more pages are promised past a sequence that does not move' : null
}
