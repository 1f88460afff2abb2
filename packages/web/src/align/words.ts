import type { AlignKind, Severity } from '@axion/contract'
import type { Evidence } from '@axion/core'

/** What a proposal rests on, in words. */
export const EVIDENCE_WORDS: Readonly<Record<Evidence, string>> = {
  'same-code': 'same code', 'same-name': 'same name', 'same-percent-and-components': 'same percent and components', 'same-jurisdictions': 'same agencies', 'near-name': 'a name that nearly matches',
}

export interface KindWords {
  readonly title: string
  readonly question: string
  readonly one: string
  readonly many: string
  /** Heads of the baseline's columns: name, group, detail, total. */
  readonly columns: readonly [string, string, string, string]
  /** Whether the fourth column is a figure. */
  readonly figure: boolean
}

const words = (title: string, question: string, one: string, many: string, columns: KindWords['columns'], figure = false): KindWords => ({ title, question, one, many, columns, figure })

export const KIND_WORDS: Readonly<Record<AlignKind, KindWords>> = {
  rates: words('Combined rates', 'Do the systems agree with the baseline on combined rates?', 'rate', 'rates', ['Baseline', 'Region', 'Components, %', 'Total'], true),
  agencies: words('Agencies', 'Do the systems agree with the baseline on agencies?', 'agency', 'agencies', ['Baseline', 'Registration', 'Collects for', 'Account']),
  codes: words('Item tax codes', 'Do the systems use the baseline’s item tax codes?', 'code', 'codes', ['Baseline', 'Code', 'Treated as', 'Holds'], true),
  items: words('Items', 'Does every item stand under its tax code in every system?', 'item', 'items', ['Baseline', 'Code', 'Category', 'Tax code']),
  parties: words('Parties', 'Is everybody exempt who should be, and nobody else?', 'party', 'parties', ['Baseline', 'Standing', 'For', 'Certificate']),
  accounts: words('Accounts', 'Does every kind of amount go to an account of the right type?', 'posting rule', 'posting rules', ['Posting rule', 'Kind of amount', 'Account type', 'Account']),
}

export const SEVERITY_WORDS: Readonly<Record<Severity, string>> = { stops: 'stops documents', costs: 'puts tax at stake', settle: 'to settle' }
