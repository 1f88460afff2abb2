import type { OpeningAccount, OpeningItem, OpeningListView } from '@axion/contract'
import { formatAmount, parseAmount, sum } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import type { Books } from '../../database/connection.ts'
import { insertRows } from '../../database/insert.ts'
import { Problem } from '../../faults/problem.ts'
import { loadOpening, standings, type Opening } from './accounts.ts'
import { proposedFor } from './proposed.ts'

/** The opening and one of its accounts. @throws AXION_NO_OPENING_DAY, AXION_NOT_FOUND */
async function opened(
  books: Books,
  account: string,
): Promise<{ readonly opening: Opening; readonly row: OpeningAccount }> {
  const opening = await loadOpening(books)
  if (opening === null) throw new Problem('AXION_NO_OPENING_DAY')
  const row = (await standings(books, opening)).find((one) => one.account === account)
  if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such account that is taken over' })
  return { opening, row }
}

export async function listView(books: Books, account: string): Promise<OpeningListView> {
  const { opening, row } = await opened(books, account)
  return {
    currency: books.currency,
    day: opening.day.day,
    account: row,
    items: await itemsOf(books, account),
    ...(await proposedFor(books, opening, row)),
  }
}

export async function itemsOf(
  { trx, entityId, currency }: Books,
  account: string,
): Promise<readonly OpeningItem[]> {
  const rows = (await trx('opening_item')
    .where({ entity_id: entityId, account })
    .orderBy('item_no')
    .select('reference', 'party', trx.raw('day::text as date'), 'amount')) as {
    reference: string
    party: string
    date: string | null
    amount: string
  }[]
  return rows.map(({ amount, ...item }) => ({ ...item, amount: formatAmount(BigInt(amount), currency) }))
}

/**
 * Takes an account over with the list that makes it up; an empty list takes back what was kept.
 * @throws AXION_NOT_AN_AMOUNT, AXION_NOT_OPEN_THEN of a line from the opening day on, AXION_TWICE_IN_LIST
 */
export async function keepList(
  books: Books,
  person: string,
  { account, items }: { readonly account: string; readonly items: readonly OpeningItem[] },
): Promise<void> {
  const { trx, entityId, currency } = books
  const { opening, row } = await opened(books, account)
  requireLines(items, opening.day.day)
  const lines = items.map((item, at) => ({
    entity_id: entityId,
    account,
    item_no: at + 1,
    reference: item.reference,
    party: item.party,
    day: item.date,
    amount: parseAmount(item.amount, currency).toString(),
  }))
  await trx('opening_list').where({ entity_id: entityId, account }).delete()
  if (lines.length > 0) {
    await keep(books, person, { row, aside: null })
    await insertRows(trx, 'opening_item', lines)
  }
  await audit(trx, 'took-over-account', `${account} ${row.name}`, {
    before: { lines: row.items, amount: row.list },
    after: {
      lines: lines.length,
      amount: formatAmount(sum(lines.map(({ amount }) => BigInt(amount))), currency),
      ledger: row.balance,
    },
  })
}

/** Says why an account needs no list, or takes that back. What was kept as its list goes. */
export async function keepAside(
  books: Books,
  person: string,
  { account, why }: { readonly account: string; readonly why: string | null },
): Promise<void> {
  const { trx, entityId } = books
  const { row } = await opened(books, account)
  await trx('opening_list').where({ entity_id: entityId, account }).delete()
  if (why !== null) await keep(books, person, { row, aside: why })
  await audit(trx, 'left-opening', `${account} ${row.name}`, {
    before: { aside: row.aside, lines: row.items },
    after: { aside: why, ledger: row.balance },
  })
}

function keep(
  { trx, entityId, currency }: Books,
  person: string,
  { row, aside }: { readonly row: OpeningAccount; readonly aside: string | null },
): Promise<unknown> {
  return trx('opening_list').insert({
    entity_id: entityId,
    account: row.account,
    balance: row.balance === null ? null : parseAmount(row.balance, currency).toString(),
    aside,
    kept_by: person,
  })
}

/** What was open the evening before is from before; and nothing is open twice. */
function requireLines(items: readonly OpeningItem[], day: string): void {
  const seen = new Set<string>()
  items.forEach(({ reference, party, date, amount }, at) => {
    if (date !== null && date >= day)
      throw new Problem('AXION_NOT_OPEN_THEN', { line: String(at + 1), reference, date, day })
    const key = JSON.stringify([reference, party, date, amount])
    if (seen.has(key)) throw new Problem('AXION_TWICE_IN_LIST', { line: String(at + 1), reference })
    seen.add(key)
  })
}
