import type { CloseRow, CloseView } from '@axion/contract'
import { formatAmount, sum } from '@axion/core'
import { awaitedSystems } from '../connect/awaited.ts'
import { notFresh } from '../connect/fresh.ts'
import type { Books } from '../database/connection.ts'
import type { Columns } from '../database/row.ts'
import { notPostedOf } from '../documents/notPosted.ts'
import { unitSums } from '../documents/unitSums.ts'
import { causesOf } from './causes.ts'
import { groundsOf, type Grounds } from '../proof/grounds.ts'
import { keptSums } from './kept.ts'
import { monthResting } from './ownWord.ts'

interface SummedRow {
  readonly agency: string | null
  readonly account: string | null
  readonly stated: string | null
  readonly expected: string | null
  readonly booked: string | null
  readonly unsplit: string | null
  readonly unproved: string | null
  readonly stated_over: string | null
  readonly stated_under: string | null
  readonly booked_over: string | null
  readonly booked_under: string | null
}

const POINTS = 12

/** The close sheet: one row an agency and liability account, each amount the sum of the same rows as the tie-out's. */
export async function closeSheet(books: Books, month: string): Promise<CloseView> {
  const { trx, entityId, currency } = books
  const grounds = await groundsOf(books)
  const systems = grounds.systems.map((s) => s.row)
  const balances = new Map(
    (await trx('ledger_balance').where({ entity_id: entityId, period: month })).map((b) => [b.account, b]),
  )
  const awaits = await awaitedSystems(books, systems)
  const summed = withRules(await summedRows(books, month), grounds.index.baseline.postingRules)
  const text = (units: bigint): string => formatAmount(units, currency)
  const total = (of: (row: SummedRow) => string | null): string =>
    text(sum(summed.map((row) => big(of(row)))))
  const accounts = [...new Set(summed.map((r) => r.account ?? ''))]
  return {
    currency,
    awaits,
    notFresh: await notFresh(books, systems),
    pulledAt: await pulledAt(books),
    ...(await headOf(books, month)),
    expected: total((r) => r.expected),
    kept: await keptSums(books, month),
    notPosted: await notPostedOf(books, month),
    resting: await monthResting(books, month),
    rows: closeRows({ grounds, awaits, balances }, summed),
    causes: await firstUnits(grounds, month),
    totals: {
      stated: total((r) => r.stated),
      expected: total((r) => r.expected),
      booked: total((r) => r.booked),
      unproved: total((r) => r.unproved),
      balance: text(sum(accounts.map((account) => big(balances.get(account)?.closing ?? null)))),
    },
    history: await historyOf(books, month),
  }
}

function big(value: string | null): bigint {
  return BigInt(value ?? '0')
}

async function summedRows({ trx, entityId }: Books, month: string): Promise<SummedRow[]> {
  const { rows } = (await trx.raw(
    `select agency, account, sum(stated) as stated, sum(expected) as expected, sum(booked) as booked, sum(unsplit) as unsplit, sum(unproved) as unproved,
       sum(stated_over) as stated_over, sum(stated_under) as stated_under, sum(booked_over) as booked_over, sum(booked_under) as booked_under from (
       select nullif(agency, '') as agency, nullif(account, '') as account, case when stated_members > 0 then stated end as stated, expected, booked, case when unsplit_members > 0 then unsplit end as unsplit,
         null::numeric as unproved, stated_over, stated_under, booked_over, booked_under
         from tie_total where entity_id = :entityId and period = :month and members > 0
       union all
       select s.agency, s.account, null, null, null, null, s.tax, null, null, null, null from open_share s join tie_unit u using (entity_id, unit_id) where s.entity_id = :entityId and u.period = :month
     ) x group by agency, account order by account nulls last, agency nulls last`,
    { entityId, month },
  )) as { rows: SummedRow[] }
  return rows
}

interface Beside {
  readonly grounds: Grounds
  /** Systems whose last pull was not good yet, by name. */
  readonly awaits: readonly string[]
  readonly balances: ReadonlyMap<string, Columns<'ledger_balance', 'opening' | 'closing'>>
}

/** The rows with names and the ledger's balance; an account that agencies share has its balance once. */
function closeRows({ grounds, awaits, balances }: Beside, summed: readonly SummedRow[]): CloseRow[] {
  const { index, systems, currency } = grounds
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const ledgerPulled = ledger !== undefined && !awaits.includes(ledger.row.name)
  const text = (units: bigint): string => formatAmount(units, currency)
  return summed.map((row, at) => {
    const sharing = summed.filter((other) => other.account !== null && other.account === row.account)
    const first = row.account !== null && summed.findIndex((other) => other.account === row.account) === at
    const balance = balances.get(row.account ?? '')
    const closing = big(balance?.closing ?? null)
    const gap = closing - big(balance?.opening ?? null) - sum(sharing.map((r) => big(r.booked)))
    return {
      agency: row.agency,
      agencyName: row.agency === null ? 'No agency named' : (index.agency(row.agency)?.name ?? row.agency),
      account: row.account,
      accountName: ledger?.accounts.find((a) => a.value.number === row.account)?.value.name ?? '',
      stated: row.stated === null && row.unsplit !== null ? null : text(big(row.stated)),
      unsplit: text(big(row.unsplit)),
      expected: text(big(row.expected)),
      booked: ledgerPulled ? text(big(row.booked)) : null,
      balance: ledgerPulled && first ? text(closing) : null,
      balanceGap: text(first ? gap : 0n),
      sharesAccount: sharing.length > 1,
      unproved: text(big(row.unproved)),
      statedApart: { over: text(big(row.stated_over)), under: text(big(row.stated_under)) },
      bookedApart: { over: text(big(row.booked_over)), under: text(big(row.booked_under)) },
    }
  })
}

async function pulledAt({ trx, entityId }: Books): Promise<string | null> {
  const last = (await trx('pull')
    .where({ entity_id: entityId, ended: true })
    .whereNull('problem')
    .max('finished_at as at')
    .first()) as { at: Date | null } | undefined
  return last?.at?.toISOString() ?? null
}

async function headOf(
  books: Books,
  month: string,
): Promise<Pick<CloseView, 'unproved' | 'unprovedNet' | 'documents'>> {
  const { unproved, net, open } = await unitSums(books, month)
  return {
    unproved: formatAmount(BigInt(unproved), books.currency),
    unprovedNet: formatAmount(BigInt(net), books.currency),
    documents: open,
  }
}

/** Every agency with a posting rule has its row, though nothing was sold there. */
function withRules(
  rows: readonly SummedRow[],
  rules: readonly { readonly kind: string; readonly agencyId: string | null; readonly account: string }[],
): SummedRow[] {
  const lacking = rules.filter(
    (rule) =>
      rule.kind === 'tax' &&
      !rows.some((row) => row.agency === rule.agencyId && row.account === rule.account),
  )
  const nil = {
    stated: null,
    expected: null,
    booked: null,
    unsplit: null,
    unproved: null,
    stated_over: null,
    stated_under: null,
    booked_over: null,
    booked_under: null,
  }
  return [...rows, ...lacking.map((rule) => ({ agency: rule.agencyId, account: rule.account, ...nil }))].sort(
    (a, b) => ((a.account ?? '~') < (b.account ?? '~') ? -1 : 1),
  )
}

/** For each cause the document that shows it best: the one with the most money. */
async function firstUnits(grounds: Grounds, month: string): Promise<CloseView['causes']> {
  const { rows } = (await grounds.trx.raw(
    `select distinct on (u.cause) u.cause, u.named, s.agency from tie_unit u left join open_share s on s.entity_id = u.entity_id and s.unit_id = u.unit_id
     where u.entity_id = ? and u.period = ? and not u.proved and u.cause is not null order by u.cause, s.tax desc nulls last, u.number`,
    [grounds.entityId, month],
  )) as { rows: { cause: string; named: string; agency: string | null }[] }
  const first = new Map(rows.map((row) => [row.cause, row]))
  return (await causesOf(grounds, month)).flatMap(({ key, unproved }) => {
    const unit = first.get(key)
    return unit ? [{ key, unit: unit.named, agency: unit.agency, unproved }] : []
  })
}

async function historyOf({ trx, entityId, currency }: Books, month: string): Promise<CloseView['history']> {
  const rows = await trx('unproved_history')
    .where({ entity_id: entityId, period: month })
    .orderBy('at', 'desc')
    .limit(POINTS)
  return rows.reverse().map(({ at, unproved, expected }) => ({
    at: at.toISOString(),
    unproved: formatAmount(BigInt(unproved), currency),
    // A bar's height, in thousandths of the expected tax: a length to draw, not money.
    share: Number(BigInt(expected) === 0n ? 0n : (BigInt(unproved) * 1000n) / BigInt(expected)) / 1000,
  }))
}
