import { saying, type Code } from '@axion/contract'
import { Fault, type Facts } from '@axion/core'
import { Problem } from '../faults/problem.ts'

/** Ends a run because somebody asked for it. */
export class Cancelled extends Error {}

/** Ends a slice, and not its run: others wait, and it goes on when it is its turn again. */
export class TurnOver extends Error {}

/** What an error that ends a run is called; what nobody foresaw goes into the log. */
export function reasonOf(error: unknown): { readonly code: Code; readonly facts: Facts } {
  if (error instanceof Problem || error instanceof Fault) return { code: error.code, facts: error.facts }
  process.stderr.write(`axion: a run failed: ${(error as Error).stack ?? String(error)}\n`)
  const { message, code } = error as Error & { code?: unknown }
  // The database's own words come after the statement.
  const words = code === undefined ? message : (message.split(' - ').at(-1) ?? '')
  return saying('AXION_RUN_FAILED', { detail: words.slice(0, MOST) })
}

const MOST = 300
