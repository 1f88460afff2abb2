import { createHash } from 'node:crypto'
import type { WithdrawPreview } from '@axion/contract'
import { absolute, formatAmount, parseAmount } from '@axion/core'
import { inOrder, type Books } from '../database/connection.ts'
import { isCorrection, withDetermination } from '../documents/ids.ts'
import { states } from '../documents/states.ts'
import { type StoredEntry } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { groundsOf } from '../proof/grounds.ts'
import { standingEntries, type TakenBack } from './takeBack.ts'

interface Chosen extends TakenBack {
  readonly unit: string
  readonly party: string
  readonly document_date: string
  readonly tax: string
  readonly total: string
}

/** What withdrawing these documents would take out of the ledger, entry by entry; nothing leaves. What cannot be withdrawn is named with the reason. */
export async function previewWithdrawal(books: Books, units: readonly string[]): Promise<WithdrawPreview> {
  const { systems } = await groundsOf(books)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const chosen = await documentsOf(books, units)
  const lockedThrough = ledger.row.settings?.lockedThrough ?? null
  const weighed = await inOrder(chosen, async (document) => ({
    document,
    entries: await standingEntries(books, document),
  }))
  const unsettled = await unsettledOf(books, units)
  const why = (entries: readonly StoredEntry[], unit: string): string | null => {
    if (unsettled.has(unit)) return 'A booking of it is on its way, or in doubt: it is settled first.'
    if (entries.every((entry) => isCorrection(entry.external_id) || entry.booking_id === null))
      return 'The ledger holds no booking of it.'
    const locked = entries.find((entry) => lockedThrough !== null && entry.posting_date <= lockedThrough)
    return locked
      ? `The ledger is locked through ${lockedThrough}: it can be corrected, not withdrawn.`
      : null
  }
  const out = weighed.filter(({ document, entries }) => why(entries, document.unit) === null)
  const totals = new Map<string, bigint>()
  for (const line of out.flatMap(({ entries }) =>
    entries.flatMap((entry) => entry.value.lines.map((l) => ({ l, value: entry.value }))),
  )) {
    const { l, value } = line
    const [debit, credit] = [
      parseAmount(l.baseDebit ?? l.debit, value.baseCurrency),
      parseAmount(l.baseCredit ?? l.credit, value.baseCurrency),
    ]
    const account = ledger.accountNumber(l.accountId) ?? l.accountId
    totals.set(account, (totals.get(account) ?? 0n) + debit - credit)
  }
  const text = (units_: bigint): string => formatAmount(units_, books.currency)
  return {
    currency: books.currency,
    ledger: ledger.row.name,
    way: ledger.row.about.voids ? 'void' : 'reversal',
    documents: out.map(({ document, entries }) => ({
      unit: document.unit,
      number: document.number,
      party: document.party,
      date: document.document_date,
      entry: entries.map((e) => e.value.number).join(', '),
      tax: text(BigInt(document.tax)),
      total: text(BigInt(document.total)),
    })),
    kept: weighed.flatMap(({ document, entries }) => {
      const reason = why(entries, document.unit)
      return reason === null ? [] : [{ unit: document.unit, number: document.number, why: reason }]
    }),
    journal: [...totals]
      .filter(([, amount]) => amount !== 0n)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([account, amount]) => ({
        account: ledger.accountName(account),
        ...(amount < 0n
          ? { debit: text(absolute(amount)), credit: null }
          : { debit: null, credit: text(amount) }),
      })),
    revision: createHash('sha256')
      .update(
        JSON.stringify(
          out.map(({ document, entries }) => [
            document.unit,
            entries.map((e) => [e.entry_id, e.booking_revision]),
          ]),
        ),
      )
      .digest('base64url'),
  }
}

/** The documents of which something is on its way to the ledger, or in doubt there. */
async function unsettledOf({ trx, entityId }: Books, units: readonly string[]): Promise<ReadonlySet<string>> {
  const { rows } = (await trx.raw(
    `select distinct booking.named as unit from booking
     where entity_id = :e and state in ${states('waiting', 'sending', 'in-doubt')} and booking.named = any(:units)`,
    { e: entityId, units: [...units] },
  )) as { rows: { unit: string }[] }
  return new Set(rows.map((row) => row.unit))
}

/** The documents of a preview, as what takes them back wants them. */
export async function withdrawn(books: Books, { documents }: WithdrawPreview): Promise<TakenBack[]> {
  return documentsOf(
    books,
    documents.map((d) => d.unit),
  )
}

async function documentsOf({ trx, entityId }: Books, units: readonly string[]): Promise<Chosen[]> {
  const { rows } = (await trx.raw(
    `select d.named as unit, d.system_id, d.document_id, d.number, d.period, d.currency, d.party, d.document_date,
       coalesce(t.tax, 0)::text as tax, (coalesce(t.tax, 0) + coalesce(n.net, 0))::text as total from source_document d
     ${withDetermination('d')}
     left join lateral (select sum(in_base) as tax from tax_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated') t on true
     left join lateral (select sum(in_base) as net from net_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated') n on true
     where d.entity_id = :e and d.named = any(:units) order by d.document_date, d.number`,
    { e: entityId, units: [...units] },
  )) as { rows: Chosen[] }
  return rows
}
