import { z } from 'zod'
import { SourceDocument } from './documents.ts'
import { address, exchangeRate, id } from './primitives.ts'

const { number, kind, documentDate, currency, taxes } = SourceDocument.shape

/** What a tax service keeps of a document that it was told of, for the system that it computed the tax of it for. */
export const Committed = z.object({
  number: number.meta({ description: 'The document’s own number, as its system has it' }),
  kind,
  documentId: id
    .nullable()
    .meta({ description: 'The document’s own id in its system; null where nobody told it' }),
  status: z.enum(['committed', 'cancelled']),
  documentDate,
  currency,
  exchangeRate: exchangeRate.nullable(),
  taxes,
  webAddress: address.nullable(),
})
export type Committed = z.infer<typeof Committed>
