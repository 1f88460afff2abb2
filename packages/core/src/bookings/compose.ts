import type { PostingKind } from '../baseline/postingRule.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import type { DocumentLine, TaxDocument } from '../determination/document.ts'
import type { Determination, TaxRow } from '../determination/determination.ts'
import { Fault, fault, finding, type Finding } from '../faults.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import { discountsApart } from './discounts.ts'
import { bookingParts, type BookingPart } from './parts.ts'
import {
  creditLine,
  debitLine,
  requireBalance,
  type Journal,
  type JournalLine,
  type TaxPart,
} from './journal.ts'

/** The tax that a source charged at one of its rates. */
export interface ChargedTax {
  /** The source's own name of the rate, for people. */
  readonly rateName: string
  /** The baseline's combined rate that it is linked to. */
  readonly combinedRateId: string | null
  readonly tax: MinorUnits
  /** Null where the source states no split. An agency that is not linked is null too. */
  readonly components:
    | readonly { readonly agencyId: string | null; readonly agencyName: string; readonly tax: MinorUnits }[]
    | null
}

export interface ComposedBooking {
  /** Null where something that the journal needs is not agreed yet; the findings say what. */
  readonly journal: Journal | null
  /** The document's lines as they go to the ledger. */
  readonly parts: readonly BookingPart[]
  /** What stops the journal, and what a person should know before it is sent. */
  readonly blocked: readonly Finding[]
  readonly warnings: readonly Finding[]
}

/**
 * The expected journal of an invoice or a credit note (K7): receivable against revenue per line, shipping revenue, and each
 * agency's tax in its liability account; each by what the rules decided of its line, else by the narrowest posting rule that fits; a discount less revenue, or in an account of its own where a posting rule says so.
 * The booking carries the tax that the source charged; a split that the source does not state is allocated over the
 * expected components. On a credit note all amounts are negative, and so stand on the other side.
 */
export function composeJournal(
  document: TaxDocument,
  charged: readonly ChargedTax[],
  determination: Determination,
  index: BaselineIndex,
): ComposedBooking {
  const warnings = warningsOf(document, charged, determination)
  try {
    const taxes = taxByAgency(document, charged, determination)
    const tax = sum(taxes.values())
    const parts = partsAsCharged(document, determination, tax)
    const line = (
      role: PostingKind,
      agencyId: string | null,
      more: Partial<JournalLine> = {},
    ): Omit<JournalLine, 'debit' | 'credit'> => ({
      role,
      account: accountFor(role, { agencyId, document, lineId: more.lineId ?? null }, index),
      agencyId,
      lineId: null,
      components: [],
      ...dimensionsOf(document, more.lineId ?? null),
      ...more,
    })
    const discounts = discountsApart(document, determination, index)
    const lines = [
      debitLine(line('receivable', null), sum(parts.map((part) => part.net)) + tax - document.reimbursed),
      ...(document.reimbursed === 0n ? [] : [debitLine(line('reimbursement', null), document.reimbursed)]),
      ...parts.map((part) =>
        creditLine(
          line(part.kind === 'shipping' ? 'shipping' : 'revenue', null, { lineId: part.lineId }),
          part.net + (discounts.get(part.lineId) ?? 0n),
        ),
      ),
      ...(discounts.size === 0 ? [] : [debitLine(line('discount', null), sum(discounts.values()))]),
      ...[...taxes].map(([agencyId, amount]) =>
        creditLine(line('tax', agencyId, { components: partsOf(agencyId, amount, determination) }), amount),
      ),
    ]
    return {
      journal: requireBalance({
        currency: document.currency,
        lines: lines.filter((l) => l.debit !== l.credit),
      }),
      parts,
      blocked: [],
      warnings,
    }
  } catch (error) {
    if (!(error instanceof Fault)) throw error
    return { journal: null, parts: [], blocked: [error], warnings }
  }
}

/** The lines before tax; where prices have tax inside, before the tax that was charged. */
function partsAsCharged(
  document: TaxDocument,
  determination: Determination,
  tax: MinorUnits,
): readonly BookingPart[] {
  const parts = bookingParts(document, determination)
  if (!document.pricesIncludeTax) return parts
  const off =
    sum(document.lines.map((line) => line.amount)) -
    document.discount -
    tax -
    sum(parts.map((part) => part.net))
  const shares =
    off === 0n
      ? []
      : allocate(
          off,
          parts.map((part) => absolute(part.net)),
        )
  return parts.map((part, at) => ({ ...part, net: part.net + (shares[at] ?? 0n) }))
}

function accountFor(
  kind: PostingKind,
  {
    agencyId,
    document,
    lineId,
  }: { readonly agencyId: string | null; readonly document: TaxDocument; readonly lineId: string | null },
  index: BaselineIndex,
): string {
  const account =
    agencyId === null
      ? accountOf(
          kind,
          document,
          document.lines.find((l) => l.id === lineId),
          index,
        )
      : index.postingRuleOn(kind, agencyId, document.documentDate)?.account
  if (account == null)
    throw fault('AXION_NO_POSTING_RULE', {
      kind,
      agency: index.agency(agencyId ?? '')?.name ?? '',
      document: document.number,
    })
  return account
}

/** Where a kind of amount of a document, or of one of its lines, goes: where the rules decided, else by the narrowest posting rule; null where neither says. */
export function accountOf(
  kind: PostingKind,
  document: TaxDocument,
  line: DocumentLine | undefined,
  index: BaselineIndex,
): string | null {
  const of = {
    party: document.partyId,
    item: line?.itemId ?? null,
    'item-tax-code': line?.itemTaxCode ?? null,
    channel: document.channel ?? null,
  }
  return line?.decision?.account ?? index.postingRuleFor(kind, of, document.documentDate)?.account ?? null
}

function dimensionsOf(document: TaxDocument, lineId: string | null): Pick<JournalLine, 'dimensions'> {
  const dimensions = document.lines.find((line) => line.id === lineId)?.decision?.dimensions ?? []
  return dimensions.length === 0 ? {} : { dimensions }
}

function taxByAgency(
  document: TaxDocument,
  charged: readonly ChargedTax[],
  { rows }: Determination,
): Map<string, MinorUnits> {
  const taxes = new Map<string, MinorUnits>()
  const put = (agencyId: string, tax: MinorUnits): void =>
    void taxes.set(agencyId, (taxes.get(agencyId) ?? 0n) + tax)
  for (const charge of charged) {
    if (charge.components) {
      for (const { agencyId, agencyName, tax } of charge.components) {
        if (agencyId !== null) put(agencyId, tax)
        else if (tax !== 0n)
          throw fault('AXION_AGENCY_NOT_LINKED', { agency: agencyName, document: document.number })
      }
      continue
    }
    const expected = [
      ...groupBy(
        rows.filter((row) => row.tax !== 0n),
        (row) => row.agencyId,
      ),
    ]
    if (expected.length === 0 && charge.tax !== 0n)
      throw fault('AXION_SPLIT_NOT_STATED', { rate: charge.rateName, document: document.number })
    const parts = allocate(
      charge.tax,
      expected.map(([, of]) => sum(of.map((row) => row.tax))),
    )
    expected.forEach(([agencyId], at) => put(agencyId, parts[at] ?? 0n))
  }
  return taxes
}

/** An agency's amount beside its jurisdictions, in proportion to what was expected of each. */
function partsOf(agencyId: string, amount: MinorUnits, { rows }: Determination): TaxPart[] {
  const own: [string, TaxRow[]][] = [
    ...groupBy(
      rows.filter((row) => row.agencyId === agencyId && row.tax !== 0n),
      (row) => row.jurisdictionId,
    ),
  ]
  if (own.length === 0) return []
  const parts = allocate(
    amount,
    own.map(([, of]) => sum(of.map((row) => row.tax))),
  )
  return own.map(([jurisdictionId], at) => ({ jurisdictionId, tax: parts[at] ?? 0n }))
}

function warningsOf(
  document: TaxDocument,
  charged: readonly ChargedTax[],
  determination: Determination,
): Finding[] {
  const facts = { document: document.number }
  const unlinked = charged.filter((c) => c.combinedRateId === null && c.tax !== 0n)
  const unsplit = charged.filter((c) => c.components === null && c.tax !== 0n)
  const stated = sum(charged.map((c) => c.tax))
  const expected = sum(determination.rows.map((row) => row.tax))
  return [
    ...determination.findings,
    ...unlinked.map((c): Finding => finding('AXION_RATE_NOT_LINKED', { ...facts, rate: c.rateName })),
    ...unsplit.map((c): Finding => finding('AXION_SPLIT_NOT_STATED', { ...facts, rate: c.rateName })),
    ...(determination.complete && stated !== expected
      ? [
          finding('AXION_STATED_NOT_EXPECTED', {
            ...facts,
            stated: stated.toString(),
            expected: expected.toString(),
            currency: document.currency,
          }),
        ]
      : []),
  ]
}
