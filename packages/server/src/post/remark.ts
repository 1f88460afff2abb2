import type { Code } from '@axion/contract'
import type { Facts } from '@axion/core'

/** What is said of a booking before it is sent; it is kept beside it. */
export interface Remark {
  readonly code: Code
  readonly facts: Facts
  /** Nothing is sent while it holds. */
  readonly blocks: boolean
}
