import { DECIDED, STANDINGS } from '@axion/core'
import { z } from 'zod'
import { amount, currency, date, lastDate } from '../bridge/primitives.ts'
import { AttachedFile, ENDS } from './certificates.ts'

const Documents = z.object({
  documents: z.int(),
  /** The tax that their systems stated, in the books' currency. */
  tax: amount,
})

/** One line of a draft: what the systems say, and what speaks for it and against it. */
export const DecisionRow = z.object({
  key: z.string(),
  about: z.enum(DECIDED),
  name: z.string(),
  called: z.array(z.string()),
  standing: z.enum(STANDINGS),
  /** Why somebody has to say, in words. */
  doubts: z.array(z.string()),
  options: z.array(
    z.object({
      key: z.string(),
      says: z.string(),
      /** The systems that say so, by name. */
      systems: z.array(z.string()),
    }),
  ),
  /** What has to be answered before it can be taken, by name. */
  waitsFor: z.array(z.string()),
  rests: Documents,
  against: Documents.extend({
    /** The first of them. */
    named: z.array(z.object({ unit: z.string(), number: z.string() })),
  }),
})
export type DecisionRow = z.infer<typeof DecisionRow>

/** Agencies of the baseline without a registration, and claimants in it without a certificate. */
const Asked = z.object({
  registrations: z.array(
    z.object({
      agency: z.string(),
      name: z.string(),
      /** Tax that sources charged for it in the month, in the base currency. */
      charged: amount,
    }),
  ),
  certificates: z.array(
    z.object({
      party: z.string(),
      name: z.string(),
      reason: z.string(),
      /** How many of the documents that were looked at are its own, and where they went. */
      documents: z.int(),
      regions: z.array(z.string()),
    }),
  ),
  /** What a certificate may be for. */
  regions: z.array(z.object({ id: z.string(), name: z.string() })),
  /** What will be asked as well, once what is drafted of it is taken. */
  later: z.object({ registrations: z.int(), certificates: z.int() }),
})

export const DecisionsView = z.object({
  currency,
  /** What the decisions stand at: whoever takes them says which they saw. */
  revision: z.string(),
  /** How many documents were looked at, of how many there are. */
  documents: z.int(),
  of: z.int(),
  /** Purchases, of which nothing is drafted. */
  bought: z.int(),
  explained: z.object({
    /** By the baseline as it stands, and by it with all that is drafted. */
    now: z.int(),
    drafted: z.int(),
  }),
  /** Documents that the whole draft leaves unexplained: the first of them. */
  unexplained: z.array(z.object({ unit: z.string(), number: z.string() })),
  /** What no system can tell, and is asked plainly. */
  asked: Asked,
  decisions: z.array(DecisionRow),
})
export type DecisionsView = z.infer<typeof DecisionsView>

export const DecisionsTaken = z.strictObject({
  revision: z.string().max(100),
  take: z
    .array(z.strictObject({ key: z.string().max(200), option: z.string().max(400) }))
    .min(1)
    .max(50_000),
})
export type DecisionsTaken = z.infer<typeof DecisionsTaken>

/** What a person knows and no system: kept together, or not at all. */
export const AskedAnswers = z
  .strictObject({
    registrations: z
      .array(
        z.strictObject({
          agency: z.string().min(1).max(60),
          number: z.string().trim().min(1).max(60),
          from: date,
        }),
      )
      .max(5_000)
      .default([]),
    certificates: z
      .array(
        z
          .strictObject({
            party: z.string().min(1).max(60),
            number: z.string().trim().min(1).max(100),
            regions: z.array(z.string().min(1).max(60)).min(1).max(200),
            from: date,
            to: lastDate.nullable(),
          })
          .refine(...ENDS),
      )
      .max(5_000)
      .default([]),
  })
  .refine(({ registrations, certificates }) => registrations.length + certificates.length > 0, {
    error: 'answers nothing',
  })
export type AskedAnswers = z.infer<typeof AskedAnswers>

/** The expected tax of a month that rests on what was drafted out of systems and read by nobody in an agency's own text. */
export const Resting = z.object({
  tax: amount,
  /** Of that, what rests on the word of one system: it is explained by what that system says itself. */
  alone: amount,
  /** How many rates and rules that are. */
  things: z.int(),
})
export type Resting = z.infer<typeof Resting>

/** What of a month's proof rests on what nobody checked. */
export const MonthResting = Resting.extend({
  /** Whether documents may stand on the word of their own source: drafted from it alone, or taxed by its flags. They are a list of their own. */
  ownWord: z.boolean(),
})
export type MonthResting = z.infer<typeof MonthResting>

/** Rates and rules that were drafted, by whose text would say them; on whose word each stands. */
export const SeenView = z.object({
  currency,
  resting: Resting.nullable(),
  groups: z.array(
    z.object({
      /** An agency, or a place in which none collects. */
      id: z.string(),
      name: z.string(),
      /** What the month's documents are expected to bear under it. */
      tax: amount,
      /** What it stands at: whoever checks it says what they saw. */
      revision: z.string(),
      /** What was read, where somebody keeps it here. */
      files: z.array(AttachedFile).readonly(),
      things: z.array(
        z.object({
          says: z.string(),
          /** `changed`: since it was seen, or checked. */
          standing: z.enum(['checked', 'seen', 'alone', 'changed']),
          seenIn: z.array(z.string()),
          /** Who read it, in what, as of which day; of what was changed since, before that. */
          checked: z.object({ against: z.string(), on: z.string(), person: z.string() }).nullable(),
        }),
      ),
    }),
  ),
})
export type SeenView = z.infer<typeof SeenView>

/** What somebody read in an agency's own text: each group as it was seen. */
export const SeenChecked = z.strictObject({
  checks: z
    .array(
      z.strictObject({
        id: z.string().min(1).max(60),
        revision: z.string().max(100),
        /** What was read: a publication, a rate table, an address. */
        against: z.string().trim().min(3).max(400),
        /** The day on which it was read. */
        on: date,
      }),
    )
    .min(1)
    .max(5_000),
})
export type SeenChecked = z.infer<typeof SeenChecked>
