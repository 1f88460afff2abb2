import { z } from 'zod'

/** A refusal (RFC 9457): what happened, and how to mend it. */
export const ProblemView = z.object({
  type: z.string(),
  title: z.string().meta({ description: 'What happened' }),
  status: z.number(),
  code: z.string(),
  detail: z.string().meta({ description: 'How to mend it' }),
  facts: z.record(z.string(), z.unknown()),
})

/** Whether server, database and worker are well. */
export const HealthView = z.object({
  status: z.enum(['ok', 'failing']),
  database: z.boolean(),
  worker: z.boolean(),
  eventLoopDelayMs: z
    .number()
    .nullable()
    .meta({ description: 'Null where it lags so far that nobody can say' }),
  heapMegabytes: z.number(),
  heapLimitMegabytes: z.number(),
  residentMegabytes: z.number(),
  underPressure: z.boolean(),
  databases: z
    .array(z.object({ name: z.string(), answers: z.boolean() }))
    .readonly()
    .meta({ description: 'Those beside the directory: the others work while one does not answer' }),
})

/** What an act answers that goes on as a run. */
export const Started = z.object({ run: z.string() })
/** The same, of documents. */
export const Begun = z.object({ run: z.string(), documents: z.number() })
export type Begun = z.infer<typeof Begun>
/** How many documents an act concerned. */
export const Concerned = z.object({ documents: z.number() })
/** A file: CSV, a workbook, or what was brought. */
export const SentFile = z.unknown().meta({ description: 'A file' })
