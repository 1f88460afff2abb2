import { Facts, FaultCode, Code } from './ofCore.ts'
import { z } from 'zod'
import { LINK_KINDS } from './align.ts'

/** What an amount on a page is the sum of. An amount carries this, and opens with it. */
export const Selector = z.object({
  of: z.enum(['tax', 'gap', 'unproved', 'unproved-net', 'stake', 'net', 'total', 'balance', 'lines']),
  voice: z.enum(['stated', 'expected', 'booked']).optional(),
  /** For a gap: the amount of `voice` less that of `against`. */
  against: z.enum(['stated', 'expected', 'booked', 'balance']).optional(),
  /** Of a gap: only documents with too much, or with too little. */
  sign: z.enum(['over', 'under']).optional(),
  /** An empty text: what names no agency, or no account. */
  agency: z.string().max(100).optional(),
  account: z.string().max(100).optional(),
  unit: z.string().max(300).optional(),
  cause: z.string().max(400).optional(),
  /** For what is at stake: by disagreements of one kind. */
  kind: z.enum(LINK_KINDS).optional(),
  /** Keys of findings, comma separated. */
  finding: z.string().max(2000).optional(),
  state: z.string().max(200).optional(),
  only: z.enum(['unproved']).optional(),
  /** Documents of kinds that are not posted so far: sales and returns, purchases, or both. */
  notPosted: z.enum(['sold', 'bought', 'all']).optional(),
  /** For lines: a group of lines alike, or the rule that decided them. */
  group: z.string().max(600).optional(),
  rule: z.string().max(60).optional(),
  search: z.string().max(100).optional(),
})
export type Selector = z.infer<typeof Selector>

/** A selector as the text that stands in an address. */
export function selectorText(selector: Selector): string {
  return new URLSearchParams(
    Object.entries(selector).filter(([, value]) => value !== undefined) as [string, string][],
  ).toString()
}

export function parseSelector(text: string): Selector {
  return Selector.parse(Object.fromEntries(new URLSearchParams(text)))
}

export const EvidenceMember = z.object({
  label: z.string(),
  detail: z.string(),
  amount: z.string(),
  /** Null where the amount ends here: what it rests on lies before the month. */
  open: Selector.nullable(),
})
export type EvidenceMember = z.infer<typeof EvidenceMember>

/** A sum of one voice, as it is stored and as it is worked out now from what was recorded then. An empty agency or account was not stated. */
export const Departure = z.object({
  voice: z.enum(['stated', 'expected']),
  kind: z.enum(['tax', 'net']),
  agency: z.string(),
  account: z.string(),
  currency: z.string(),
  stored: z.string(),
  worked: z.string(),
})
export type Departure = z.infer<typeof Departure>

export const ChainLine = z.object({
  label: z.string(),
  /** What the line's amount was worked out on; null where that says nothing. */
  base: z.string().nullable(),
  detail: z.string(),
  /** Since when its rate holds; null where the line has none. */
  since: z.string().nullable(),
  /** Whether it stands in an account where it does not belong. */
  amiss: z.boolean(),
  debit: z.string().nullable(),
  credit: z.string().nullable(),
  /** Credit less debit in the base currency, where the document is in another and the books say so. */
  inBase: z.string().nullable().optional(),
})
export type ChainLine = z.infer<typeof ChainLine>

export const ChainLink = z.object({
  role: z.enum(['source', 'determination', 'booking', 'ledger', 'account']),
  title: z.string(),
  detail: z.string(),
  lines: z.array(ChainLine).readonly(),
  /** What this link says the amount is; null where it says nothing. */
  amount: z.string().nullable(),
  silence: z.enum(['not-stated', 'not-booked', 'not-composed', 'not-known']).nullable(),
  /** This amount less that of the link before it that spoke; null where nothing is compared. */
  gap: z.string().nullable(),
  /** The same two in the base currency, where the document is in another. */
  inBase: z.string().nullable(),
  gapInBase: z.string().nullable(),
  /** An account's balance at the end of the month. */
  balance: z.string().nullable(),
  address: z.string().nullable(),
})
export type ChainLink = z.infer<typeof ChainLink>

/** A cause that says nothing but whose it is. */
const ofSystem = <K extends string>(kind: K) => z.object({ kind: z.literal(kind), system: z.string() })
const OneCause = z.union([
  z.object({
    kind: z.literal('component-percent'),
    system: z.string(),
    rate: z.string(),
    jurisdiction: z.string(),
    theirs: z.string(),
    ours: z.string(),
    since: z.string().nullable(),
  }),
  z.object({
    kind: z.literal('liability-account'),
    system: z.string(),
    agency: z.string(),
    theirs: z.string(),
    ours: z.string(),
  }),
  z.object({
    kind: z.literal('flat-rate'),
    system: z.string(),
    rate: z.string(),
    percent: z.string(),
  }),
  z.object({
    kind: z.literal('default-code'),
    system: z.string(),
    code: z.string(),
  }),
  z.object({
    kind: z.literal('rounding'),
    system: z.string(),
    level: z.enum(['unit', 'line', 'document']),
    unit: z.enum(['component', 'combined']),
    tie: z.enum(['half-away', 'half-even', 'truncate']),
  }),
  z.object({
    kind: z.literal('rate-date'),
    system: z.string(),
    date: z.string(),
  }),
  z.object({
    kind: z.literal('rate-place'),
    system: z.string(),
    place: z.enum(['origin', 'destination', 'outlet', 'party', 'entity']),
  }),
  z.object({
    kind: z.literal('named-rate'),
    system: z.string(),
    rate: z.string(),
    enteredBy: z.string().nullable(),
  }),
  z.object({
    kind: z.literal('override'),
    system: z.string(),
    by: z.string().nullable(),
    why: z.string().nullable(),
  }),
  z.object({
    kind: z.literal('component-lost'),
    system: z.string(),
    jurisdiction: z.string(),
  }),
  z.object({
    kind: z.literal('one-agency'),
    system: z.string(),
    agency: z.string(),
  }),
  z.object({
    kind: z.literal('shipping'),
    system: z.string(),
    taxed: z.boolean(),
  }),
  z.object({
    kind: z.literal('discount'),
    system: z.string(),
    beforeTax: z.boolean(),
  }),
  z.object({
    kind: z.literal('prices'),
    system: z.string(),
    includeTax: z.boolean(),
  }),
  ofSystem('exemption-ignored'),
  ofSystem('exempted-without-certificate'),
  ofSystem('sign'),
  ofSystem('line-left-out'),
  ofSystem('exchange-at-one'),
  z.object({
    kind: z.literal('undecided'),
    code: FaultCode,
    facts: Facts,
    wording: z.string().nullable(),
  }),
  z.object({
    kind: z.literal('flawed'),
    code: Code,
    facts: Facts,
  }),
  z.object({
    kind: z.literal('moved'),
    from: z.array(z.string()).readonly(),
    to: z.array(z.string()).readonly(),
  }),
  z.object({
    kind: z.literal('missing'),
    why: z.string(),
  }),
  z.object({
    kind: z.literal('unexplained'),
    headline: z.string(),
    odd: z.array(z.string()).readonly(),
  }),
])
/** Why a document is not proved, as facts; the sentence is made where it is read. `system` is whose voice is explained. */
export const CauseFacts = z.discriminatedUnion('kind', [
  ...OneCause.options,
  z.object({ kind: z.literal('both'), parts: z.array(OneCause).readonly() }),
])
export type CauseFacts = z.infer<typeof CauseFacts>

const EvidenceHead = z.object({
  selector: Selector,
  amount: z.string(),
  currency: z.string(),
})
type EvidenceHead = z.infer<typeof EvidenceHead>
export const Evidence = z.union([
  EvidenceHead.extend({
    kind: z.literal('members'),
    members: z.array(EvidenceMember).readonly(),
  }),
  EvidenceHead.extend({
    kind: z.literal('chain'),
    document: z.object({
      number: z.string(),
      party: z.string(),
      date: z.string(),
      unit: z.string(),
      /** Whether documents of its kind are posted so far. */
      posted: z.boolean(),
      kind: z.string(),
    }),
    /** What the chain's amounts are in: the document's own currency, which `amount` need not be. */
    chainCurrency: z.string(),
    /** Units of the base currency for one of the document's; null in the base currency. */
    exchangeRate: z.string().nullable(),
    agency: z.string().nullable(),
    headline: z.string().nullable(),
    proved: z.boolean(),
    /** Kept with a reason, or given back by the documents that are named. */
    settled: z.enum(['kept', 'cured']).nullable(),
    settledWith: z.string().nullable(),
    /** Why it is not proved, as the tie-out says it; where several explain it equally, each. */
    causes: z.array(CauseFacts).readonly(),
    chain: z.array(ChainLink).readonly(),
    /** What tax services keep of the document, each beside what its source states; no amount where one keeps nothing. */
    kept: z
      .array(
        z.object({
          system: z.string(),
          cancelled: z.boolean(),
          amount: z.string().nullable(),
          currency: z.string(),
          address: z.string().nullable(),
        }),
      )
      .readonly(),
    /** Index of the first link that does not equal the one before it. */
    breaksAt: z.number().nullable(),
    /** When what stated and expected are worked out from was recorded, by the entity's own time, and by which version of the computation. */
    determined: z.object({
      at: z.string(),
      core: z.number(),
      isCurrent: z.boolean(),
    }),
    /** Where what is worked out from that comes to something else than what is stored. */
    departures: z.array(Departure).readonly(),
  }),
])
export type Evidence = z.infer<typeof Evidence>
