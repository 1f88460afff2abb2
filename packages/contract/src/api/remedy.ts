import { z } from 'zod'
import { FieldChange, JournalSides } from './common.ts'

/** What of the set-up is sent field by field, made anew in a system, and taken in from one. */
export const SENT_KINDS = [
  'rates',
  'agencies',
  'items',
  'parties',
  'accounts',
  'methods',
  'locations',
  'dimensions',
] as const
/** What a system's values can be taken over of. */
export const ADOPTED_KINDS = [
  'rates',
  'agencies',
  'items',
  'parties',
  'methods',
  'locations',
  'dimensions',
] as const
export const CREATED_KINDS = ['rates', 'agencies', 'accounts', 'dimensions'] as const
export const TAKEN_IN_KINDS = [
  'rates',
  'agencies',
  'codes',
  'items',
  'parties',
  'methods',
  'locations',
  'dimensions',
] as const

/**
 * What mends a cause: a change of a system's set-up to what the baseline says, with everything it explains booked again; what the
 * baseline has and a system lacks, created there; a system's values taken into the baseline, or an object that only a system has;
 * a posting rule that sends a kind of amount to another account;
 * a correcting entry where booking again cannot help; booking again what was mended by hand; taking bookings back out; accepting an edit that moved nothing;
 * or telling a tax service what became of documents.
 * What exactly is sent is worked out when it is previewed.
 */
export const Remedy = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('component-percent'),
    systemId: z.string(),
    objectId: z.string(),
    jurisdictionId: z.string(),
  }),
  z.object({ kind: z.literal('liability-account'), systemId: z.string(), objectId: z.string() }),
  z.object({
    kind: z.literal('send'),
    align: z.enum(SENT_KINDS),
    systemId: z.string(),
    objectId: z.string(),
  }),
  z.object({
    kind: z.literal('create'),
    align: z.enum(CREATED_KINDS),
    systemId: z.string(),
    baselineId: z.string(),
    name: z
      .string()
      .trim()
      .min(1)
      .max(200)
      .optional()
      .meta({ description: 'Of an account: another name than the one that is proposed' }),
  }),
  z.object({
    kind: z.literal('adopt'),
    align: z.enum(ADOPTED_KINDS),
    systemId: z.string(),
    objectId: z.string(),
  }),
  z.object({
    kind: z.literal('take-in'),
    align: z.enum(TAKEN_IN_KINDS),
    systemId: z.string(),
    objectId: z.string(),
  }),
  z.object({
    kind: z.literal('post-to'),
    systemId: z.string(),
    ruleId: z.string().max(300),
    account: z.string().min(1).max(40).regex(/^\S+$/, 'has spaces'),
    opens: z
      .literal(true)
      .optional()
      .meta({ description: 'The account is not in the ledger yet, and will be made there' }),
  }),
  z.object({ kind: z.literal('book-again'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('correct'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('take-back'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('accept'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('tell'), cause: z.string().max(400) }),
])
export type Remedy = z.infer<typeof Remedy>
/** A remedy that changes a system's set-up. */
export type SetUpRemedy = Extract<
  Remedy,
  { readonly kind: 'component-percent' | 'liability-account' | 'send' | 'create' }
>
/** The other way about: the system's values are taken into the baseline, and nothing is sent. */
export type BaselineRemedy = Extract<Remedy, { readonly kind: 'adopt' | 'take-in' | 'post-to' }>
/** What an alignment is mended by, rather than a cause of the tie-out. */
export type AlignRemedy = SetUpRemedy | BaselineRemedy

/** A remedy of a cause, tried on what would be composed now and on what the ledger is known to do. */
export const TriedRemedy = z.object({
  remedy: Remedy,
  /** Documents that it would leave as wrong as before, and why. */
  leaves: z.number(),
  why: z.string().nullable(),
})
export type TriedRemedy = z.infer<typeof TriedRemedy>

export const RemedyPreview = z.object({
  remedy: Remedy,
  system: z.string(),
  object: z.string(),
  /** What the preview rests on; sent along, so that nothing else is done than what was seen. */
  revision: z.string(),
  changes: z.array(FieldChange).readonly(),
  /** Of correcting entries: what they come to together, by account. */
  journal: z.array(JournalSides).readonly(),
  documents: z.number(),
  /** The numbers of some of them, where they are not those of a cause. */
  numbers: z.array(z.string()).readonly(),
  unproved: z.string(),
  currency: z.string(),
})
export type RemedyPreview = z.infer<typeof RemedyPreview>
