import { deserialize } from 'node:v8'
import { Fault, indexBaseline, type Baseline } from '@axion/core'
import type { DepartingRows } from '../setUp/departing.ts'
import { holdingOf, type HoldingRows, type SystemRow } from '../setUp/held.ts'
import type { Behind } from './gather.ts'
import { setUpOf } from './grounds.ts'
import { answeringOf } from './restsOn.ts'
import { kitOf, workOut, type Kit, type Worked } from './workOut.ts'

/** What a thread does of a proof: it works documents out by a set-up that is carried to it once. It reads and writes nothing else. */

/** A set-up as it is carried. */
export interface Carried {
  readonly entityId: string
  readonly currency: string
  readonly baseline: Baseline
  readonly systems: readonly { readonly row: SystemRow; readonly rows: HoldingRows }[]
  readonly departing: DepartingRows
}

export interface Job {
  /** Of the set-up: what has the same is the same. */
  readonly number: number
  /** In the form of v8's own serialization, shared by all threads. */
  readonly carried: Uint8Array
  readonly period: string
  readonly behind: Behind
}

export type Outcome = Worked | { readonly fault: Pick<Fault, 'code' | 'facts'> }

/** Of the last set-up: a proof has one, and jobs of two seldom meet. */
let last: { readonly number: number; readonly kit: Kit } | null = null

export async function work({ number, carried, period, behind }: Job): Promise<Outcome> {
  if (last?.number !== number) last = { number, kit: unpacked(carried, period) }
  try {
    return await workOut(last.kit, behind)
  } catch (error) {
    // Only what an error says of itself goes from thread to thread.
    if (error instanceof Fault) return { fault: { code: error.code, facts: error.facts } }
    throw error
  }
}

function unpacked(carried: Uint8Array, period: string): Kit {
  const { entityId, currency, baseline, systems, departing } = deserialize(carried) as Carried
  const setUp = setUpOf(
    { entityId, currency },
    indexBaseline(baseline),
    systems.map(({ row, rows }) => ({ row, ...holdingOf(rows) })),
  )
  return kitOf(setUp, answeringOf(setUp, departing), period)
}
