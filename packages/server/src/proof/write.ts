import { setImmediate } from 'node:timers/promises'
import { CORE_VERSION } from '@axion/core'
import { digestOf } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'
import { nameSql } from '../documents/ids.ts'
import type { Grounds } from './grounds.ts'
import { unitsOf, type Behind, type Proving, type Touched, type Unit } from './gather.ts'
import { orphansIn } from './orphans.ts'
import type { Asking, Question } from './questions.ts'
import type { Resting } from './restsOn.ts'
import type { Staking } from './stakes.ts'
import { composed, type Composed, type PartTable } from './unitRows.ts'
import { mostPairs, spend, unweighed, weighUnit, type Weighed, type Weighing } from './weigh.ts'

/** One proof of a month, with what its slices share. */
export interface Writing {
  readonly grounds: Grounds
  /** The same, noting what is asked of them. */
  readonly asked: Grounds
  readonly asking: Asking
  readonly resting: Resting
  readonly period: string
  readonly touched: Touched
  readonly staking: Staking
  readonly weighing: Weighing
  readonly proving: Proving
}

/** Units that were worked out together, and what documents of them go by, with a unit or without; null of what no document stands behind. */
export interface Slice {
  readonly worked: readonly Composed[]
  readonly documents: readonly string[] | null
  /** What was asked of the set-up to see that entries are no units. */
  readonly without: ReadonlySet<Question>
}

/** Units of so many documents are worked out before others have their turn: what is being written goes on meanwhile. */
const TURN = 20

/** Works out what units of documents come to, and asks the database nothing. */
export async function workOut(writing: Writing, behind: Behind): Promise<Slice> {
  const { asked, asking, period } = writing
  const worked: Composed[] = []
  for (const unit of unitsOf(asked, period, behind, asking)) {
    worked.push(composedBy(writing, unit))
    if (worked.length % TURN === 0) await setImmediate()
  }
  return { worked, documents: behind.keys, without: new Set() }
}

/** The units of entries that no document stands behind. */
export async function workOutOrphans(writing: Writing): Promise<Slice> {
  const { asked, asking, period, touched } = writing
  const { units, without } = await orphansIn(asked, period, touched, asking)
  return { worked: units.map((unit) => composedBy(writing, unit)), documents: null, without }
}

function composedBy({ asked, asking, staking }: Writing, unit: Unit): Composed {
  return asking.noting(unit.asked, () => composed(unit, asked, staking))
}

/**
 * Writes what units come to where it is something else than before: rows cost more than sums, and explanations more than rows. What
 * differs stays as it was weighed where all that it is explained from is the same.
 * @returns how many units were written
 */
export async function writeSlice(writing: Writing, { worked, documents, without }: Slice): Promise<number> {
  const { grounds, weighing, resting } = writing
  const sets = await resting(worked.map(({ unit }) => unit.asked))
  worked.forEach((of, at) => (of.row.rests_on = `{${(sets[at] ?? []).join(',')}}`))
  const before = await standing(writing, documents ?? worked.map(({ named }) => named))
  const kept = new Set<string>()
  const changed = worked.flatMap((of): Changed[] => {
    const fingerprint = fingerprintOf(of, weighing)
    const was = before.get(of.named)
    if (was?.fingerprint === fingerprint) {
      kept.add(of.named)
      if (was.unexplained) spend(weighing)
      return []
    }
    const weighed = of.differs ? weighUnit(of.unit, grounds, weighing) : unweighed(of.unit)
    return [{ of, fingerprint, weighed }]
  })
  await (documents === null
    ? forgetEntries(writing, { here: worked.map(({ named }) => named), kept })
    : forget(
        writing,
        [...before.keys()].filter((named) => !kept.has(named)),
      ))
  await insert(writing, changed)
  if (documents === null) await noteWithout(writing, without)
  if (writing.touched !== 'all') await noteDetermined(writing, [...kept])
  return changed.length
}

/** What entries rest on that are no units: of all that a month has, or of some beside what the others do. */
async function noteWithout(
  { grounds: { trx, entityId }, period, touched, resting }: Writing,
  without: ReadonlySet<Question>,
): Promise<void> {
  const [sets = []] = await resting([without])
  const here = { entity_id: entityId, period }
  const before: { readonly rests_on: number[] } | undefined =
    touched === 'all' ? undefined : await trx('without_unit').where(here).first('rests_on')
  const all = new Set([...(before?.rests_on ?? []), ...sets])
  await trx('without_unit')
    .insert({ ...here, rests_on: [...all] })
    .onConflict(['entity_id', 'period'])
    .merge()
}

/** What was looked at by itself and stays as it is written stands as at now. */
async function noteDetermined(writing: Writing, named: readonly string[]): Promise<void> {
  const { proving } = writing
  if (named.length > 0)
    await unitsNamed(writing, named).update({ determined_at: proving.determined.determined_at })
}

interface Changed {
  readonly of: Composed
  readonly fingerprint: string
  readonly weighed: Weighed
}

interface Standing {
  /** Null where another version of the computation determined it, or a full proof doubts it: then nothing is the same. */
  readonly fingerprint: string | null
  /** It was looked at for explanations, and none was found. */
  readonly unexplained: boolean
}

function unitsNamed({ grounds: { trx, entityId }, period }: Writing, named: readonly string[]) {
  return trx('unit')
    .where({ entity_id: entityId, period })
    .whereRaw('named = any(?)', [[...named]])
}

/** What stands of units by now. */
async function standing(writing: Writing, named: readonly string[]): Promise<ReadonlyMap<string, Standing>> {
  const { trx } = writing.grounds
  const rows = (await unitsNamed(writing, named).select(
    'named',
    trx.raw('case when core_version = ? then fingerprint end as fingerprint', [CORE_VERSION]),
    trx.raw(`differs and headline <> 'missing' and assumptions = '[]' as unexplained`),
  )) as (Standing & { readonly named: string })[]
  return new Map(rows.map((row) => [row.named, row]))
}

/** All that is kept of a unit, in 22 characters: where it is the same, so is each of its rows, and what they were weighed by. */
function fingerprintOf({ unit: { why, source }, row, rows, differs }: Composed, weighing: Weighing): string {
  const document = source?.document ?? null
  const weighed = differs
    ? [document, [...(document?.original?.before ?? [])], weighing.ground, mostPairs(weighing)]
    : null
  return digestOf([row, rows, why, weighed])
}

async function insert(
  { grounds: { trx, entityId }, proving }: Writing,
  changed: readonly Changed[],
): Promise<void> {
  const parts: Record<PartTable | 'unproved_share', object[]> = {
    determination: [],
    tax_fact: [],
    net_fact: [],
    special_line: [],
    unproved_share: [],
    stake_share: [],
  }
  const units = changed.map(({ of, fingerprint, weighed }) => {
    const unitId = proving.number()
    for (const [table, rows] of [...Object.entries(of.rows), ['unproved_share', weighed.shares] as const])
      for (const row of rows) {
        row.unit_id = unitId
        parts[table as PartTable].push(row)
      }
    return { ...of.row, ...weighed.columns, unit_id: unitId, fingerprint, ...proving.determined }
  })
  await insertRows(trx, 'unit', units)
  for (const [table, rows] of Object.entries(parts)) await insertRows(trx, table, rows)
  await trx.raw('select count_units(?, ?::bigint[])', [entityId, units.map((unit) => unit.unit_id)])
}

async function forget(writing: Writing, named: readonly string[]): Promise<void> {
  if (named.length > 0) await unitsNamed(writing, named).delete()
}

/** Entries that are written anew, in whatever month and however they stood before, and those that no unit is of any more. */
async function forgetEntries(
  { grounds: { trx, entityId }, period, touched }: Writing,
  { here, kept }: { readonly here: readonly string[]; readonly kept: ReadonlySet<string> },
): Promise<void> {
  await trx.raw(
    `delete from unit where entity_id = :e and entry_id is not null and (named = any(:anew)
       or period = :p and kind = 'entry' and not named = any(:here) and (:entries::text[] is null or entry_id = any(:entries)))`,
    {
      e: entityId,
      p: period,
      here: [...here],
      anew: here.filter((named) => !kept.has(named)),
      entries: touched === 'all' ? null : [...touched.entries],
    } as never,
  )
}

/** What documents left behind in a month in which they do not stand any more: here of others, elsewhere of its own. */
export async function forgetMoved({ grounds: { trx, entityId }, period, touched }: Writing): Promise<void> {
  const named = touched === 'all' ? null : [...touched.documents]
  await trx.raw(
    `delete from unit u where u.entity_id = :e and u.document_id is not null and (:named::text[] is null or u.named = any(:named)) and (
       u.period = :p and not exists (select from document d where d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id and d.period = u.period)
       or u.period <> :p and exists (select from document d where d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id and d.period = :p and ${nameSql('d')} = u.named))`,
    { e: entityId, p: period, named } as never,
  )
}

/** SQL, of a row of `unit`: as at when it stands. One that stayed as it was written stands as at when all of its month was last determined. */
export const DETERMINED_AT = `greatest(unit.determined_at, (select m.determined_at from month_proof m where m.entity_id = unit.entity_id and m.period = unit.period))`

/** All of a month was determined at once: what stayed as it was written stands as at now too. */
export async function noteProof({ grounds: { trx, entityId }, period, proving }: Writing): Promise<void> {
  const { determined_at: at } = proving.determined
  await trx('month_proof')
    .insert({ entity_id: entityId, period, determined_at: at })
    .onConflict(['entity_id', 'period'])
    .merge()
}
