import {
  CODE_TREATMENTS,
  COLLECTING_ANSWERS,
  LEVELS,
  METHOD_KINDS,
  POSTING_KINDS,
  POSTING_SCOPES,
} from '@axion/core'
import { BASELINE_SHEETS, type BaselineSheet } from './sheets.ts'
import type { CellType, SheetColumn } from './columns.ts'

/** Whose codes a cell may name: another kind of the baseline, or the ledger's accounts. */
export type NamedKind = BaselineSheet | 'accounts'

/** What a cell may be, where it may not be any text: one of some words, or the code of something that is there. */
export interface CellChoice {
  readonly words: readonly string[] | null
  readonly names: NamedKind | null
}

const words = (...all: readonly string[]): CellChoice => ({ words: all, names: null })
const named = (names: NamedKind): CellChoice => ({ words: null, names })

/** By the path of a column, whatever sheet it is of. */
const ALIKE: Readonly<Record<string, CellChoice>> = {
  agency: named('agencies'),
  jurisdiction: named('jurisdictions'),
  jurisdictions: named('jurisdictions'),
  regions: named('jurisdictions'),
  parent: named('jurisdictions'),
  onTopOf: named('jurisdictions'),
  itemTaxCode: named('itemTaxCodes'),
  party: named('parties'),
  account: named('accounts'),
  originLevels: words(...LEVELS),
  treatment: words(...CODE_TREATMENTS),
  'threshold.taxes': words('whole', 'excess'),
  answer: words(...COLLECTING_ANSWERS),
  basis: words('accrual', 'cash'),
  frequency: words('month', 'quarter', 'half-year', 'year'),
  unit: words('component', 'combined'),
  tie: words('half-away', 'half-even', 'truncate'),
  taxedBy: words('supply-date', 'document-date', 'payment-date'),
  'only.by': words(...POSTING_SCOPES),
}

/** Of columns that bear one name and are something else in one sheet than in another. */
const OWN: Readonly<Partial<Record<BaselineSheet, Readonly<Record<string, CellChoice>>>>> = {
  jurisdictions: { level: words(...LEVELS) },
  roundings: { level: words('unit', 'line', 'document') },
  postingRules: { kind: words(...POSTING_KINDS) },
  paymentMethods: { kind: words(...METHOD_KINDS) },
}

const ANY: CellChoice = { words: null, names: null }

/** What the cells of a column may be. */
export function choiceOf(sheet: BaselineSheet, path: string): CellChoice {
  return OWN[sheet]?.[path] ?? ALIKE[path] ?? ANY
}

/** Kinds of the baseline that are entered, changed and ended one by one; rules over lines stand in an order, and have a page of their own. */
export const AGREED_KINDS = (Object.keys(BASELINE_SHEETS) as BaselineSheet[]).filter(
  (key): key is AgreedKind => key !== 'rules',
)
export type AgreedKind = Exclude<BaselineSheet, 'rules'>

/** A field of a form: a column of the sheet, with what may stand in it. */
export interface AgreedField extends SheetColumn, CellChoice {
  /** Whether an object is known by it: then it stays as it is. Whether a rule has limits, and in which currency, is no such thing. */
  readonly known: boolean
}

/** The days that a version holds are asked for by themselves. */
export const DAYS: readonly string[] = ['from', 'to']

export function fieldsOfKind(kind: AgreedKind): readonly AgreedField[] {
  const { columns, identity } = BASELINE_SHEETS[kind]
  return columns
    .filter(({ path }) => !DAYS.includes(path))
    .map((each) => ({
      ...each,
      ...choiceOf(kind, each.path),
      known: identity.paths.includes(each.path) && each.path !== 'currency',
    }))
}

/** Whether what is agreed of a kind holds from day to day, and may be another from one on. */
export function isDated(kind: AgreedKind): boolean {
  return BASELINE_SHEETS[kind].columns.some(({ path }) => path === 'from')
}

export const CELL_TYPES = ['text', 'flag', 'list', 'numbers', 'whole', 'covers'] as const satisfies CellType[]
