import { Problem as ProblemDetails, type Page } from '@axion/contract'
import { z } from 'zod'

import type { Body } from './body.ts'

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

export function isTimeout(error: unknown): boolean {
  return (error as Error).name === 'TimeoutError'
}

/** The code of what a connection ended with, where there is one. */
export function whyLost(error: unknown): { readonly why?: string } {
  const { code, cause } = error as { readonly code?: unknown; readonly cause?: { readonly code?: unknown } }
  const why = cause?.code ?? code
  return typeof why === 'string' ? { why } : {}
}

export function problemOf(body: Body): z.infer<typeof ProblemDetails> | null {
  const read = ProblemDetails.safeParse(body.kind === 'json' ? body.value : null)
  return read.success ? read.data : null
}

export function retryAfter(answer: Response): number {
  const seconds = Number(answer.headers.get('retry-after') ?? '2')
  return Number.isFinite(seconds) ? Math.min(Math.max(seconds, 1), 300) : 2
}
