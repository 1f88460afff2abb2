import { say, type PostListQuery, type PostView } from '@axion/contract'
import { absolute, formatAmount, groupBy } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { notPostedOf } from '../documents/notPosted.ts'
import { choicesOf } from '../lists/choices.ts'
import { foundIn, pageOf } from '../lists/list.ts'
import { connectedSystems } from '../setUp/held.ts'
import { countsOf, postList, postRow, recordsOf } from './list.ts'
import { restoredView } from './restored.ts'

/** What became of each document of a month, and what holds posting up. */
export async function postView(
  books: Books,
  month: string,
  query: PostListQuery,
): Promise<Omit<PostView, 'blocking' | 'unchecked'>> {
  const { currency } = books
  const { states, remarked } = await countsOf(books, month)
  const { units, next } = await pageOf(books, postList(month, query), query)
  const rows = await recordsOf(books, units)
  const text = (units: string): string => formatAmount(BigInt(units), currency)
  return {
    currency,
    counts: Object.fromEntries(states.map(({ state, n }) => [state, n])),
    ledger: await ledgerOf(books),
    restored: await restoredView(books),
    reasons: await reasonsOf(books, month),
    tax: Object.fromEntries(states.map(({ state, tax }) => [state, text(tax)])),
    remarked: { documents: remarked.n, tax: text(remarked.tax) },
    notPosted: await notPostedOf(books, month),
    choices: await choicesOf(books, month),
    rows: rows.map((row) => postRow(row, currency)),
    next,
  }
}

async function ledgerOf(books: Books): Promise<PostView['ledger']> {
  const ledger = (await connectedSystems(books)).find((system) => system.role === 'ledger')
  const address = ledger?.about.webAddress ?? null
  return ledger && address !== null ? { name: ledger.name, address } : null
}

/** Documents that could not be posted, by reason, most money first: one thing to mend, and how much waits for it. */
async function reasonsOf(books: Books, month: string): Promise<PostView['reasons']> {
  const { currency } = books
  const rows = await recordsOf(
    books,
    await foundIn(books, postList(month, { state: 'failed,in-doubt,blocked' })),
  )
  const refusals = rows.map((row) => {
    const blocking = row.state === 'blocked' ? row.findings?.find((remark) => remark.blocks) : undefined
    const code = row.reason_code ?? blocking?.code ?? 'AXION_RUN_FAILED'
    return { row, code, ...say(code, withoutDocument(row.reason_facts ?? blocking?.facts ?? {})) }
  })
  const groups = groupBy(refusals, ({ row, code, says }) => `${row.state}|${code}|${says}`)
  return [...groups.values()]
    .flatMap((group) => {
      const [first] = group
      const tax = group.reduce((sum, { row }) => sum + absolute(BigInt(row.tax)), 0n)
      return first
        ? [
            {
              code: first.code,
              says: first.says,
              mend: first.mend,
              documents: group.length,
              tax,
              state: first.row.state,
            },
          ]
        : []
    })
    .sort((a, b) => (b.tax === a.tax ? b.documents - a.documents : b.tax > a.tax ? 1 : -1))
    .map((reason) => ({ ...reason, tax: formatAmount(reason.tax, currency) }))
}

function withoutDocument({ document: _one, ...facts }: Record<string, string>): Record<string, string> {
  return facts
}
