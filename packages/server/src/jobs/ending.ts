import type { Code } from '@axion/contract'
import { Fault, type Facts } from '@axion/core'
import { Problem } from '../faults/problem.ts'

/** Ends a run because somebody asked for it. */
export class Cancelled extends Error {}

/** SQLSTATE classes of what passes: a lost connection, a conflict with another transaction, too few resources, a server that stops. */
const PASSING_STATES = ['08', '40', '53', '55', '57', '58']
const PASSING_CODES = ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EAI_AGAIN']

/** Whether an error is of the surroundings, so that the same work can go well later: what is not would fail for ever. */
export function passes(error: unknown): boolean {
  const { code = '', name = '', message = '' } = error as { code?: string; name?: string; message?: string }
  return (
    PASSING_CODES.includes(code) ||
    (/^[0-9A-Z]{5}$/.test(code) && PASSING_STATES.includes(code.slice(0, 2))) ||
    name === 'KnexTimeoutError' ||
    /^Connection terminated|^Client has encountered a connection error/.test(message)
  )
}

/** What an error that ends a run is called; what nobody foresaw goes into the log. */
export function reasonOf(error: unknown): { readonly code: Code; readonly facts: Facts } {
  if (error instanceof Problem || error instanceof Fault) return { code: error.code, facts: error.facts }
  process.stderr.write(`axion: a run failed: ${(error as Error).stack ?? String(error)}\n`)
  // The database's own words come after the statement.
  const words = (error as Error).message.split(' - ').at(-1) ?? ''
  return { code: 'AXION_RUN_FAILED', facts: { detail: words.slice(0, MOST) } }
}

const MOST = 300
