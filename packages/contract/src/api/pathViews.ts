import { z } from 'zod'
import { FindingKind } from './align.ts'
import { Limits, PulledView } from './connectViews.ts'

/** The run that proves anew what an act may have changed; null where that is done with the act. */
export const ProvedBy = z.string().nullable()

export const RunView = z.object({
  id: z.string(),
  kind: z.string(),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  step: z.string(),
  total: z.number(),
  done: z.number(),
  failed: z.number(),
  startedBy: z.string(),
  problem: z
    .object({
      says: z.string(),
      mend: z.string(),
    })
    .nullable(),
  /** Of a run over many things: what could not be done of it. */
  problems: z
    .array(
      z.object({
        what: z.string(),
        says: z.string(),
        mend: z.string(),
      }),
    )
    .readonly(),
  pulled: z.array(PulledView).readonly(),
})
export type RunView = z.infer<typeof RunView>

/** The path of a month, its runs, and months and entities side by side. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */
export const PathView = z.object({
  currency: z.string(),
  /** From when on documents are for the books, whether the month lies before, and how many accounts are not taken over yet; null where nobody said. */
  opening: z.object({ day: z.string(), before: z.boolean(), due: z.int() }).nullable(),
  connect: z.object({
    ready: z.number(),
    systems: z.number(),
    /** Whether everything was pulled, and the month has documents for the books. */
    pulled: z.boolean(),
    /** Whether everything that charges tax or books it was read whole, and it has none. */
    empty: z.boolean(),
    failing: z.number(),
    /** Systems whose last reading failed: what is shown of them is from before. */
    stale: z.number(),
    /** Of the systems that charge tax or book it. */
    limits: Limits,
  }),
  align: z.object({
    findings: z.number(),
    byKind: z.record(FindingKind, z.number()),
    stake: z.string(),
  }),
  post: z.object({
    waiting: z.number(),
    failed: z.number(),
    tax: z.string(),
    /** Documents of kinds that are not posted so far: no part of what is posted, nor of what is proved. */
    notYet: z.number(),
  }),
  tieout: z.object({
    unproved: z.string(),
    unprovedNet: z.string(),
    documents: z.number(),
    /** Documents whose difference is kept, or given back: no part of what is not proved, nor proved. */
    apart: z.number(),
  }),
  run: RunView.nullable(),
})
export type PathView = z.infer<typeof PathView>

/** The months of an entity, newest first: nothing of it pulled, open, or proved whole. */
export const MonthsView = z.object({
  currency: z.string(),
  /** The month before the one that runs today: the one that is worked at by habit. */
  before: z.string(),
  months: z
    .array(
      z.object({
        month: z.string(),
        state: z.enum(['nothing', 'open', 'proved']),
        unproved: z.string(),
        documents: z.number(),
        /** How many documents and entries are kept or given back: neither proved nor open. */
        apart: z.number(),
        /** Documents of kinds that are not posted so far. */
        notYet: z.number(),
        /** Whether it is proved as systems have it: something that tax is expected by was read in no agency’s own text. */
        resting: z.boolean(),
      }),
    )
    .readonly(),
})
export type MonthsView = z.infer<typeof MonthsView>

/** One row a legal entity that the person belongs to: what waits at each stage of a month. */
export const PracticeView = z.object({
  month: z.string(),
  /** Every month of any of the legal entities, newest first, with how many of them are in which state. */
  months: z
    .array(
      z.object({
        month: z.string(),
        nothing: z.number(),
        open: z.number(),
        proved: z.number(),
        /** Of those proved: as systems have it. */
        resting: z.number(),
      }),
    )
    .readonly(),
  /** What is not proved comes first, and of that what waits most. */
  entities: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        role: z.string(),
        month: z.string(),
        path: PathView,
        /** The month before this one, and what is not proved in it. */
        before: MonthsView.shape.months.unwrap().element,
        causes: z.number(),
        findings: z.number(),
      }),
    )
    .readonly(),
  /** Legal entities of which nothing is known just now: the database in which their books are does not answer, or they are being moved. */
  away: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        role: z.string(),
        problem: z.object({ code: z.string(), says: z.string(), mend: z.string() }),
      }),
    )
    .readonly(),
  /** Those that are closed: they are read, and nothing waits in them. */
  closed: z.array(z.object({ id: z.string(), name: z.string(), on: z.string() })).readonly(),
})
export type PracticeView = z.infer<typeof PracticeView>
