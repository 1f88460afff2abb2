import { CORE_VERSION } from '@axion/core'
import { digestOfText, json } from '../database/json.ts'
import { asText } from '../database/copied.ts'
import { insertLines } from '../database/insert.ts'
import type { Proving, Touched, Unit } from './gather.ts'
import type { Grounds } from './grounds.ts'
import { gathered } from './gathered.ts'
import type { Question } from './asking.ts'
import type { Resting } from './restsOn.ts'
import type { Composed } from './composed.ts'
import { PART_COLUMNS, UNIT_COLUMNS, type PartTable } from './lines.ts'
import {
  mostPairs,
  SHARE_COLUMNS,
  spend,
  unweighed,
  VERDICT_COLUMNS,
  weighUnit,
  type Weighed,
  type Weighing,
} from './weigh.ts'
import type { Worked } from './workOut.ts'

/** One proof of a month, with what its slices share. */
export interface Writing {
  readonly grounds: Grounds
  readonly period: string
  readonly touched: Touched
  readonly resting: Resting
  readonly weighing: Weighing
  readonly proving: Proving
}

/** Units that were worked out together. */
export interface Slice {
  readonly worked: Worked
  /** What documents of them go by, with a unit or without; null of what no document stands behind. */
  readonly documents: readonly string[] | null
  /** The units of those that are named, to be weighed. */
  readonly unitsNamed: (named: ReadonlySet<string>) => ReadonlyMap<string, Unit>
}

/**
 * Writes what units come to where it is something else than before: rows cost more than sums, and explanations more than rows. What
 * differs stays as it was weighed where all that it is explained from is the same.
 * @returns how many units were written
 */
export async function writeSlice(writing: Writing, slice: Slice): Promise<number> {
  const { grounds, weighing } = writing
  const {
    documents,
    worked: { units, asked },
  } = slice
  const sets = await writing.resting(asked)
  const before = await standing(writing, documents ?? units.map(({ named }) => named))
  const differing = slice.unitsNamed(new Set(units.flatMap(({ differs, named }) => (differs ? [named] : []))))
  const same = new Set<string>()
  const changed = units.flatMap((of, at): Changed[] => {
    const unit = of.differs ? differing.get(of.named) : undefined
    // Nothing that differs goes by unweighed: it would read as proved.
    if (of.differs && !unit) throw new Error(`${of.named} differs, and there is nothing to weigh`)
    const restsOn = `{${(sets[at] ?? []).join(',')}}`
    const fingerprint = fingerprintOf(of, restsOn, unit, weighing)
    const was = before.get(of.named)
    if (was?.fingerprint === fingerprint) {
      same.add(of.named)
      if (was.unexplained) spend(weighing)
      return []
    }
    return [{ of, restsOn, fingerprint, weighed: unit ? weighUnit(unit, grounds, weighing) : unweighed(of) }]
  })
  await (documents === null
    ? forgetEntries(writing, { here: units.map(({ named }) => named), same })
    : forget(
        writing,
        [...before.keys()].filter((named) => !same.has(named)),
      ))
  await insert(writing, changed)
  if (writing.touched !== 'all') await noteDetermined(writing, [...same])
  return changed.length
}

/** What entries rest on that are no units: of all that a month has, or of some beside what the others do. */
export async function noteWithout(
  { grounds: { trx, entityId }, period, touched, resting }: Writing,
  without: ReadonlySet<Question>,
): Promise<void> {
  const [sets = []] = await resting(gathered([without]))
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
  readonly restsOn: string
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
function fingerprintOf(
  { why, notTaken, line, parts }: Composed,
  restsOn: string,
  unit: Unit | undefined,
  weighing: Weighing,
): string {
  const document = unit?.source?.document ?? null
  const weighed = unit
    ? [document, [...(document?.original?.before ?? [])], weighing.ground, mostPairs(weighing)]
    : null
  const lines = PARTS.map((table) => parts[table].join('\n'))
  return digestOfText([why, notTaken ?? '', restsOn, unit ? json(weighed) : '', line, ...lines].join('\n\n'))
}

const PARTS = Object.keys(PART_COLUMNS) as readonly PartTable[]
const NUMBERED = ['entity_id', 'unit_id']

/** Writes units with all that goes with them, each under a number of its own. */
async function insert(
  { grounds: { trx, entityId }, proving }: Writing,
  changed: readonly Changed[],
): Promise<void> {
  const entity = asText(entityId)
  const { determined_at: at, core_version: version } = proving.determined
  const numbered = changed.map((one) => ({ ...one, number: proving.number() }))
  await insertLines(
    trx,
    'unit',
    [
      ...NUMBERED,
      ...UNIT_COLUMNS,
      ...VERDICT_COLUMNS,
      'rests_on',
      'fingerprint',
      'determined_at',
      'core_version',
    ],
    numbered.map(
      ({ number, of, weighed, restsOn, fingerprint }) =>
        `${entity}\t${number}\t${of.line}\t${weighed.verdict}\t${restsOn}\t${fingerprint}\t${at}\t${version}`,
    ),
  )
  const part = (
    table: PartTable | 'unproved_share',
    columns: readonly string[],
    linesOf: (one: Changed) => readonly string[],
  ): Promise<void> =>
    insertLines(
      trx,
      table,
      [...NUMBERED, ...columns],
      numbered.flatMap((one) => linesOf(one).map((line) => `${entity}\t${one.number}\t${line}`)),
    )
  for (const table of PARTS) await part(table, PART_COLUMNS[table], ({ of }) => of.parts[table])
  await part('unproved_share', SHARE_COLUMNS, ({ weighed }) => weighed.shares)
  await trx.raw('select count_units(?, ?::bigint[])', [entityId, numbered.map(({ number }) => number)])
}

async function forget(writing: Writing, named: readonly string[]): Promise<void> {
  if (named.length > 0) await unitsNamed(writing, named).delete()
}

/** Entries that are written anew, in whatever month and however they stood before, and those that no unit is of any more. */
async function forgetEntries(
  { grounds: { trx, entityId }, period, touched }: Writing,
  { here, same }: { readonly here: readonly string[]; readonly same: ReadonlySet<string> },
): Promise<void> {
  await trx.raw(
    `delete from unit where entity_id = :e and entry_id is not null and (named = any(:anew)
       or period = :p and kind = 'entry' and not named = any(:here) and (:entries::text[] is null or entry_id = any(:entries)))`,
    {
      e: entityId,
      p: period,
      here: [...here],
      anew: here.filter((named) => !same.has(named)),
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
       or u.period <> :p and exists (select from document d where d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id and d.period = :p and d.named = u.named))`,
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
