import { Problem as ProblemDetails } from '@axion/contract'
import type { z } from 'zod'

import type { Body } from './body.ts'

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
