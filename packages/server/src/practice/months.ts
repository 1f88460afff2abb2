import type { MonthsView, PracticeView } from '@axion/contract'
import { formatAmount, monthBefore } from '@axion/core'
import { awaitedSystems } from '../connect/awaited.ts'
import { openingDay } from '../connect/openingDay.ts'
import type { Books } from '../database/connection.ts'
import { NOT_POSTED } from '../documents/notPosted.ts'
import { olderSince } from '../proof/due.ts'
import { connectedSystems } from '../setUp/held.ts'
import { restingMonths } from '../tieout/ownWord.ts'

/** So many months back are offered though nothing stands in them. */
const MONTHS_BACK = 3

/** Every month between the first that holds anything, or the one that the books open with, and the one that runs today, newest first, with what is not proved and what stands apart in it. */
export async function monthsView(books: Books, today: string): Promise<MonthsView> {
  const { trx, entityId, currency } = books
  const { rows } = (await trx.raw(
    `select period, sum(unproved)::bigint::text as unproved, sum(unproved_net)::bigint::text as net, coalesce(sum(documents) filter (where is_open), 0)::int as documents,
       coalesce(sum(documents) filter (where settled <> ''), 0)::int as apart, bool_or(posted) as posted, coalesce(sum(documents) filter (where ${NOT_POSTED.all('u')}), 0)::int as not_yet
     from unit_sum u where entity_id = :e group by period order by period`,
    { e: entityId },
  )) as {
    rows: {
      period: string
      unproved: string
      net: string
      documents: number
      apart: number
      posted: boolean
      not_yet: number
    }[]
  }
  const awaited = await awaitedSystems(books, await connectedSystems(books))
  const older = await olderSince(books)
  const resting = await restingMonths(books)
  const found = new Map(rows.map((row) => [row.period, row]))
  const now = today.slice(0, 7)
  const last = [now, ...found.keys()].sort().at(-1) ?? now
  const held = [monthsBefore(now, MONTHS_BACK), ...found.keys()].sort()[0] ?? now
  // What is before the opening day is read for reference, and no month of the books; but for what was booked before somebody said so, and is open.
  const opens = (await openingDay(books))?.day.slice(0, 7) ?? held
  const first =
    [last, [held, opens].sort()[1] ?? held, ...rows.filter(isOpen).map(({ period }) => period)].sort()[0] ??
    held
  const months: MonthsView['months'][number][] = []
  for (let month = last; month >= first; month = monthBefore(month)) {
    const row = found.get(month)
    const open = row && isOpen(row)
    months.push({
      month,
      // Nobody says that they are proved of receipts and bills, or of a month before a change that is still to be.
      state:
        !row?.posted || awaited.length > 0
          ? 'nothing'
          : open
            ? 'open'
            : older === null
              ? 'proved'
              : 'nothing',
      unproved: formatAmount(BigInt(row?.unproved ?? '0'), currency),
      documents: row?.documents ?? 0,
      apart: row?.apart ?? 0,
      notYet: row?.not_yet ?? 0,
      resting: resting(month),
    })
  }
  return { currency, before: monthBefore(now), months }
}

function isOpen(row: {
  readonly unproved: string
  readonly net: string
  readonly documents: number
}): boolean {
  return row.unproved !== '0' || row.net !== '0' || row.documents > 0
}

function monthsBefore(month: string, n: number): string {
  return n === 0 ? month : monthsBefore(monthBefore(month), n - 1)
}

/** The months of several legal entities as one list, with how many of them are in which state. */
export function monthsOfAll(all: readonly MonthsView['months'][]): PracticeView['months'] {
  const found = new Map<string, { nothing: number; open: number; proved: number; resting: number }>()
  for (const { month, state, resting } of all.flat()) {
    const counts = found.get(month) ?? { nothing: 0, open: 0, proved: 0, resting: 0 }
    counts[state]++
    if (state === 'proved' && resting) counts.resting++
    found.set(month, counts)
  }
  return [...found].sort(([a], [b]) => b.localeCompare(a)).map(([month, counts]) => ({ month, ...counts }))
}
