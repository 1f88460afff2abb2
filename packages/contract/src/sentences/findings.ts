import type { Facts } from '@axion/core'
import { CROSSWALK_FINDINGS } from './findings/crosswalk.ts'
import { PLACES_FINDINGS } from './findings/places.ts'
import { POSTINGS_FINDINGS } from './findings/postings.ts'
import { RATES_FINDINGS } from './findings/rates.ts'
import { SALES_FINDINGS } from './findings/sales.ts'
import type { FindingWords } from './findings/words.ts'

export { SEVERITIES, type FindingWords, type Severity } from './findings/words.ts'

/** Every finding of Align by its code: the one source of the grid's words and of docs/findings.md. */
export const FINDINGS = {
  ...CROSSWALK_FINDINGS,
  ...POSTINGS_FINDINGS,
  ...RATES_FINDINGS,
  ...SALES_FINDINGS,
  ...PLACES_FINDINGS,
} as const satisfies Readonly<Record<string, FindingWords<never>>>
export type FindingCode = keyof typeof FINDINGS
export const FINDING_CODES = Object.keys(FINDINGS) as [FindingCode, ...FindingCode[]]

/** The facts that a finding's sentence needs. */
export type FindingFacts<C extends FindingCode> = Parameters<(typeof FINDINGS)[C]['says']>[0]

/** A finding with the facts that its sentence needs. */
export function findingOf<C extends FindingCode>(code: C, facts: FindingFacts<C>): { code: C; facts: Facts } {
  return { code, facts: facts as Facts }
}

/** Every finding's words, for facts that were kept with it. */
export function wordsOf(code: FindingCode): FindingWords {
  return FINDINGS[code] as FindingWords
}
