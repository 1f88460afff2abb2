import type { PostingKind } from '../baseline/postingRule.ts'
import { fault } from '../faults.ts'
import { sum, type MinorUnits } from '../money/currency.ts'

export interface TaxPart {
  readonly jurisdictionId: string
  readonly tax: MinorUnits
}

/** One line of a journal: either debit or credit is nil. Tax lines carry their components beside them. */
export interface JournalLine {
  readonly role: PostingKind
  /** Of a revenue line: the document's line that it books. */
  readonly lineId: string | null
  readonly account: string
  readonly agencyId: string | null
  /** Values of tracking dimensions that rules put on it. */
  readonly dimensions?: readonly string[]
  readonly debit: MinorUnits
  readonly credit: MinorUnits
  readonly components: readonly TaxPart[]
}

export interface Journal {
  readonly currency: string
  readonly lines: readonly JournalLine[]
}

/** A line on the side that its sign asks for: a negative credit is a debit. */
export function creditLine(line: Omit<JournalLine, 'debit' | 'credit'>, amount: MinorUnits): JournalLine {
  return amount < 0n ? { ...line, debit: -amount, credit: 0n } : { ...line, debit: 0n, credit: amount }
}

export function debitLine(line: Omit<JournalLine, 'debit' | 'credit'>, amount: MinorUnits): JournalLine {
  return creditLine(line, -amount)
}

/** @throws AXION_JOURNAL_OUT_OF_BALANCE */
export function requireBalance(journal: Journal): Journal {
  const debit = sum(journal.lines.map((line) => line.debit))
  const credit = sum(journal.lines.map((line) => line.credit))
  if (debit !== credit)
    throw fault('AXION_JOURNAL_OUT_OF_BALANCE', { debit: debit.toString(), credit: credit.toString() })
  return journal
}
