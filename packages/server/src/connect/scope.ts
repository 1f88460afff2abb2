import { createHash } from 'node:crypto'
import {
  COMING_IN,
  KINDS_OF,
  kindsWith,
  WHOLE_SCOPE,
  type Scope,
  type ScopeAmount,
  type ScopePart,
  type ScopePreview,
  type ScopeView,
} from '@axion/contract'
import { currencyDigits, formatAmount, sum } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { withDetermination } from '../documents/ids.ts'
import { Problem } from '../faults/problem.ts'
import { prove } from '../proof/prove.ts'
import { connectedSystems, type SystemRow } from '../setUp/held.ts'
import { setNextPull } from './schedule.ts'

/** A system's scope as it is kept: nothing kept means that all of it flows. */
export async function scopeOf({ trx, entityId }: Books, systemId: string): Promise<Scope> {
  const row = (await trx('system_scope')
    .where({ entity_id: entityId, system_id: systemId })
    .first('scope')) as { scope: Scope } | undefined
  return row?.scope ?? WHOLE_SCOPE
}

/** SQL: what a document, settlement or bank line comes to in minor units of the base currency; null where no exchange rate says. What takes back counts the other way. */
export const totalInBase = (
  value: string,
  kind: string,
): string => `round(coalesce(${value}->>'total', ${value}->>'amount')::numeric * case when ${value}->>'currency' = :currency then 1 else (${value}->>'exchangeRate')::numeric end * 10::numeric ^ :digits)::bigint
    * case when ${kind} in (${kindsWith((kind) => kind.returns)
      .map((one) => `'${one}'`)
      .join(', ')}) and ${value}->>'total' is not null then -1 else 1 end as total`

/** What a system sent, of whatever kind, with why each is not taken, what it comes to, and the tax it states in the base currency; drafts and voids left out. */
const DOCUMENTS = `
  select ${totalInBase('d.value', 'd.kind')}, d.number, d.party, d.document_date as day, d.period, d.kind, d.value, d.not_taken,
    coalesce((select sum(f.in_base) from tax_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated'), 0)::bigint as tax,
    exists (select from booking b where b.entity_id = d.entity_id and b.system_id = d.system_id and b.document_id = d.document_id and b.kind = d.kind and b.ledger_booking_id is not null) as booked
  from document d ${withDetermination('d')} where d.entity_id = :e and d.system_id = :s and d.status not in ('draft', 'void')
  union all
  select ${totalInBase('r.value', 'r.kind')}, r.number, '', r.day, r.period, r.kind, r.value, r.not_taken, null, false
  from held_record r where r.entity_id = :e and r.system_id = :s and not r.removed`

interface Sums {
  readonly documents: number
  readonly tax: string | null
  readonly total: string | null
}

interface Group extends Sums {
  readonly channels: string
  readonly places: string
  readonly kinds: string
  readonly statuses: string
  readonly not_taken: 'out-of-range' | 'kind-off' | null
}

/** What a group of documents comes to; nothing is said of a total that some lack. */
const SUMS = `count(*)::int as documents, sum(tax)::text as tax, case when count(*) = count(total) then sum(total) end::text as total`
const bound = (entityId: string, systemId: string, currency: string): Record<string, string | number> => ({
  e: entityId,
  s: systemId,
  currency,
  digits: currencyDigits(currency),
})

const MOST_LEFT = 50

/** What of a system is taken, and what that leaves out in the month, with its amounts. */
export async function scopeView(books: Books, month: string, systemId: string): Promise<ScopeView> {
  const { trx, entityId, currency } = books
  const system = await systemNamed(books, systemId)
  const kept = (await trx('system_scope').where({ entity_id: entityId, system_id: systemId }).first()) as
    { scope: Scope; changed_by: string; next_pull_at: Date | null } | undefined
  const scope = kept?.scope ?? WHOLE_SCOPE
  const here = { ...bound(entityId, systemId, currency), month }
  const { rows: groups } = (await trx.raw(
    `select coalesce(value->>'channel', '') as channels, coalesce(value->>'locationId', '') as places, kind as kinds, coalesce(value->>'status', '') as statuses, not_taken, ${SUMS}
     from (${DOCUMENTS}) d where period = :month group by 1, 2, 3, 4, 5`,
    here,
  )) as { rows: Group[] }
  const { rows: left } = (await trx.raw(
    `select number, party, day::text as date, not_taken as why, tax::text as tax, total::text as total, booked from (${DOCUMENTS}) d where period = :month and not_taken is not null order by day, number limit ${MOST_LEFT}`,
    here,
  )) as {
    rows: {
      number: string
      party: string
      date: string
      why: 'out-of-range' | 'kind-off'
      tax: string | null
      total: string | null
      booked: boolean
    }[]
  }
  const places = (await trx('held_object')
    .where({ entity_id: entityId, system_id: systemId, resource: 'locations', removed: false })
    .orderByRaw(`value->>'name'`)
    .select('object_id', trx.raw(`value->>'name' as name`))) as { object_id: string; name: string }[]
  const amount = (of: readonly Group[]): ScopeAmount => amountOf(of, currency)
  const partOf = (part: ScopePart, known: readonly string[]): ScopeView['parts'][ScopePart] => {
    const keys = [...new Set([...known, ...groups.map((group) => group[part]), ...scope.off[part]])]
    const named = keys.filter((key) => key !== '' || groups.some((group) => group[part] !== ''))
    return named.map((key) => ({
      key,
      name: part === 'places' ? (places.find((place) => place.object_id === key)?.name ?? key) : key,
      ...amount(groups.filter((group) => group[part] === key)),
    }))
  }
  return {
    currency,
    scope,
    changedBy: kept?.changed_by ?? null,
    nextPullAt: kept?.next_pull_at?.toISOString() ?? null,
    comesIn: COMING_IN.includes(system.role),
    parts: {
      channels: partOf('channels', []),
      places: partOf('places', system.role === 'pos' ? places.map((place) => place.object_id) : []),
      kinds: partOf('kinds', KINDS_OF[system.role]),
      statuses: partOf('statuses', []).filter(({ key }) => key !== ''),
    },
    taken: amount(groups.filter((group) => group.not_taken === null)),
    tooOld: amount(groups.filter((group) => group.not_taken === 'out-of-range')),
    off: amount(groups.filter((group) => group.not_taken === 'kind-off')),
    left: left.map(({ tax, total: all, ...one }) => ({
      ...one,
      tax: said(tax, currency),
      total: said(all, currency),
    })),
  }
}

export const said = (units: string | null, currency: string): string | null =>
  units === null ? null : formatAmount(BigInt(units), currency)

/** Of bank lines and settlements nobody states a tax: null, and never nil. */
function amountOf(groups: readonly Sums[], currency: string): ScopeAmount {
  const [taxes, totals] = (['tax', 'total'] as const).map((of) =>
    groups.flatMap((group) => (group[of] === null ? [] : [BigInt(group[of])])),
  )
  return {
    documents: groups.reduce((n, group) => n + group.documents, 0),
    tax: groups.length > 0 && taxes?.length === 0 ? null : formatAmount(sum(taxes ?? []), currency),
    total: totals?.length === groups.length ? formatAmount(sum(totals), currency) : null,
  }
}

interface MovedRow extends Sums {
  readonly what: 'leaves' | 'comes' | 'staysBooked' | null
}

/** What of a system another scope, in SQL, would move, over all months. */
export async function movedUnder(
  { trx, entityId, currency }: Books,
  systemId: string,
  { scope, bindings }: { readonly scope: string; readonly bindings: Readonly<Record<string, string | null>> },
): Promise<readonly MovedRow[]> {
  const { rows } = (await trx.raw(
    `select case when booked then case when after is not null then 'staysBooked' end when before is null and after is not null then 'leaves' when before is not null and after is null then 'comes' end as what, ${SUMS}
     from (select not_taken as before, why_not_taken(${scope}, day, kind, value) as after, tax, total, booked from (${DOCUMENTS}) d) x group by 1`,
    { ...bound(entityId, systemId, currency), ...bindings } as never,
  )) as { rows: MovedRow[] }
  return rows
}

/** The same as amounts. */
export function movesOf(rows: readonly MovedRow[], currency: string): Omit<ScopePreview, 'revision'> {
  const of = (what: MovedRow['what']): ScopeAmount =>
    amountOf(
      rows.filter((row) => row.what === what),
      currency,
    )
  return { currency, leaves: of('leaves'), comes: of('comes'), staysBooked: of('staysBooked') }
}

/** What another scope would do, over all months. */
export async function previewScope(books: Books, systemId: string, scope: Scope): Promise<ScopePreview> {
  await systemNamed(books, systemId)
  const { currency } = books
  const moves = movesOf(
    await movedUnder(books, systemId, {
      scope: 'from_opening(:scope::jsonb, :e)',
      bindings: { scope: json(scope) },
    }),
    currency,
  )
  return {
    ...moves,
    revision: createHash('sha256')
      .update(json([await scopeOf(books, systemId), scope, moves]))
      .digest('base64url'),
  }
}

/**
 * Keeps a system's scope and proves what it moves. What is booked already stays booked.
 * @throws AXION_STALE where what it does is not what the preview said
 */
export async function changeScope(
  books: Books,
  systemId: string,
  { scope, revision }: { readonly scope: Scope; readonly revision: string },
  person: string,
): Promise<void> {
  const { trx, entityId } = books
  const system = await systemNamed(books, systemId)
  if ((await previewScope(books, systemId, scope)).revision !== revision)
    throw new Problem('AXION_STALE', { what: 'What this scope would do' })
  const before = await scopeOf(books, systemId)
  await trx('system_scope')
    .insert({ entity_id: entityId, system_id: systemId, scope: json(scope), changed_by: person })
    .onConflict(['entity_id', 'system_id'])
    .merge({ scope: json(scope), changed_by: person, changed_at: trx.fn.now() })
  await setNextPull(books, systemId)
  await audit(trx, 'changed-scope', system.name, { before, after: scope })
  await proveMoved(books, await applyScope(books, systemId, null))
}

export interface Moved {
  readonly period: string
  /** The document as system/id; null of a settlement or a bank line, which nothing is worked out of yet. */
  readonly key: string | null
}

/** Notes beside what a system sent, all of it or that named, why it is not taken. @returns that of which it changed */
export async function applyScope(
  { trx, entityId }: Books,
  systemId: string,
  ids: readonly string[] | null,
): Promise<Moved[]> {
  const update = (table: string, id: string, day: string, key: string): string => `
    update ${table} d set not_taken = why_not_taken(c.scope, d.${day}, d.kind, d.value) from (select from_opening((select scope from system_scope where entity_id = :e and system_id = :s), :e) as scope) c
    where d.entity_id = :e and d.system_id = :s and (:ids::text[] is null or d.${id} = any(:ids)) and d.not_taken is distinct from why_not_taken(c.scope, d.${day}, d.kind, d.value)
    returning d.period, ${key} as key`
  const moved: Moved[] = []
  for (const one of [
    update('document', 'document_id', 'document_date', 'd.named'),
    update('held_record', 'record_id', 'day', 'null'),
  ]) {
    const { rows } = (await trx.raw(one, {
      e: entityId,
      s: systemId,
      ids: ids === null ? null : [...ids],
    })) as { rows: Moved[] }
    moved.push(...rows)
  }
  return moved
}

async function proveMoved(books: Books, moved: readonly Moved[]): Promise<void> {
  const touched = { documents: new Set(moved.flatMap((one) => one.key ?? [])), entries: new Set<string>() }
  for (const period of [...new Set(moved.map((one) => one.period))].sort())
    await prove(books, period, touched)
}

/** What every system leaves out of a month, by system. */
export async function leftOutOf(
  { trx, entityId, currency }: Books,
  month: string,
  systems: readonly SystemRow[],
): Promise<Map<string, ScopeAmount>> {
  const left = new Map<string, ScopeAmount>()
  for (const { system_id: systemId } of systems) {
    const { rows } = (await trx.raw(
      `select ${SUMS} from (${DOCUMENTS}) d where period = :month and not_taken is not null and not booked`,
      { ...bound(entityId, systemId, currency), month },
    )) as { rows: Sums[] }
    left.set(
      systemId,
      amountOf(
        rows.filter((row) => row.documents > 0),
        currency,
      ),
    )
  }
  return left
}

/** What all systems sent that is dated before a day: read for reference, and not for the books. Nothing where there is no such day. */
export async function leftBefore(books: Books, day: string | null): Promise<ScopeAmount> {
  const { trx, entityId, currency } = books
  const sums: Sums[] = []
  for (const { system_id: systemId } of day === null ? [] : await connectedSystems(books)) {
    const { rows } = (await trx.raw(
      `select ${SUMS} from (${DOCUMENTS}) d where day < :day::date and not_taken = 'out-of-range'`,
      { ...bound(entityId, systemId, currency), day } as never,
    )) as { rows: [Sums] }
    sums.push(rows[0])
  }
  return amountOf(
    sums.filter(({ documents }) => documents > 0),
    currency,
  )
}

async function systemNamed(books: Books, systemId: string): Promise<SystemRow> {
  const system = (await connectedSystems(books)).find((one) => one.system_id === systemId)
  if (!system) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  return system
}
