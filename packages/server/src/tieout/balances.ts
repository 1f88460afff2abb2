import type { Evidence, EvidenceMember, Selector } from '@axion/contract'
import { formatAmount, parseAmount, sum } from '@axion/core'
import type { Books } from '../database/connection.ts'

/** What stands behind an account's balance at the end of a month, or behind all of them. */
export async function balanceMembers(books: Books, month: string, selector: Selector): Promise<Evidence> {
  const { trx, entityId, currency } = books
  const accounts = selector.account === undefined ? null : [selector.account]
  const balances = (await trx('ledger_balance')
    .where({ entity_id: entityId, period: month })
    .modify(
      (q) =>
        void (accounts
          ? q.whereIn('account', accounts)
          : q.whereRaw(
              `(account in (select distinct account from posting_rule where entity_id = ? and kind = 'tax' and upper_inf(recorded)) or account in (select distinct account from tie_member where entity_id = ? and period = ?))`,
              [entityId, entityId, month],
            )),
    )
    .orderBy('account')) as { account: string; opening: string; closing: string }[]
  const text = (amount: bigint): string => formatAmount(amount, currency)
  if (!accounts) {
    const members = balances.map((b): EvidenceMember => ({
      label: b.account,
      detail: 'balance at the end of the month',
      amount: text(BigInt(b.closing)),
      open: { of: 'balance', account: b.account },
    }))
    return {
      kind: 'members',
      selector,
      currency,
      amount: text(sum(balances.map((b) => BigInt(b.closing)))),
      members,
    }
  }
  const booked = await postedTo(books, month, selector.account ?? '')
  const opening = sum(balances.map((b) => BigInt(b.opening)))
  const closing = sum(balances.map((b) => BigInt(b.closing)))
  const unread =
    closing - opening - sum(booked.filter((row) => row.posted === month).map((row) => BigInt(row.amount)))
  const members: EvidenceMember[] = [
    ...(opening === 0n
      ? []
      : [
          { label: 'Opening balance', detail: `on the first of ${month}`, amount: text(opening), open: null },
        ]),
    ...booked
      .filter((row) => row.posted === month && row.amount !== '0')
      .map((row) => memberOf(row, text, selector.account ?? '')),
    ...(unread === 0n
      ? []
      : [
          {
            label: 'Entries not read',
            detail: 'moved the account and are in no journal that was pulled',
            amount: text(unread),
            open: null,
          },
        ]),
  ]
  return { kind: 'members', selector, currency, amount: text(closing), members }
}

interface PostedRow {
  readonly unit: string
  readonly number: string
  readonly party: string
  readonly period: string
  readonly posted: string
  readonly amount: string
}

/** What is booked to an account in a month, or for a month's documents: the two differ where the ledger has a document in another month. */
async function postedTo({ trx, entityId }: Books, month: string, account: string): Promise<PostedRow[]> {
  const { rows } = (await trx.raw(
    `select u.named as unit, u.number, u.party, u.period, f.posted, sum(f.in_base)::bigint as amount from (
       select u.unit_id, f.period as posted, f.in_base from tie_unit u join tax_fact f using (entity_id, unit_id)
         where u.entity_id = :e and u.period = :month and f.voice = 'booked' and f.account = :account
       union all select u.unit_id, f.period, f.in_base from tax_fact f join tie_unit u using (entity_id, unit_id)
         where f.entity_id = :e and f.period = :month and f.voice = 'booked' and f.account = :account and u.period <> :month) f
       join tie_unit u on u.entity_id = :e and u.unit_id = f.unit_id
     group by u.named, u.number, u.party, u.period, f.posted, u.document_date
     order by abs(sum(f.in_base)) desc, u.document_date, u.number`,
    { e: entityId, account, month },
  )) as { rows: PostedRow[] }
  return rows
}

function memberOf(row: PostedRow, text: (amount: bigint) => string, account: string): EvidenceMember {
  return {
    label: row.number,
    detail: row.party,
    amount: text(BigInt(row.amount)),
    open: { of: 'tax', voice: 'booked', unit: row.unit, account },
  }
}

/** The account's balance less its opening and what is booked there of the month's documents: what other months sent here or took, and what nobody read. */
export async function balanceGap(books: Books, month: string, selector: Selector): Promise<Evidence> {
  const { currency } = books
  const account = selector.account ?? ''
  const text = (amount: bigint): string => formatAmount(amount, currency)
  const whole = await balanceMembers(books, month, { of: 'balance', account })
  const unread = whole.kind === 'members' ? whole.members.filter((m) => m.label === 'Entries not read') : []
  const moved = (await postedTo(books, month, account)).filter((row) => row.posted !== row.period)
  const members = [
    ...moved.map((row) => {
      const here = row.posted === month
      return {
        ...memberOf(row, text, account),
        amount: text(here ? BigInt(row.amount) : -BigInt(row.amount)),
        detail: here ? `of ${row.period}, posted here` : `posted in ${row.posted}`,
      }
    }),
    ...unread,
  ]
  return {
    kind: 'members',
    selector,
    currency,
    amount: text(sum(members.map((m) => parseAmount(m.amount, currency)))),
    members,
  }
}
