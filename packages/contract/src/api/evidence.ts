import type { Facts, FaultCode } from '@axion/core'
import { z } from 'zod'
import type { Code } from '../sentences/catalogue.ts'
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

export interface EvidenceMember {
  readonly label: string
  readonly detail: string
  readonly amount: string
  /** Null where the amount ends here: what it rests on lies before the month. */
  readonly open: Selector | null
}

/** A sum of one voice, as it is stored and as it is worked out now from what was recorded then. An empty agency or account was not stated. */
export interface Departure {
  readonly voice: 'stated' | 'expected'
  readonly kind: 'tax' | 'net'
  readonly agency: string
  readonly account: string
  readonly currency: string
  readonly stored: string
  readonly worked: string
}

export interface ChainLine {
  readonly label: string
  /** What the line's amount was worked out on; null where that says nothing. */
  readonly base: string | null
  readonly detail: string
  /** Since when its rate holds; null where the line has none. */
  readonly since: string | null
  /** Whether it stands in an account where it does not belong. */
  readonly amiss: boolean
  readonly debit: string | null
  readonly credit: string | null
  /** Credit less debit in the base currency, where the document is in another and the books say so. */
  readonly inBase?: string | null
}

export interface ChainLink {
  readonly role: 'source' | 'determination' | 'booking' | 'ledger' | 'account'
  readonly title: string
  readonly detail: string
  readonly lines: readonly ChainLine[]
  /** What this link says the amount is; null where it says nothing. */
  readonly amount: string | null
  readonly silence: 'not-stated' | 'not-booked' | 'not-composed' | 'not-known' | null
  /** This amount less that of the link before it that spoke; null where nothing is compared. */
  readonly gap: string | null
  /** The same two in the base currency, where the document is in another. */
  readonly inBase: string | null
  readonly gapInBase: string | null
  /** An account's balance at the end of the month. */
  readonly balance: string | null
  readonly address: string | null
}

/** Why a document is not proved, as facts; the sentence is made where it is read. `system` is whose voice is explained. */
export type CauseFacts =
  | {
      readonly kind: 'component-percent'
      readonly system: string
      readonly rate: string
      readonly jurisdiction: string
      readonly theirs: string
      readonly ours: string
      readonly since: string | null
    }
  | {
      readonly kind: 'liability-account'
      readonly system: string
      readonly agency: string
      readonly theirs: string
      readonly ours: string
    }
  | { readonly kind: 'flat-rate'; readonly system: string; readonly rate: string; readonly percent: string }
  | { readonly kind: 'default-code'; readonly system: string; readonly code: string }
  | {
      readonly kind: 'rounding'
      readonly system: string
      readonly level: 'unit' | 'line' | 'document'
      readonly unit: 'component' | 'combined'
      readonly tie: 'half-away' | 'half-even' | 'truncate'
    }
  | { readonly kind: 'rate-date'; readonly system: string; readonly date: string }
  | {
      readonly kind: 'rate-place'
      readonly system: string
      readonly place: 'origin' | 'destination' | 'outlet' | 'party' | 'entity'
    }
  | {
      readonly kind: 'named-rate'
      readonly system: string
      readonly rate: string
      readonly enteredBy: string | null
    }
  | { readonly kind: 'component-lost'; readonly system: string; readonly jurisdiction: string }
  | { readonly kind: 'one-agency'; readonly system: string; readonly agency: string }
  | { readonly kind: 'shipping'; readonly system: string; readonly taxed: boolean }
  | { readonly kind: 'discount'; readonly system: string; readonly beforeTax: boolean }
  | { readonly kind: 'prices'; readonly system: string; readonly includeTax: boolean }
  | {
      readonly kind:
        'exemption-ignored' | 'exempted-without-certificate' | 'sign' | 'line-left-out' | 'exchange-at-one'
      readonly system: string
    }
  | { readonly kind: 'both'; readonly parts: readonly CauseFacts[] }
  /** Lines that nobody decided yet: the finding that says why, and how the lines are worded. */
  | {
      readonly kind: 'undecided'
      readonly code: FaultCode
      readonly facts: Facts
      readonly wording: string | null
    }
  /** What was read cannot be trusted, or could not be read at all. */
  | { readonly kind: 'flawed'; readonly code: Code; readonly facts: Facts }
  /** What is net of tax, or owed on the whole, stands in other accounts than where it belongs. */
  | { readonly kind: 'moved'; readonly from: readonly string[]; readonly to: readonly string[] }
  | { readonly kind: 'missing'; readonly why: string }
  | { readonly kind: 'unexplained'; readonly headline: string; readonly odd: readonly string[] }

interface EvidenceHead {
  readonly selector: Selector
  readonly amount: string
  readonly currency: string
}
export type Evidence =
  | (EvidenceHead & { readonly kind: 'members'; readonly members: readonly EvidenceMember[] })
  | (EvidenceHead & {
      readonly kind: 'chain'
      readonly document: {
        readonly number: string
        readonly party: string
        readonly date: string
        readonly unit: string
        /** Whether documents of its kind are posted so far. */
        readonly posted: boolean
        readonly kind: string
      }
      /** What the chain's amounts are in: the document's own currency, which `amount` need not be. */
      readonly chainCurrency: string
      /** Units of the base currency for one of the document's; null in the base currency. */
      readonly exchangeRate: string | null
      readonly agency: string | null
      readonly headline: string | null
      readonly proved: boolean
      /** Kept with a reason, or given back by the documents that are named. */
      readonly settled: 'kept' | 'cured' | null
      readonly settledWith: string | null
      /** Why it is not proved, as the tie-out says it; where several explain it equally, each. */
      readonly causes: readonly CauseFacts[]
      readonly chain: readonly ChainLink[]
      /** Index of the first link that does not equal the one before it. */
      readonly breaksAt: number | null
      /** When what stated and expected are worked out from was recorded, by the entity's own time, and by which version of the computation. */
      readonly determined: { readonly at: string; readonly core: number; readonly isCurrent: boolean }
      /** Where what is worked out from that comes to something else than what is stored. */
      readonly departures: readonly Departure[]
    })
