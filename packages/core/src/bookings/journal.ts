import type { PostingKind } from '../baseline/baseline.ts'
import { fault } from '../faults.ts'
import { allocate } from '../money/allocation.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import { multiply, ratio, type Ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'

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

/**
 * The journal in another currency (K7): its total is converted once and rounded, then allocated to each side's lines,
 * so that both sides still agree and no rounding line is needed.
 * @param rate units of the other currency's minor unit for one minor unit of this journal's
 */
export function convert(journal: Journal, currency: string, rate: Ratio): Journal {
  const total = sum(journal.lines.map((line) => line.debit))
  const converted = round(multiply(ratio(total), rate))
  const debits =
    total === 0n
      ? journal.lines.map(() => 0n)
      : allocate(
          converted,
          journal.lines.map((line) => line.debit),
        )
  const credits =
    total === 0n
      ? journal.lines.map(() => 0n)
      : allocate(
          converted,
          journal.lines.map((line) => line.credit),
        )
  const lines = journal.lines.map((line, at) => ({
    ...line,
    components: [],
    debit: debits[at] ?? 0n,
    credit: credits[at] ?? 0n,
  }))
  return requireBalance({ currency, lines })
}
