import { z } from 'zod'

/** Shapes that several answers have alike. Amounts are decimal strings in the answer's currency. */

/** An object by its id, and what people call it. */
export const Named = z.object({ id: z.string(), name: z.string() })

/** A field that came to be another. */
export const FieldChange = z.object({ field: z.string(), from: z.string(), to: z.string() })

/** Documents, with the tax that they state. */
export const TaxedDocuments = z.object({ documents: z.number(), tax: z.string() })

/** An account's side of a journal; null where it has nothing there. */
export const JournalSides = z.object({
  account: z.string(),
  debit: z.string().nullable(),
  credit: z.string().nullable(),
})

/** Too much and too little, never netted. */
export const OverUnder = z.object({ over: z.string(), under: z.string() })
