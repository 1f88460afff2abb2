import type { Columns } from '../database/row.ts'
import type { BookingRequest, RemedyPreview } from '@axion/contract'
import { absolute, formatAmount, groupBy, parseAmount, type Journal, dayAfter } from '@axion/core'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { externalIdOf, externalStem, isCorrection } from '../documents/ids.ts'
import { standing } from '../documents/standing.ts'
import { enter, move, OUTSET } from '../documents/states.ts'
import { type StoredEntry } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { groundsOf } from '../proof/grounds.ts'
import type { HeldSystem } from '../setUp/held.ts'

/** One account's part of a correction: credit less debit, in minor units of the document's currency. */
interface CorrectionLine {
  readonly account: string
  readonly agency: string | null
  readonly amount: bigint
}

export interface Correction {
  readonly unit: string
  readonly systemId: string
  readonly documentId: string
  readonly number: string
  readonly period: string
  readonly date: string
  readonly currency: string
  readonly exchangeRate: string | null
  readonly lines: readonly CorrectionLine[]
}

interface AstrayUnit extends Columns<
  'unit',
  'named' | 'system_id' | 'document_id' | 'number' | 'period' | 'document_date' | 'currency' | 'exchange_rate'
> {
  readonly document_id: string
  readonly journal: Journal | null
}

/**
 * What brings each document of a cause from what is booked to what should be: the composed journal less the ledger's own entry,
 * account by account. Both balance, and so does the difference. An earlier correction is worked out anew, and replaced.
 */
export async function correctionsOf(books: Books, month: string, cause: string): Promise<Correction[]> {
  const { trx, entityId } = books
  const { systems } = await groundsOf(books)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const rows = (await trx('tie_unit as u')
    .join(
      'booking as b',
      (on) =>
        void on
          .on('b.entity_id', 'u.entity_id')
          .on('b.system_id', 'u.system_id')
          .on('b.document_id', 'u.document_id')
          .on('b.kind', 'u.kind'),
    )
    .where({ 'u.entity_id': entityId, 'u.period': month, 'u.cause': cause, 'u.proved': false })
    .select('u.*', 'b.journal')) as AstrayUnit[]
  const lockedThrough = ledger.row.settings?.lockedThrough ?? null
  const corrections: Correction[] = []
  for (const row of rows) {
    const stem = externalStem(entityId, row.system_id, row.document_id)
    const held = (await trx('ledger_entry').where({
      entity_id: entityId,
      voided: false,
      stem,
    })) as StoredEntry[]
    const left = standing(held)
    const entries = left.filter((e) => !isCorrection(e.external_id))
    if (!row.journal || entries.length !== 1) continue
    const sums = new Map<string, CorrectionLine>()
    const put = (account: string, agency: string | null, amount: bigint): void => {
      const key = `${account}|${agency ?? ''}`
      sums.set(key, { account, agency, amount: (sums.get(key)?.amount ?? 0n) + amount })
    }
    for (const line of row.journal.lines)
      put(line.account, line.agencyId, BigInt(line.credit) - BigInt(line.debit))
    for (const { value } of entries) {
      for (const line of value.lines) {
        const amount = parseAmount(line.credit, value.currency) - parseAmount(line.debit, value.currency)
        put(
          ledger.accountNumber(line.accountId) ?? line.accountId,
          line.agencyId === null ? null : ledger.agencyOf(line.agencyId),
          -amount,
        )
      }
    }
    const lines = [...sums.values()].filter((line) => line.amount !== 0n)
    // A correction of before that is needed no more is corrected too: it goes.
    if (lines.length > 0 || left.length > entries.length)
      corrections.push({
        unit: row.named,
        systemId: row.system_id,
        documentId: row.document_id,
        number: row.number,
        period: row.period,
        date: openDate(row.document_date, lockedThrough),
        currency: row.currency,
        exchangeRate: row.exchange_rate,
        lines,
      })
  }
  return corrections
}

/** The document's own date, or, where the books are locked on it, the first day that is open. */
function openDate(date: string, lockedThrough: string | null): string {
  return lockedThrough === null || date > lockedThrough ? date : dayAfter(lockedThrough)
}

/** What corrections come to together, by account; amounts in another currency than the books' stand by themselves, and say so. */
export function inTotal(
  corrections: readonly Correction[],
  baseCurrency: string,
  ledger: HeldSystem,
): RemedyPreview['journal'] {
  return [...groupBy(corrections, (c) => c.currency)]
    .sort(([a], [b]) => Number(b === baseCurrency) - Number(a === baseCurrency))
    .flatMap(([currency, own]) => {
      const totals = new Map<string, bigint>()
      for (const line of own.flatMap((c) => c.lines))
        totals.set(line.account, (totals.get(line.account) ?? 0n) + line.amount)
      return [...totals]
        .filter(([, amount]) => amount !== 0n)
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([account, amount]) => {
          const text = formatAmount(absolute(amount), currency)
          const named = `${ledger.accountName(account)}${currency === baseCurrency ? '' : `, in ${currency}`}`
          return {
            account: named,
            ...(amount < 0n ? { debit: text, credit: null } : { debit: null, credit: text }),
          }
        })
    })
}

/** Puts correcting entries into the outbox. */
export async function putCorrections(
  books: Books,
  runId: string,
  corrections: readonly Correction[],
): Promise<void> {
  const { systems } = await groundsOf(books)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  for (const correction of corrections) {
    const isPut =
      correction.lines.length === 0
        ? await takeBack(books, runId, correction, ledger)
        : await put(books, runId, correction, ledger)
    if (!isPut) throw new Problem('AXION_IN_DOUBT', { why: `It is the correction of ${correction.number}.` })
  }
}

/** A correction that nothing needs any more goes, where the ledger voids. @returns whether there was one that could */
async function takeBack(
  books: Books,
  runId: string,
  { systemId, documentId, number }: Correction,
  ledger: HeldSystem,
): Promise<boolean> {
  if (!ledger.row.about.voids)
    throw new Problem('AXION_NOTHING_TO_DO', {
      what: `take back: ${ledger.row.name} does not void, and the correction of ${number} has to go`,
    })
  const taken = await move(books, 'corrected', {
    to: 'waiting',
    set: `${OUTSET}, run_id = :run, action = 'void', revision = b.revision + 1`,
    where: 'b.external_id = :id and b.ledger_booking_id is not null',
    bindings: { id: externalIdOf(books.entityId, systemId, documentId, 'correction'), run: runId },
  })
  return taken.length > 0
}

/** @returns whether it could be put: one in doubt is left alone */
function put(
  { trx, entityId }: Books,
  runId: string,
  correction: Correction,
  ledger: HeldSystem,
): Promise<boolean> {
  const { systemId, documentId, number, period, currency } = correction
  const externalId = externalIdOf(entityId, systemId, documentId, 'correction')
  return enter(trx, 'corrected', {
    to: 'waiting',
    row: {
      entity_id: entityId,
      external_id: externalId,
      system_id: systemId,
      document_id: documentId,
      number,
      period,
      currency,
      kind: 'correction',
      source_revision: '',
      tax: '0',
      total: '0',
      findings: '[]',
      run_id: runId,
      attempts: 0,
      uncertain_since: null,
      not_before: null,
      reason_code: null,
      reason_facts: null,
      action: 'book',
      request: json(requestOf(externalId, correction, ledger)),
    },
    again: { revision: trx.raw('booking.revision + 1') },
  })
}

function requestOf(
  externalId: string,
  { number, date, currency, exchangeRate, lines }: Correction,
  ledger: HeldSystem,
): BookingRequest {
  const idOf = (accountNumber: string): string => {
    const account = ledger.accounts.find((a) => a.value.number === accountNumber)
    if (!account) throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: accountNumber })
    return account.id
  }
  return {
    externalId,
    number: `${number}-C`.slice(0, 100),
    kind: 'correction',
    postingDate: date,
    currency,
    exchangeRate,
    party: { id: 'correction', name: `Correction of ${number}` },
    receivableAccountId: idOf(lines[0]?.account ?? ''),
    reimbursed: null,
    memo: `Corrects ${number}`,
    pricesIncludeTax: false,
    lines: [],
    taxes: null,
    journal: lines.map(({ account, agency, amount }) => ({
      accountId: idOf(account),
      description: `Corrects ${number}`,
      agencyId: agency === null ? null : (ledger.linkedTo('agency', agency)[0] ?? null),
      debit: formatAmount(amount < 0n ? -amount : 0n, currency),
      credit: formatAmount(amount > 0n ? amount : 0n, currency),
      base: null,
    })),
  }
}
