import { kindsWith, type OpeningAccount, type OpeningItem, type OpeningListView } from '@axion/contract'
import {
  currencyDigits,
  formatAmount,
  groupBy,
  newestComingTo,
  parseAmount,
  POSTED_BY_AGENCY,
  sum,
} from '@axion/core'
import { totalInBase } from '../../connect/scopeSums.ts'
import type { Books } from '../../database/connection.ts'
import { loadHeld } from '../../setUp/held.ts'
import { onItsSide, postedTo, type Opening } from './accounts.ts'

/** So many of the newest entries on an account are looked at. */
const LOOKED_AT = 20_000
/** A proposal of more lines than that is nothing that somebody looks through. */
const MOST_PROPOSED = 1_000

interface Line extends Omit<OpeningItem, 'amount'> {
  readonly amount: bigint
}
interface Entry extends Line {
  /** It takes off what is open by what left or reached a bank: what remains is made up of the others. */
  readonly pays: boolean
}
type Proposed = Pick<OpeningListView, 'proposed' | 'read'>

/**
 * The list that is proposed for an account: documents that were open, where it is what customers owe or suppliers are owed; else the newest
 * entries that come to the balance exactly, month by month where tax is owed there. Nothing is kept of it.
 */
export async function proposedFor(books: Books, opening: Opening, row: OpeningAccount): Promise<Proposed> {
  const { currency } = books
  const kinds = new Set(postedTo(opening, row.account).map(({ kind }) => kind))
  const entries = await entriesOn(books, opening, row.account)
  const read =
    entries.length > LOOKED_AT ? null : formatAmount(sum(entries.map(({ amount }) => amount)), currency)
  const of = (
    from: 'documents' | 'months' | 'entries',
    lines: readonly Line[] | null,
  ): Proposed['proposed'] =>
    lines === null || lines.length === 0 || lines.length > MOST_PROPOSED
      ? null
      : {
          from,
          items: lines.map(({ amount, ...item }) => ({ ...item, amount: formatAmount(amount, currency) })),
          sum: formatAmount(sum(lines.map(({ amount }) => amount)), currency),
        }
  const balance = row.balance === null ? 0n : parseAmount(row.balance, currency)
  if (kinds.has('receivable') || kinds.has('payable')) {
    const owed = kinds.has('payable')
    const documents = await openDocuments(books, opening, { account: row.account, owed })
    // What a system calls open may lack a part payment, or what was owed before it: then the journal may know better.
    if (documents.length > 0 && sum(documents.map(({ amount }) => amount)) === balance)
      return { proposed: of('documents', documents), read }
  }
  if (balance === 0n) return { proposed: null, read }
  const charged = entries.filter(({ pays }) => !pays)
  const byMonth = POSTED_BY_AGENCY.some((kind) => kinds.has(kind))
    ? firstComingTo([monthsOf(charged, row.name), monthsOf(entries, row.name)], balance)
    : null
  return {
    proposed:
      byMonth === null ? of('entries', firstComingTo([charged, entries], balance)) : of('months', byMonth),
    read,
  }
}

function firstComingTo(ways: readonly (readonly Line[])[], balance: bigint): readonly Line[] | null {
  for (const lines of ways) {
    const found = newestComingTo(lines, balance)
    if (found !== null)
      return found.map(({ reference, party, date, amount }) => ({ reference, party, date, amount }))
  }
  return null
}

/** What entries from before the day did on an account, the newest first: a line an entry. */
async function entriesOn(
  { trx, entityId, currency }: Books,
  { day, ledger }: Opening,
  account: string,
): Promise<readonly Entry[]> {
  const held = ledger.accounts.find(({ value }) => value.number === account)
  if (!held) return []
  const banks = ledger.accounts.filter(({ value }) => value.type === 'bank').map(({ id }) => id)
  const { rows } = (await trx.raw(
    `select number as reference, memo as party, day::text as date, amount::text, banked from (
       select e.value->>'number' as number, e.value->>'memo' as memo, e.posting_date as day, e.entry_id,
         (select sum(coalesce(l->>'baseCredit', l->>'credit')::numeric - coalesce(l->>'baseDebit', l->>'debit')::numeric) from jsonb_array_elements(e.value->'lines') l where l->>'accountId' = :id) as amount,
         exists (select from jsonb_array_elements(e.value->'lines') l where l->>'accountId' = any(:banks)) as banked
       from ledger_entry e where e.entity_id = :e and e.system_id = :s and e.posting_date < :day::date and not e.voided and e.value @> jsonb_build_object('lines', jsonb_build_array(jsonb_build_object('accountId', :id::text)))
       order by e.posting_date desc, e.entry_id desc limit :most) x
     where amount <> 0 order by day desc, entry_id desc`,
    { e: entityId, s: ledger.row.system_id, day: day.day, id: held.id, banks, most: LOOKED_AT + 1 } as never,
  )) as { rows: { reference: string; party: string; date: string; amount: string; banked: boolean }[] }
  return rows.map(({ amount: text, banked, ...line }) => {
    const amount = onItsSide(held.value.type, unitsOf(text, currency))
    return { ...line, amount, pays: banked && amount < 0n }
  })
}

/** A sum of amounts as PostgreSQL writes it, which may have more trailing digits than the currency. */
function unitsOf(text: string, currency: string): bigint {
  const [whole = '0', fraction = ''] = text.split('.')
  const digits = fraction.slice(0, currencyDigits(currency))
  return parseAmount(digits === '' ? whole : `${whole}.${digits}`, currency)
}

/** The same, a line a month. */
function monthsOf(entries: readonly Line[], name: string): readonly Line[] {
  return [...groupBy(entries, ({ date }) => (date ?? '').slice(0, 7))].map(([month, lines]) => ({
    reference: month,
    party: name,
    date: lines[0]?.date ?? null,
    amount: sum(lines.map(({ amount }) => amount)),
  }))
}

/** Documents from before the day that were open then: without a payment, or paid later. */
async function openDocuments(
  books: Books,
  { day, index }: Opening,
  { account, owed }: { readonly account: string; readonly owed: boolean },
): Promise<readonly Line[]> {
  const { trx, entityId, currency } = books
  const kinds = kindsWith(({ posted, purchase }) => (owed ? purchase : posted && !purchase))
  const { rows } = (await trx.raw(
    `select system_id as system, number as reference, party, day::text as date, total::text as amount, buyer from (
       select d.system_id, d.number, d.party, d.document_date as day, d.document_id as id, d.value->'party'->>'id' as buyer, ${totalInBase('d.value', 'd.kind')}
       from document d where d.entity_id = :e and d.document_date < :day::date and d.kind = any(:kinds) and d.status not in ('draft', 'void')
         and (d.value->>'paymentDate' >= :day or d.value->>'paymentDate' is null and d.status = 'open')) x
     where total is not null order by day, number, id limit :most`,
    {
      e: entityId,
      day: day.day,
      kinds: [...kinds],
      currency,
      digits: currencyDigits(currency),
      most: MOST_PROPOSED + 1,
    } as never,
  )) as {
    rows: {
      reference: string
      party: string
      date: string
      amount: string
      system: string
      buyer: string | null
    }[]
  }
  const systems = await loadHeld(books, ['parties'])
  const partyOf = (systemId: string, id: string | null): string | null =>
    id === null ? null : (systems.find(({ row }) => row.system_id === systemId)?.partyOf(id) ?? id)
  const kind = owed ? 'payable' : 'receivable'
  return rows
    .filter(
      ({ system, buyer }) =>
        index.postingRuleFor(kind, { party: partyOf(system, buyer) }, day.day)?.account === account,
    )
    .map(({ reference, party, date, amount }) => ({ reference, party, date, amount: BigInt(amount) }))
}
