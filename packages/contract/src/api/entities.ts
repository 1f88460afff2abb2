import { z } from 'zod'
import { currency, locale, timeZone } from '../bridge/primitives.ts'

/** Legal entities as they are founded, changed and closed, and the first person of an installation. */

const entityName = z.string().trim().min(1).max(200)
/** The month, from 1 to 12, in which the financial year begins; null where nobody said so. */
const yearBegins = z.int().min(1).max(12).nullable()

export const Founding = z.object({
  id: z.string().regex(/^[a-z0-9][a-z0-9-]{0,59}$/),
  name: entityName,
  country: z.string().regex(/^[A-Z]{2}$/),
  currency,
  timeZone,
  locale,
  yearBegins: yearBegins.default(null),
})
export type Founding = z.infer<typeof Founding>

/** What may be changed of an entity later: what its books are reckoned by stays as it was founded. */
export const EntityChange = z.strictObject({ name: entityName, locale, yearBegins })
export type EntityChange = z.infer<typeof EntityChange>

export const EntityView = z.object({
  id: z.string(),
  name: z.string(),
  country: z.string(),
  currency: z.string(),
  timeZone: z.string(),
  locale: z.string(),
  yearBegins: z.number().nullable(),
  /** Since when it is read, and written no more; null where it is open. */
  closedOn: z.string().nullable(),
})
export type EntityView = z.infer<typeof EntityView>

/** Whether nobody runs this installation yet. */
export const FirstView = z.object({ nobody: z.boolean() })
export type FirstView = z.infer<typeof FirstView>
