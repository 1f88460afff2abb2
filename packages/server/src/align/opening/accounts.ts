import type { Account, OpeningAccount, OpeningView, PathView } from '@axion/contract'
import { covers, formatAmount, groupBy, openingStanding, sum, type BaselineIndex } from '@axion/core'
import { loadBaseline } from '../../baseline/load.ts'
import { openingDay, type OpeningDay } from '../../connect/openingDay.ts'
import { leftBefore } from '../../connect/scopeSums.ts'
import type { Books } from '../../database/connection.ts'
import { loadHeld, type HeldSystem } from '../../setUp/held.ts'
import { nameOf, typeName } from '../kinds/accounts.ts'

/** Types of account whose balance is made up of what is still open: owed to somebody, or by somebody. */
const OPEN_TYPES: readonly Account['type'][] = ['receivable', 'current-liability', 'liability']
/** Kinds of amount that are cleared, collected or had back, whatever the type of the account that they go to. */
const OPEN_KINDS: readonly string[] = [
  'receivable',
  'tax',
  'reimbursement',
  'clearing',
  'marketplace-tax',
  'payable',
  'input-tax',
  'use-tax',
]
const OWED_TYPES: readonly Account['type'][] = ['current-liability', 'liability', 'income', 'equity']

/** What makes up the opening of the books, as it is read once for a page. */
export interface Opening {
  readonly day: OpeningDay
  readonly index: BaselineIndex
  readonly ledger: HeldSystem
  /** What each account stood at, credits less debits, by its number; null where the ledger was not asked. */
  readonly trial: ReadonlyMap<string, bigint> | null
}

/** Null where nobody said from when on, or no ledger is connected. */
export async function loadOpening(books: Books): Promise<Opening | null> {
  const { trx, entityId } = books
  const day = await openingDay(books)
  const ledger = (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger')
  if (day === null || !ledger) return null
  const rows = await trx('ledger_balance')
    .where({ entity_id: entityId, system_id: ledger.row.system_id, period: day.day.slice(0, 7) })
    .select('account', 'opening')
  return {
    day,
    index: await loadBaseline(books),
    ledger,
    trial: rows.length === 0 ? null : new Map(rows.map(({ account, opening }) => [account, BigInt(opening)])),
  }
}

/** An amount of an account as it counts there: what is owed on a liability, what is due on what is owned. */
export function onItsSide(type: Account['type'], creditsLessDebits: bigint): bigint {
  return OWED_TYPES.includes(type) ? creditsLessDebits : -creditsLessDebits
}

/** The kinds of amount that rules send to an account on the opening day. */
export function postedTo({ index, day }: Opening, account: string) {
  return index.baseline.postingRules.filter((rule) => rule.account === account && covers(rule.valid, day.day))
}

/** The accounts whose opening balance is made up of what is open, by number. What payouts arrive on is a bank, whose statement says what it holds. */
export function openAccounts(opening: Opening): readonly Account[] {
  return opening.ledger.accounts
    .map(({ value }) => value)
    .filter(({ number, type }) => {
      const kinds = postedTo(opening, number).map(({ kind }) => kind)
      return (
        !kinds.includes('payout') &&
        (OPEN_TYPES.includes(type) || kinds.some((kind) => OPEN_KINDS.includes(kind)))
      )
    })
    .sort((a, b) => (a.number < b.number ? -1 : 1))
}

/** Each of them, with how its list stands to what the ledger has. */
export async function standings(books: Books, opening: Opening): Promise<readonly OpeningAccount[]> {
  const { trx, entityId, currency } = books
  const lists = await trx('opening_list').where({ entity_id: entityId })
  const { rows: sums } = (await trx.raw(
    `select account, count(*)::int as items, sum(amount)::bigint::text as list from opening_item where entity_id = ? group by 1`,
    [entityId],
  )) as { rows: { account: string; items: number; list: string }[] }
  const [listOf, sumOf] = [groupBy(lists, (one) => one.account), groupBy(sums, (one) => one.account)]
  const text = (amount: bigint): string => formatAmount(amount, currency)
  return openAccounts(opening).map(({ number: account, name, type }): OpeningAccount => {
    const [kept] = listOf.get(account) ?? []
    const { items, list } = sumOf.get(account)?.[0] ?? { items: 0, list: '0' }
    const balance = opening.trial === null ? null : onItsSide(type, opening.trial.get(account) ?? 0n)
    const then = kept?.balance == null ? null : BigInt(kept.balance)
    const standing = openingStanding({
      balance,
      list: BigInt(list),
      items,
      then,
      aside: kept?.aside != null,
    })
    return {
      account,
      name,
      type: typeName(type),
      posted: [...new Set(postedTo(opening, account).map((rule) => nameOf(opening.index, rule)))],
      balance: balance === null ? null : text(balance),
      items,
      list: text(BigInt(list)),
      standing,
      then: then === null || then === balance ? null : text(then),
      aside: kept?.aside ?? null,
      keptBy: kept?.kept_by ?? null,
      keptAt: kept?.kept_at.toISOString() ?? null,
    }
  })
}

/** The opening day, and what each account of its kind stood at the evening before. */
export async function openingView(books: Books): Promise<OpeningView> {
  const { currency } = books
  const day = await openingDay(books)
  const opening = await loadOpening(books)
  const trial = opening?.trial ?? null
  return {
    currency,
    day: day?.day ?? null,
    setBy: day?.setBy ?? null,
    ledger: opening?.ledger.row.name ?? null,
    trial:
      trial === null ? null : { accounts: trial.size, sum: formatAmount(sum([...trial.values()]), currency) },
    accounts: opening === null ? [] : await standings(books, opening),
    before: await leftBefore(books, day?.day ?? null),
  }
}

/** Standings that are to be done something about. */
const DUE: readonly OpeningAccount['standing'][] = ['unknown', 'lacking', 'apart', 'moved']

/** Whether a month lies before the books, and how many accounts are not taken over yet; null where nobody said from when on the books stand here. */
export async function openingOf(books: Books, month: string): Promise<PathView['opening']> {
  const opened = await openingDay(books)
  if (opened === null) return null
  const opening = await loadOpening(books)
  const due =
    opening === null ? [] : (await standings(books, opening)).filter(({ standing }) => DUE.includes(standing))
  return { day: opened.day, before: month < opened.day.slice(0, 7), due: due.length }
}
