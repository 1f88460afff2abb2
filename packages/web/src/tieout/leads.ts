import type { CauseFacts, CauseView } from '@axion/contract'
import { count } from '../figures/format.ts'

/** Where in Axion a cause is mended, beside the document itself; null where it is mended at its source alone. */
export function leadOf(facts: CauseFacts): {
  readonly name: string
  readonly params: Readonly<Record<string, string>>
  readonly words: string
} | null {
  switch (facts.kind) {
    case 'undecided':
      return facts.code === 'AXION_NO_JURISDICTION' || facts.code === 'AXION_TWO_JURISDICTIONS'
        ? { name: 'spreadsheets', params: {}, words: 'Complete the places in the baseline' }
        : facts.code === 'AXION_NO_ROUNDING_PLACE' || facts.code === 'AXION_NO_RATE_ON_DATE'
          ? { name: 'align', params: { kind: 'rates' }, words: 'See the rates in Align' }
          : { name: 'rules', params: {}, words: 'Decide it in Align' }
    case 'flawed':
      return { name: 'connect', params: {}, words: 'See the system in Connect' }
    case 'default-code':
      return { name: 'align', params: { kind: 'items' }, words: 'See the items in Align' }
    case 'exemption-ignored':
    case 'exempted-without-certificate':
      return { name: 'align', params: { kind: 'parties' }, words: 'See the parties in Align' }
    case 'component-percent':
    case 'flat-rate':
    case 'rate-date':
    case 'named-rate':
    case 'component-lost':
      return { name: 'align', params: { kind: 'rates' }, words: 'See the rates in Align' }
    case 'liability-account':
    case 'moved':
      return { name: 'align', params: { kind: 'accounts' }, words: 'See the accounts in Align' }
    // Mended at its source, or in Post and Tie out themselves.
    case 'rounding':
    case 'rate-place':
    case 'override':
    case 'one-agency':
    case 'shipping':
    case 'discount':
    case 'prices':
    case 'sign':
    case 'line-left-out':
    case 'exchange-at-one':
    case 'both':
    case 'missing':
    case 'unexplained':
      return null
  }
}

/** What is missing is a bar not yet drawn, as in the rows so among the causes; anything else breaks. */
export function markOf(headline: string | null): 'open' | 'breaks' {
  return headline === 'missing' ? 'open' : 'breaks'
}

/** What is said of documents in which nobody looked for every pair of mistakes; empty where all were tried. */
export function unsearchedWords({ bounded, waiting }: CauseView['unsearched']): string {
  return [
    waiting > 0
      ? `Of ${count(waiting, 'document')} not every pair of mistakes was tried yet: each pull goes on with some.`
      : '',
    bounded > 0
      ? `Of ${count(bounded, 'document')} more pairs of mistakes are possible than are tried of one.`
      : '',
  ]
    .filter(Boolean)
    .join(' ')
}
