import type { PageRead } from '../reading/thread.ts'

/** How a write to a bridge ended. `unknown`: the connection was lost, and it may or may not have been committed. */
export type WriteOutcome =
  | { readonly kind: 'done'; readonly body: unknown; readonly revision: string }
  | { readonly kind: 'refused'; readonly status: number; readonly code: string; readonly detail: string }
  | { readonly kind: 'later'; readonly afterSeconds: number; readonly detail: string }
  | { readonly kind: 'unknown'; readonly detail: string }

/** Where a page begins, and how much of it is wanted: of one object alone, or of all. */
export interface PageAsked {
  readonly after: string
  readonly limit?: number
  readonly only?: string | null
}
export type PageOfRows = Exclude<PageRead, { readonly problem: string }>
