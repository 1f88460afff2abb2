import { availableParallelism } from 'node:os'
import { serialize } from 'node:v8'
import { Fault } from '@axion/core'
import type { Piscina } from 'piscina'
import type { DepartingRows } from '../setUp/departing.ts'
import { begin, fileOf } from '../threads/threads.ts'
import type { Behind } from './gather.ts'
import type { SetUp } from './grounds.ts'
import type { Carried, Job, Outcome } from './thread.ts'
import type { Worked } from './workOut.ts'

/** Of each thread's heap. */
const MEGABYTES = 512

/** One processor is left to whoever reads, weighs and writes, and to the database. */
export const THREADS = Math.max(availableParallelism() - 1, 1)

/** Begun when there is work for them, and ended when there has been none for a while: one pool for all proofs of this process. */
let threads: Piscina | null = null

function begun(): Piscina {
  threads ??= begin({
    file: fileOf('proof'),
    most: THREADS,
    megabytes: MEGABYTES,
    does: 'works documents out',
  })
  return threads
}

let carried = 0

/**
 * Works documents out on threads of their own, by a set-up that all of them share.
 * @throws whatever working them out does
 */
export function inThreads(
  setUp: SetUp,
  departing: DepartingRows,
  period: string,
): (behind: Behind) => Promise<Worked> {
  const carry: Carried = {
    entityId: setUp.entityId,
    currency: setUp.currency,
    baseline: setUp.index.baseline,
    // Where a system is, and how it is entered, concerns no thread.
    systems: setUp.systems.map(({ row, rows }) => ({
      row: { ...row, address: '', token_sealed: Buffer.alloc(0) },
      rows,
    })),
    departing,
  }
  const bytes = serialize(carry)
  const shared = new Uint8Array(new SharedArrayBuffer(bytes.length))
  shared.set(bytes)
  const number = ++carried
  return async (behind) => {
    const outcome = (await begun().run({ number, carried: shared, period, behind } satisfies Job, {
      name: 'work',
    })) as Outcome
    if ('fault' in outcome) throw new Fault(outcome.fault.code, outcome.fault.facts)
    return outcome
  }
}
