import { say, type BookingState, type Foretold, type PostingPreview } from '@axion/contract'
import { formatAmount, groupBy, type Facts } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { nameOf, withDetermination } from '../documents/ids.ts'
import { OF_A_DOCUMENT, states, VOIDED_THERE } from '../documents/states.ts'
import type { StoredDocument } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { loadHeld, type HeldSystem } from '../setUp/held.ts'
import { FORETOLD, FORETOLD_PREFIX } from './foretell.ts'
import { compose } from './rehearse.ts'
import type { Remark } from './remark.ts'

/** SQL, of a booking `b`: it has a remark beside what is foretold, which has a list of its own. */
const REMARKED = `exists (select from jsonb_array_elements(b.findings) f where not starts_with(f->>'code', '${FORETOLD_PREFIX}'))`
/** SQL, of a booking `b`: a posting sends it. */
const GOES = `b.state in ${states('rehearsed', 'waiting', 'sending')}`
const BLOCKED = `b.state in ${states('blocked')}`
/** SQL: bookings `b` of chosen documents. */
const CHOSEN = `b.entity_id = :entity and ${OF_A_DOCUMENT} and b.named = any(:units)`
/** SQL: what a document of a booking `b` states, in the base currency. */
const STATED = [
  withDetermination('b'),
  ...['tax', 'net'].map(
    (which) =>
      `left join lateral (select coalesce(sum(f.in_base), 0) as units from ${which}_fact f where f.entity_id = b.entity_id and f.unit_id = own.unit_id and f.voice = 'stated') ${which} on true`,
  ),
].join(' ')

/** Documents of a posting: what is chosen, and who asks. */
export interface Chosen {
  readonly documents: readonly (StoredDocument & { readonly state: BookingState | null })[]
  readonly person: string
}

/** Composes the chosen anew, so that what was mended since counts; what stands in the outbox goes on as it is. */
export async function composeChosen(books: Books, { documents, person }: Chosen): Promise<void> {
  await compose(
    books,
    documents.filter((d) => d.state !== 'waiting' && d.state !== 'sending'),
    person,
  )
}

/**
 * What posting these documents would move: tax and total, whose books, and each account. They are composed
 * as a posting composes them, looked at, and all is taken back: nothing is kept, and nothing leaves.
 */
export async function previewPosting(books: Books, chosen: Chosen): Promise<PostingPreview> {
  const ledger = (await loadHeld(books)).find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const of = { entity: books.entityId, units: unitsOf(chosen) }
  const voided = (await books.trx.raw(
    `select count(*)::int as n from booking b where ${CHOSEN} and ${VOIDED_THERE}`,
    of,
  )) as { rows: { n: number }[] }
  const savepoint = await books.trx.transaction()
  const tried = { ...books, trx: savepoint }
  try {
    await composeChosen(tried, chosen)
    return {
      ...(await sumsOf(tried, of)),
      foretold: await foretoldOf(tried, of),
      accounts: await accountsOf(tried, of, ledger),
      currency: books.currency,
      ledger: ledger.row.name,
      company: ledger.row.about.company.name,
      voidedThere: voided.rows[0]?.n ?? 0,
      revision: await postingRevision(tried, chosen),
    }
  } finally {
    await savepoint.rollback()
  }
}

interface Of {
  readonly entity: string
  readonly units: readonly string[]
}

function unitsOf({ documents }: Chosen): string[] {
  return documents.map(nameOf)
}

/** A digest of all that a posting of composed documents sends, and of what was said of each: the same only where nothing of it has changed. */
export async function postingRevision({ trx, entityId }: Books, chosen: Chosen): Promise<string> {
  const { rows } = (await trx.raw(
    `select encode(sha256(convert_to(coalesce(string_agg(concat_ws(' ', b.external_id, b.state, b.source_revision, b.request, b.findings), ',' order by b.external_id), ''), 'UTF8')), 'hex') as revision
     from booking b where ${CHOSEN}`,
    { entity: entityId, units: unitsOf(chosen) },
  )) as { rows: { revision: string }[] }
  return rows[0]?.revision ?? ''
}

async function sumsOf(
  { trx, currency }: Books,
  of: Of,
): Promise<Pick<PostingPreview, 'documents' | 'tax' | 'total' | 'remarked' | 'blocked'>> {
  const { rows } = (await trx.raw(
    `select count(*) filter (where ${GOES}) as documents, coalesce(sum(tax.units) filter (where ${GOES}), 0)::bigint::text as tax,
       coalesce(sum(tax.units + net.units) filter (where ${GOES}), 0)::bigint::text as total,
       count(*) filter (where ${GOES} and ${REMARKED}) as remarked, coalesce(sum(abs(tax.units)) filter (where ${GOES} and ${REMARKED}), 0)::bigint::text as remarked_tax,
       count(*) filter (where ${BLOCKED}) as blocked, coalesce(sum(abs(tax.units)) filter (where ${BLOCKED}), 0)::bigint::text as blocked_tax
     from booking b ${STATED} where ${CHOSEN}`,
    of as never,
  )) as { rows: Record<string, string>[] }
  const text = (column: string): string => formatAmount(BigInt(rows[0]?.[column] ?? '0'), currency)
  const number = (column: string): number => Number(rows[0]?.[column] ?? 0)
  return {
    documents: number('documents'),
    tax: text('tax'),
    total: text('total'),
    remarked: { documents: number('remarked'), tax: text('remarked_tax') },
    blocked: { documents: number('blocked'), tax: text('blocked_tax') },
  }
}

/** What moves on each account, in the currency of the documents. */
async function accountsOf(
  { trx, currency }: Books,
  of: Of,
  ledger: HeldSystem,
): Promise<PostingPreview['accounts']> {
  const { rows } = (await trx.raw(
    `select line->>'account' as account, b.currency, sum((line->>'debit')::numeric)::bigint::text as debit, sum((line->>'credit')::numeric)::bigint::text as credit
     from booking b, jsonb_array_elements(b.journal->'lines') line
     where ${CHOSEN} and ${GOES} group by 1, 2 order by b.currency <> :currency, 1`,
    { ...of, currency } as never,
  )) as { rows: { account: string; currency: string; debit: string; credit: string }[] }
  return rows.map((row) => ({
    account: `${ledger.accountName(row.account)}${row.currency === currency ? '' : `, in ${row.currency}`}`,
    debit: formatAmount(BigInt(row.debit), row.currency),
    credit: formatAmount(BigInt(row.credit), row.currency),
  }))
}

interface RemarkedRow {
  readonly findings: readonly Remark[]
  readonly tax: string
}

/** What is foretold of documents, each cause with how many and how much. */
async function foretoldOf({ trx, currency }: Books, of: Of): Promise<Foretold> {
  const { rows } = (await trx.raw(
    `select b.findings, abs(tax.units)::bigint::text as tax from booking b ${STATED} where ${CHOSEN} and ${GOES} and ${FORETOLD}`,
    of as never,
  )) as { rows: RemarkedRow[] }
  const foretold = rows.flatMap(({ findings, tax }) => {
    const own = findings.filter(({ code }) => code.startsWith(FORETOLD_PREFIX))
    return [...new Map(own.map((one) => [causeOf(one), one])).entries()].map(([key, { code, facts }]) => ({
      key,
      code,
      facts,
      tax,
    }))
  })
  const causes = [...groupBy(foretold, ({ key }) => key).values()].flatMap((same) => {
    const [first] = same
    return first
      ? [
          {
            code: first.code,
            ...say(first.code, alike(first.facts)),
            documents: same.length,
            units: total(same),
          },
        ]
      : []
  })
  return {
    documents: rows.length,
    tax: formatAmount(total(rows), currency),
    causes: causes
      .sort((a, b) => (a.units === b.units ? b.documents - a.documents : b.units > a.units ? 1 : -1))
      .map(({ units, ...cause }) => ({ ...cause, tax: formatAmount(units, currency) })),
  }
}

const total = (rows: readonly { readonly tax: string }[]): bigint =>
  rows.reduce((sum, { tax }) => sum + BigInt(tax), 0n)

/** What documents with one cause share: not their number, nor their amounts. */
function alike({ number: _number, would: _would, should: _should, ...facts }: Facts): Facts {
  return facts
}

function causeOf({ code, facts }: Remark): string {
  return `${code} ${JSON.stringify(alike(facts))}`
}
