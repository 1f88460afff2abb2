import type { AgreedPreview } from '@axion/contract'
import { formatAmount, groupBy, sum, type BaselineIndex } from '@axion/core'
import type { Books } from '../../database/connection.ts'
import { canonical, json } from '../../database/json.ts'
import { familiesOf } from '../../documents/families.ts'
import { nameOf } from '../../documents/ids.ts'
import { storedOf } from '../../documents/newest.ts'
import { inBaseCurrency, sourceUnit, type StoredDocument } from '../../documents/units.ts'
import { differingBookings } from '../../post/differing.ts'
import { groundsOf, type Grounds } from '../../proof/grounds.ts'
import { restingOtherwise } from '../../proof/restsOn.ts'

/** So many of the documents that rest on a change, the newest, are worked out before it is made. */
const MOST_WORKED = 2000

type Effect = Pick<AgreedPreview, 'currency' | 'rest' | 'worked' | 'months' | 'booked'>

/**
 * What a change of the baseline would do to each month: it is made, looked at, and taken back. Nothing is kept.
 * @param write makes the change in the books that it is given
 */
export async function effectOf(books: Books, write: (tried: Books) => Promise<void>): Promise<Effect> {
  const before = await groundsOf(books)
  const savepoint = await books.trx.transaction()
  const tried = { ...books, trx: savepoint }
  try {
    await write(tried)
    return await between(before, await groundsOf(tried), tried)
  } finally {
    await savepoint.rollback()
  }
}

interface Resting {
  readonly system_id: string
  readonly id: string
  readonly named: string
  readonly month: string
  readonly proved: boolean
}

async function between(before: Grounds, after: Grounds, books: Books): Promise<Effect> {
  const { documents } = await restingOtherwise(books)
  const { trx, entityId, currency } = books
  const { rows: resting } = (await trx.raw(
    `select d.system_id, d.document_id as id, u.named, u.period as month, u.proved from unit u
       join document d on d.entity_id = u.entity_id and d.named = u.named
     where u.entity_id = :e and u.named = any(:named) and u.taken and not u.voided order by u.document_date desc, u.named`,
    { e: entityId, named: [...documents] } as never,
  )) as { rows: Resting[] }
  const worked = resting.slice(0, MOST_WORKED)
  const differing = await differingOf(books, worked, [before, after])
  const which = { documents: worked.map(({ named }) => named) }
  const elsewhere = await differingBookings(books, which, after.index)
  const already = new Set(
    (await differingBookings(books, which, before.index)).map(({ externalId }) => externalId),
  )
  const units = (texts: readonly (bigint | null)[]): string =>
    formatAmount(sum(texts.map((one) => one ?? 0n)), currency)
  return {
    currency,
    rest: resting.length,
    worked: worked.length,
    booked: elsewhere.filter(({ externalId }) => !already.has(externalId)).length,
    months: [...groupBy(resting, ({ month }) => month)]
      .map(([month, all]) => {
        const own = differing.filter((one) => one.month === month)
        const both = own.filter((one) => one.before !== null && one.after !== null)
        return {
          month,
          rest: all.length,
          differ: own.length,
          proved: own.filter((one) => one.proved).length,
          known: own.filter((one) => one.before === null && one.after !== null).length,
          unknown: own.filter((one) => one.before !== null && one.after === null).length,
          before: units(both.map((one) => one.before)),
          after: units(both.map((one) => one.after)),
        }
      })
      .sort((a, b) => b.month.localeCompare(a.month)),
  }
}

interface Differing extends Resting {
  /** The tax that is expected, in the base currency; null where it is not known. */
  readonly before: bigint | null
  readonly after: bigint | null
}

/** Documents of which something is expected otherwise under one set-up than under the other: a tax, whose it is, or where it is owed. */
async function differingOf(
  books: Books,
  worked: readonly Resting[],
  both: readonly [Grounds, Grounds],
): Promise<Differing[]> {
  const stored = await storedOf(books, worked)
  const families = await familiesOf(books, stored)
  const found = new Map(stored.map((one) => [nameOf(one), one]))
  return worked.flatMap((one) => {
    const document = found.get(one.named)
    if (!document) return []
    const [was, is] = both.map((grounds) => expectedOf(document, grounds, families)) as [Expected, Expected]
    return was.text === is.text ? [] : [{ ...one, before: was.tax, after: is.tax }]
  })
}

interface Expected {
  readonly text: string
  readonly tax: bigint | null
}

function expectedOf(
  stored: StoredDocument,
  { systems, index, currency }: Pick<Grounds, 'systems' | 'currency'> & { readonly index: BaselineIndex },
  families: Awaited<ReturnType<typeof familiesOf>>,
): Expected {
  const system = systems.find(({ row }) => row.system_id === stored.system_id)
  if (!system) return { text: '', tax: null }
  const { determination, expected, document } = sourceUnit(
    stored,
    system,
    { index, currency },
    families(stored),
  )
  const facts = expected.facts.map(({ source: _source, ...fact }) => fact)
  const text = [...facts, ...expected.nets].map((fact) => canonical(JSON.parse(json(fact)))).sort()
  return {
    text: `${determination.complete} ${text.join(' ')}`,
    tax: determination.complete ? sum(inBaseCurrency(expected, document.exchange).facts) : null,
  }
}
