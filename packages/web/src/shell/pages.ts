import { ALIGN_KINDS } from '@axion/contract'
import { KIND_WORDS } from '../align/words.ts'

/** A page that is found by what it is called; those of a legal entity are of its month. */
export interface PageToFind {
  readonly label: string
  readonly name: string
  readonly more?: Readonly<Record<string, string>>
}

/** Every page that stands by itself: what is opened from a figure or a link is found there. */
export const PAGES: readonly PageToFind[] = [
  { label: 'Close sheet', name: 'close' },
  { label: 'Connect', name: 'connect' },
  { label: 'What changed in the systems', name: 'changes' },
  { label: 'Spreadsheets', name: 'spreadsheets' },
  ...ALIGN_KINDS.map((kind) => ({
    label: `Align: ${KIND_WORDS[kind].title.toLowerCase()}`,
    name: 'align',
    more: { kind },
  })),
  { label: 'Align: registrations', name: 'registrations' },
  { label: 'Align: line rules', name: 'rules' },
  { label: 'Opening day: balances that were taken over', name: 'opening' },
  { label: 'Baseline: what is agreed, and since when', name: 'baseline' },
  { label: 'What tax would a sale bear?', name: 'sale' },
  { label: 'Another legal entity: its agencies, rates and codes', name: 'copied' },
  { label: 'Decisions: a baseline out of what is there', name: 'decisions' },
  { label: 'Post', name: 'post' },
  { label: 'Tie out', name: 'tie-out' },
  { label: 'Legal entity', name: 'entity' },
  { label: 'People', name: 'people' },
  { label: 'Audit trail', name: 'trail' },
  { label: 'Practice', name: 'practice' },
  { label: 'Your account', name: 'account' },
]
