import { z } from 'zod'
import { boundedText, id, sequence } from './primitives.ts'

/** Lines of one document or entry, and changes of one page, at the most. */
export const MOST_LINES = 5000

export const MOST_OF_A_PAGE = 1000

export const Problem = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string().optional(),
  code: z.string().optional(),
})
export type Problem = z.infer<typeof Problem>

/** A change in a resource: its new value, or a tombstone. The value is read one by one, so that a bad one spoils no other. */
export const Change = z.object({
  id,
  sequence,
  revision: boundedText(200),
  removed: z.boolean(),
  value: z.unknown(),
})
export type Change = z.infer<typeof Change>

export const Page = z.object({
  items: z.array(Change).max(MOST_OF_A_PAGE),
  next: sequence,
  more: z.boolean(),
})
