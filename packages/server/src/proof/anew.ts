import { CORE_VERSION } from '@axion/core'
import { asText } from '../database/copied.ts'
import { inOrder, type Books } from '../database/connection.ts'
import { insertLines } from '../database/insert.ts'
import { overMonths } from '../database/planner.ts'
import { readDeparting } from '../setUp/departing.ts'
import { behindIn, type Unit } from './gather.ts'
import { gathered } from './gathered.ts'
import { groundsOf, type Grounds } from './grounds.ts'
import { ALONE, byItself, threaded } from './hands.ts'
import { PART_COLUMNS, UNIT_COLUMNS, type PartTable } from './lines.ts'
import { orphansIn } from './orphans.ts'
import { overlapped } from './overlapped.ts'
import { answeringOf, restingIn, type Resting } from './restsOn.ts'
import { JUDGED_COLUMNS, judgedLine } from './weigh.ts'
import { composedBy, kitOf, type Worked } from './workOut.ts'

/** A unit of which something is kept otherwise than it comes to when it is worked out anew: a fault of Axion's own. */
export interface Otherwise {
  readonly named: string
  readonly number: string
}

const PARTS = Object.keys(PART_COLUMNS) as readonly PartTable[]
const KEPT = [...UNIT_COLUMNS, 'rests_on', ...Object.keys(JUDGED_COLUMNS)]

/**
 * Works documents of a month out anew, from what their sources said, the baseline and the journal, and compares every fact, signature,
 * stake and special line of them, what they rest on, and what the unit itself says, its verdict with it, with what is kept. What differs is
 * judged again, and not explained again; what is doubted already is passed over: it says so itself. Done in a transaction that changes the books, once nothing is left to be
 * proved; writes nothing but questions that were never asked before.
 * @param keys as system/document
 */
export async function otherwiseOf(
  books: Books,
  period: string,
  keys: readonly string[],
): Promise<Otherwise[]> {
  const grounds = await groundsOf(books)
  const departing = await readDeparting(books)
  const answering = answeringOf(grounds, departing)
  const resting = restingIn(books, answering)
  const { slice, ...hands } =
    keys.length > ALONE ? threaded(grounds, departing, period) : byItself(kitOf(grounds, answering, period))
  const found = await overlapped(behindIn(grounds, period, keys, slice), {
    ...hands,
    write: ({ worked, documents, unitsNamed }) => {
      const differing = new Set(worked.units.flatMap(({ differs, named }) => (differs ? [named] : [])))
      return compared(grounds, {
        period,
        resting,
        worked,
        named: documents ?? [],
        differing: unitsNamed(differing),
      })
    },
  })
  return found.flat()
}

/** The same of entries that nobody stands behind, and of units whose document has left the month. */
export async function otherwiseAside(books: Books, period: string): Promise<Otherwise[]> {
  const grounds = await groundsOf(books)
  const answering = answeringOf(grounds, await readDeparting(books))
  const kit = kitOf(grounds, answering, period)
  const { units } = await orphansIn(books, kit, 'all')
  const worked = {
    units: units.map((unit) => composedBy(kit, unit)),
    asked: gathered(units.map(({ asked }) => asked)),
  }
  const { rows } = (await books.trx.raw(
    `select u.named from unit u where u.entity_id = :e and u.period = :p and (u.kind = 'entry' or u.document_id is not null and u.kind <> 'unread'
       and not exists (select from document d where d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id and d.period = u.period))`,
    { e: books.entityId, p: period },
  )) as { rows: { named: string }[] }
  const named = new Set([...rows.map((row) => row.named), ...worked.units.map((unit) => unit.named)])
  return compared(grounds, {
    period,
    resting: restingIn(books, answering),
    worked,
    named: [...named],
    differing: new Map(worked.units.map((of, at) => [of.named, units[at] as Unit])),
  })
}

interface Comparing {
  readonly period: string
  readonly resting: Resting
  readonly worked: Worked
  /** Whatever is kept of others than these is not looked at. */
  readonly named: readonly string[]
  /** Those of them that have to be weighed. */
  readonly differing: ReadonlyMap<string, Unit>
}

async function compared(
  grounds: Grounds,
  { period, resting, worked: { units, asked }, named, differing }: Comparing,
): Promise<Otherwise[]> {
  const { trx, entityId } = grounds
  const sets = await resting(asked)
  const { rows: outdated } = (await trx.raw(
    'select named from unit where entity_id = ? and named = any(?) and core_version <> ?',
    [entityId, [...named], CORE_VERSION],
  )) as { rows: { named: string }[] }
  const passed = new Set(outdated.map((row) => row.named))
  const anew = units.flatMap((of, at) => (passed.has(of.named) ? [] : [{ of, sets: sets[at] ?? [] }]))
  const here = { e: entityId, p: period, named: named.filter((one) => !passed.has(one)) }
  const unlike = new Set(
    await unlikeIn(trx, {
      table: 'unit',
      columns: KEPT,
      lines: anew.map(({ of, sets: on }) => {
        const unit = of.differs ? differing.get(of.named) : null
        if (unit === undefined) throw new Error(`${of.named} differs, and there is nothing to weigh`)
        return `${asText(of.named)}\t${of.line}\t{${on.join(',')}}\t${judgedLine(unit, of, grounds)}`
      }),
      here,
    }),
  )
  for (const found of await inOrder(PARTS, (table) =>
    unlikeIn(trx, {
      table,
      columns: PART_COLUMNS[table],
      lines: anew.flatMap(({ of }) => of.parts[table].map((line) => `${asText(of.named)}\t${line}`)),
      here,
    }),
  ))
    found.forEach((one) => unlike.add(one))
  if (unlike.size === 0) return []
  const numbers = (await trx('unit')
    .where({ entity_id: entityId })
    .whereRaw('named = any(?)', [[...unlike]])
    .select('named', 'number')) as Otherwise[]
  const numberOf = new Map(numbers.map((row) => [row.named, row.number]))
  return [...unlike].map((one) => ({ named: one, number: numberOf.get(one) ?? one }))
}

/** What units go by of which a table's rows are not the lines that they come to, one as often as the other. */
async function unlikeIn(
  trx: Books['trx'],
  {
    table,
    columns,
    lines,
    here,
  }: {
    readonly table: PartTable | 'unit'
    readonly columns: readonly string[]
    readonly lines: readonly string[]
    readonly here: { readonly e: string; readonly p: string; readonly named: readonly string[] }
  },
): Promise<string[]> {
  const anew = `anew_${table}`
  const names = columns.map((column) => `"${column}"`).join(', ')
  const judged: Readonly<Record<string, string>> = table === 'unit' ? JUDGED_COLUMNS : {}
  const of = (row: string): string =>
    columns.map((column) => judged[column] ?? `${row}."${column}"`).join(', ')
  await trx.raw(
    `create temp table if not exists ${anew} on commit drop as select ''::text as named, ${names} from ${table} with no data`,
  )
  await insertLines(trx, anew, ['named', ...columns], lines)
  const kept = table === 'unit' ? 'u' : 't'
  const { rows } = (await overMonths(trx, () =>
    trx.raw(
      `select distinct named from (
         select named from (
           select named, ${names}, 1 as n from ${anew}
           union all select u.named, ${of(kept)}, -1 from unit u ${table === 'unit' ? '' : `join ${table} t using (entity_id, unit_id)`}
             where u.entity_id = :e and u.period = :p and u.named = any(:named)) x
         group by named, ${names} having sum(n) <> 0) y order by 1`,
      here as never,
    ),
  )) as { rows: { named: string }[] }
  await trx.raw(`truncate ${anew}`)
  return rows.map((row) => row.named)
}
