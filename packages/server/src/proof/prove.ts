import { CORE_VERSION } from '@axion/core'
import { recordedAt } from '../baseline/import.ts'
import { noteGrown, type Books } from '../database/connection.ts'
import { overMonths } from '../database/planner.ts'
import { states } from '../documents/states.ts'
import { noteFacts } from '../setUp/clock.ts'
import { readDeparting } from '../setUp/departing.ts'
import { writeCommittedAlone } from './committedAlone.ts'
import { noteAllProved } from './due.ts'
import { writeUnread } from './flaws.ts'
import { behindIn, documentsOf, type Proving, type Touched, type Unit } from './gather.ts'
import { groundsOf, type Grounds } from './grounds.ts'
import { ALONE, byItself, threaded } from './hands.ts'
import { orphansIn } from './orphans.ts'
import { overlapped } from './overlapped.ts'
import { gathered } from './gathered.ts'
import { answeringOf, restingIn, touchedBySetUp } from './restsOn.ts'
import { settle } from './settle.ts'
import { rankCauses } from './rankCauses.ts'
import { weighingOf } from './weigh.ts'
import { composedBy, kitOf, type Kit } from './workOut.ts'
import { forgetMoved, noteProof, noteWithout, writeSlice, type Slice, type Writing } from './write.ts'

/** A proof of so many units changes how the planner should think of them. */
const MANY = 2000
export interface How {
  /** So many documents are worked out by this thread itself; more of them, by as many threads as there are processors for. */
  readonly alone?: number
}

/**
 * Proves a month anew, or what was touched in it: works out the units' facts and signatures, and weighs and diagnoses those whose
 * signatures differ. What comes to the same as before stays as it is written. Verdicts, totals and evidence are read from the rows
 * that this writes. Done in a transaction that changes the books.
 */
export async function prove(
  books: Books,
  period: string,
  touched: Touched = 'all',
  { alone = ALONE }: How = {},
): Promise<void> {
  const { trx } = books
  const grounds = await groundsOf(books)
  const departing = await readDeparting(books)
  const answering = answeringOf(grounds, departing)
  const kit = kitOf(grounds, answering, period)
  const writing: Writing = {
    grounds,
    period,
    touched,
    resting: restingIn(books, answering),
    weighing: weighingOf(grounds, period),
    proving: await provingOf(books),
  }
  await forgetMoved(writing)
  const keys = await documentsOf(books, period, touched)
  const { slice, ...hands } = keys.length > alone ? threaded(grounds, departing, period) : byItself(kit)
  const written = await overlapped(behindIn(grounds, period, keys, slice), {
    ...hands,
    write: (worked: Slice) => writeSlice(writing, worked),
  })
  const { units, without } = await orphansIn(books, kit, touched)
  written.push(await writeSlice(writing, orphaned(kit, units)))
  await noteWithout(writing, without)
  await writeUnread(grounds, period, touched, writing.proving)
  await writeCommittedAlone(grounds, period, writing.proving)
  if (touched === 'all') await noteProof(writing)
  const follow = async (): Promise<void> => {
    await followBookings(books, period)
    await settled(grounds, period)
  }
  if (written.reduce((all, units) => all + units, 0) < MANY) await follow()
  else {
    noteGrown(trx, 'facts')
    await overMonths(trx, follow)
  }
  await trx.raw('select sum_posts(?)', [books.entityId])
  await noteFacts(books)
}

function orphaned(kit: Kit, units: readonly Unit[]): Slice {
  const all = units.map((unit) => [unit, composedBy(kit, unit)] as const)
  return {
    worked: { units: all.map(([, of]) => of), asked: gathered(units.map(({ asked }) => asked)) },
    documents: null,
    unitsNamed: () => new Map(all.map(([unit, { named }]) => [named, unit])),
  }
}

/** What is kept or given back is looked at anew; what a credit of another month gives back, in both. */
export async function settleMonth(books: Books, period: string): Promise<void> {
  await settled(await groundsOf(books), period)
}

async function settled(grounds: Grounds, period: string): Promise<void> {
  for (const each of await settle(grounds, period)) {
    await rankCauses(grounds, each)
    await noteHistory(grounds, each)
  }
}

/** Proves every month of documents anew, and the month being worked in. */
export async function proveAll(books: Books, month: string, how: How = {}): Promise<void> {
  for (const each of new Set([...(await monthsOf(books)), month])) await prove(books, each, 'all', how)
  await noteAllProved(books)
}

/** Proves what was touched, in whatever months it stands. */
export async function proveTouched(books: Books, touched: Exclude<Touched, 'all'>): Promise<void> {
  const { rows } = (await books.trx.raw(
    `select period from document where entity_id = :e and named = any(:documents)
     union select period from unit where entity_id = :e and (named = any(:documents) or entry_id = any(:entries))
     union select period from ledger_entry where entity_id = :e and entry_id = any(:entries) order by 1`,
    { e: books.entityId, documents: [...touched.documents], entries: [...touched.entries] } as never,
  )) as { rows: { period: string }[] }
  for (const { period } of rows) await prove(books, period, touched)
}

/** Proves whatever rests on what changed in the set-up since it was last looked at. */
export async function proveChanged(books: Books, month: string): Promise<void> {
  const touched = await touchedBySetUp(books)
  await (touched === 'all' ? proveAll(books, month) : proveTouched(books, touched))
}

/** Every month that documents stand in, or that was proved before. */
export async function monthsOf({ trx, entityId }: Books): Promise<string[]> {
  const { rows } = (await trx.raw(
    'select period from document where entity_id = :e union select period from unit where entity_id = :e union select period from finding where entity_id = :e and period is not null order by 1',
    { e: entityId },
  )) as { rows: { period: string }[] }
  return rows.map((row) => row.period)
}

async function provingOf(books: Books): Promise<Proving> {
  const last = (await books
    .trx('unit')
    .where({ entity_id: books.entityId })
    .first(books.trx.raw('max(unit_id) as id'))) as {
    id: string | null
  }
  let number = BigInt(last.id ?? '0')
  return {
    determined: { determined_at: await recordedAt(books), core_version: CORE_VERSION },
    number: () => (++number).toString(),
  }
}

/** Why a document is not in the ledger follows its booking's state. */
async function followBookings({ trx, entityId }: Books, period: string): Promise<void> {
  await trx.raw(
    `update tie_unit u set missing_why = case when b.state in ${states('sending', 'failed', 'in-doubt', 'withdrawn')} then b.state when b.state in ${states('sent', 'booked')} then 'sent' else 'waiting' end
     from booking b where u.entity_id = ? and u.period = ? and u.headline = 'missing' and u.taken
       and b.entity_id = u.entity_id and b.system_id = u.system_id and b.document_id = u.document_id and b.kind = u.kind`,
    [entityId, period],
  )
}

/** One point of the month's falling number, where it moved. */
async function noteHistory({ trx, entityId, currency }: Grounds, period: string): Promise<void> {
  const { rows } = (await trx.raw(
    `select coalesce(sum(unproved), 0)::text as unproved, (select coalesce(sum(expected), 0) from tie_total where entity_id = :e and period = :p)::text as expected, count(*) > 0 as any
     from unit_sum where entity_id = :e and period = :p and posted`,
    { e: entityId, p: period },
  )) as { rows: { unproved: string; expected: string; any: boolean }[] }
  const now = rows[0]
  if (!now?.any) return
  const last = await trx('unproved_history')
    .where({ entity_id: entityId, period })
    .orderBy('at', 'desc')
    .first()
  if (last?.unproved !== now.unproved || last.expected !== now.expected)
    await trx('unproved_history').insert({
      entity_id: entityId,
      period,
      currency,
      unproved: now.unproved,
      expected: now.expected,
    })
}
