import { createHash } from 'node:crypto'
import { formatAmount, textualOf, type Baseline, type Textual } from '@axion/core'
import type { Resting } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import type { Columns } from '../database/row.ts'
import { loadBaseline } from './load.ts'

/** Read in the agency's own text; held alike by several systems, or by one alone; or changed since one of these was true of it. */
export type TextStanding = 'checked' | 'seen' | 'alone' | 'changed'

/** What was drafted out of systems, and on whose word it stands. */
export interface Standing extends Textual {
  readonly standing: TextStanding
  readonly row: Columns<'authority', 'seen_in' | 'checked_against' | 'checked_on' | 'checked_by'>
}

const digestOf = (says: string): string => createHash('sha256').update(says).digest('base64url')

/** On whose word everything stands that was drafted; what somebody entered or imported is not among it. */
export async function authorityOf(books: Books): Promise<readonly Standing[]> {
  const { trx, entityId } = books
  const rows = await trx('authority').where({ entity_id: entityId })
  if (rows.length === 0) return []
  const byObject = new Map(rows.map((row) => [keyOf(row.kind, row.object), row] as const))
  return textualOf((await loadBaseline(books)).baseline).flatMap((one): Standing[] => {
    const row = byObject.get(keyOf(one.kind, one.object))
    if (!row) return []
    const says = digestOf(one.says)
    const seen = row.seen_in.length > 1 ? 'seen' : 'alone'
    const standing = row.checked_says === says ? 'checked' : row.says === says ? seen : 'changed'
    return [{ ...one, standing, row }]
  })
}

/** A digest of what was seen of one such thing, and on whose word it stood before; null where it stood on nobody's. */
export interface SeenThing {
  readonly kind: string
  readonly object: string
  readonly after: string
  readonly before: {
    readonly says: string
    readonly seenIn: readonly string[]
    readonly acceptedBy: string
    readonly acceptedAt: string
  } | null
}

/**
 * Keeps which systems hold what is taken out of them into the baseline. What was checked before and is taken again as it was stays checked.
 * @param seen by `keyOf`: the systems
 * @returns what takes it back
 */
export async function keepSeen(
  books: Books,
  baseline: Baseline,
  { seen, person }: { readonly seen: ReadonlyMap<string, ReadonlySet<string>>; readonly person: string },
): Promise<readonly SeenThing[]> {
  const wanted = textualOf(baseline).flatMap((one) => {
    const systems = seen.get(keyOf(one.kind, one.object))
    return systems
      ? [{ kind: one.kind, object: one.object, says: digestOf(one.says), seen_in: [...systems].sort() }]
      : []
  })
  if (wanted.length === 0) return []
  const { rows } = (await books.trx.raw(
    `with wanted as (select r.kind, r.object, r.says, array(select jsonb_array_elements_text(r.seen_in)) as seen_in from jsonb_to_recordset(:rows::jsonb) as r(kind text, object text, says text, seen_in jsonb)),
       before as (select a.* from authority a join wanted using (kind, object) where a.entity_id = :e),
       kept as (insert into authority (entity_id, kind, object, says, seen_in, accepted_by) select :e, kind, object, says, seen_in, :person from wanted
         on conflict (entity_id, kind, object) do update set says = excluded.says, seen_in = excluded.seen_in, accepted_by = excluded.accepted_by, accepted_at = now()
         returning kind, object, says)
     select k.kind, k.object, k.says as after,
       case when b.says is not null then jsonb_build_object('says', b.says, 'seenIn', b.seen_in, 'acceptedBy', b.accepted_by, 'acceptedAt', b.accepted_at) end as before
     from kept k left join before b using (kind, object)`,
    { e: books.entityId, person, rows: JSON.stringify(wanted) },
  )) as { rows: SeenThing[] }
  return rows
}

/** Takes back on whose word something stands; what was taken from elsewhere since stays. */
export async function unsee({ trx, entityId }: Books, things: readonly SeenThing[]): Promise<void> {
  const rows = JSON.stringify(things)
  const of = `jsonb_to_recordset(:rows::jsonb) as t(kind text, object text, after text, before jsonb)`
  const is = `a.entity_id = :e and a.kind = t.kind and a.object = t.object and a.says = t.after`
  await trx.raw(`delete from authority a using ${of} where ${is} and t.before is null`, { e: entityId, rows })
  await trx.raw(
    `update authority a set says = t.before->>'says', seen_in = array(select jsonb_array_elements_text(t.before->'seenIn')), accepted_by = t.before->>'acceptedBy', accepted_at = (t.before->>'acceptedAt')::timestamptz
     from ${of} where ${is} and t.before is not null`,
    { e: entityId, rows },
  )
}

export function keyOf(kind: string, object: string): string {
  return `${kind} ${object}`
}

/** Keeps that somebody read these in the agency's own text, as they stand now. */
export async function keepChecked(
  { trx, entityId }: Books,
  checked: readonly Textual[],
  { against, on, person }: { readonly against: string; readonly on: string; readonly person: string },
): Promise<void> {
  await trx.raw(
    `update authority a set checked_says = r.says, checked_against = :against, checked_on = :on, checked_by = :person, checked_at = now()
     from jsonb_to_recordset(:rows::jsonb) as r(kind text, object text, says text)
     where a.entity_id = :e and a.kind = r.kind and a.object = r.object`,
    {
      ...{ e: entityId, against, on, person },
      rows: JSON.stringify(checked.map(({ kind, object, says }) => ({ kind, object, says: digestOf(says) }))),
    },
  )
}

/** The expected tax of a month for agencies that something unchecked is of, and of that what rests on the word of one system; null where all is checked. */
export async function restingOn(books: Books, month: string): Promise<Resting | null> {
  const open = (await authorityOf(books)).filter(({ standing }) => standing !== 'checked')
  if (open.length === 0) return null
  const agencies = (of: readonly Standing[]): string[] => [...new Set(of.flatMap((one) => one.agencies))]
  const taxOf = await expectedBy(books, month)
  const text = (of: readonly Standing[]): string =>
    formatAmount(
      agencies(of).reduce((sum, agency) => sum + (taxOf.get(agency) ?? 0n), 0n),
      books.currency,
    )
  return {
    tax: text(open),
    alone: text(open.filter(({ standing }) => standing === 'alone')),
    things: open.length,
  }
}

/** Whether anything stands on the word of systems: then no month is proved but as they have it. */
export async function restsOnSystems(books: Books): Promise<boolean> {
  return (await authorityOf(books)).some(({ standing }) => standing !== 'checked')
}

/** What a month's documents are expected to bear for each agency, in the base currency. */
export async function expectedBy(
  { trx, entityId }: Books,
  month: string,
): Promise<ReadonlyMap<string, bigint>> {
  const rows = (await trx('tie_total')
    .where({ entity_id: entityId, period: month })
    .groupBy('agency')
    .select('agency', trx.raw('coalesce(sum(expected), 0)::text as tax'))) as unknown as {
    agency: string
    tax: string
  }[]
  return new Map(rows.map(({ agency, tax }) => [agency, BigInt(tax)]))
}
