import { type Books } from '../database/connection.ts'
import { digestOf } from '../database/json.ts'
import { insertRows } from '../database/insert.ts'
import { alignedOf } from '../setUp/aligned.ts'
import { departingOf, readDeparting, type DepartingRows } from '../setUp/departing.ts'
import { connectedSystems } from '../setUp/held.ts'
import { stampsOf } from '../database/stamped.ts'
import { groundsOf, type SetUp } from './grounds.ts'
import type { Touched } from './gather.ts'
import { NOBODYS } from './orphans.ts'
import type { Gathered } from './gathered.ts'
import { answerTo, type Answering } from './questions.ts'

/** Numbers of the sets of questions that units rest on, kept from slice to slice of one proof. */
export type Resting = (asked: Gathered) => Promise<readonly (readonly number[])[]>

/** @param answering what a question that was never asked before is answered by */
export function restingIn(books: Books, answering: Answering): Resting {
  const questions = numbered(books, 'question', 'question_no', (asked) => ({
    asked,
    answer: digestOf([answerTo(asked, answering)]),
  }))
  const sets = numbered(books, 'question_set', 'set_no', (joined) => ({
    questions: `{${joined}}`,
  }))
  return async ({ texts, groups, units }) => {
    const noted = await questions(new Set(texts))
    const numbers = texts.map((text) => numberOf(text, noted))
    const joined = groups.map((places) =>
      places
        .map((place) => numbers[place] as number)
        .sort((a, b) => a - b)
        .join(','),
    )
    const known = await sets(new Set(joined))
    const setsOf = joined.map((text) => numberOf(text, known))
    return units.map((of) => of.map((place) => setsOf[place] as number).sort((a, b) => a - b))
  }
}

function numberOf(text: string, numbers: ReadonlyMap<string, number>): number {
  const number = numbers.get(text)
  if (number === undefined) throw new Error(`"${text}" has no number`)
  return number
}

/** Texts by the entity's own number of each, which is given where there is none yet. */
function numbered(
  { trx, entityId }: Books,
  table: 'question' | 'question_set',
  column: 'question_no' | 'set_no',
  columns: (text: string) => object,
): (texts: ReadonlySet<string>) => Promise<ReadonlyMap<string, number>> {
  const known = new Map<string, number>()
  return async (texts) => {
    const unknown = new Map(
      [...texts].filter((text) => !known.has(text)).map((text) => [digestOf(text), text] as const),
    )
    if (unknown.size === 0) return known
    const found = (await trx(table)
      .where({ entity_id: entityId })
      .whereRaw('digest = any(?)', [[...unknown.keys()]])
      .select('digest', `${column} as no`)) as { digest: string; no: number }[]
    const note = (digest: string, no: number): void => {
      const text = unknown.get(digest)
      if (text !== undefined) known.set(text, no)
      unknown.delete(digest)
    }
    for (const { digest, no } of found) note(digest, no)
    if (unknown.size === 0) return known
    const last = (await trx(table)
      .where({ entity_id: entityId })
      .first(trx.raw('coalesce(max(??), 0) as no', [column]))) as { no: number }
    const fresh = [...unknown].map(([digest, text], at) => ({
      entity_id: entityId,
      [column]: last.no + at + 1,
      digest,
      ...columns(text),
    }))
    await insertRows(trx, table, fresh)
    for (const row of fresh) note(row.digest, row[column] as number)
    return known
  }
}

/** The set-up as questions are put to it: of systems beside the baseline, only what is asked. */
export function answeringOf(setUp: SetUp, departing: DepartingRows): Answering {
  const { index, systems } = setUp
  const known = new Map<string, ReturnType<typeof alignedOf>>()
  return {
    index,
    accounts: setUp.accounts(),
    systems,
    departing: departingOf(departing),
    aligned: (systemId, date) => {
      const system = systems.find(({ row }) => row.system_id === systemId)
      const key = `${systemId} ${date}`
      const found = known.get(key) ?? (system && alignedOf(system, index, date))
      if (found) known.set(key, found)
      return found
    },
  }
}

/** As what set-up answers were given. */
interface AnsweredBy {
  readonly agreed: string | null
  readonly held: string | null
  /** What systems say of themselves that set-up is read by. */
  readonly settings: string
  /** The systems that are connected, as far as units are read by what they are. */
  readonly systems: string
}

type System = readonly [id: string, role: string, name: string]

async function answeredByNow(books: Books): Promise<AnsweredBy> {
  const systems = await connectedSystems(books)
  return {
    ...(await stampsOf(books)),
    settings: digestOf(systems.map(({ system_id: id, settings }) => [id, settings])),
    systems: JSON.stringify(systems.map(({ system_id: id, role, name }): System => [id, role, name])),
  }
}

/**
 * What rests on an answer that the set-up gives otherwise now than when it was last looked at; all that a system sent which is connected
 * now and was not, or the other way about, or is another than it was, and everything where that is the ledger. Whoever changes a set-up has this proved, or noted as due, in the same transaction.
 */
export async function touchedBySetUp(books: Books): Promise<Touched> {
  const { trx, entityId } = books
  const before = (await trx('answered_by').where({ entity_id: entityId }).first()) as AnsweredBy | undefined
  const now = await answeredByNow(books)
  if (before && (Object.keys(now) as (keyof AnsweredBy)[]).every((of) => before[of] === now[of]))
    return { documents: new Set(), entries: new Set() }
  const changed = await answeredOtherwise(books)
  await trx('answered_by')
    .insert({ entity_id: entityId, ...now })
    .onConflict('entity_id')
    .merge()
  const others = before ? otherSystems(before, now) : null
  if (others === null || others.some(([, role]) => role === 'ledger')) return 'all'
  const resting = await restingOn(books, changed)
  const sent = (await trx('document')
    .where({ entity_id: entityId })
    .whereRaw('system_id = any(?)', [others.map(([id]) => id)])
    .select('named')) as { named: string }[]
  return {
    ...resting,
    documents: new Set([...resting.documents, ...sent.map(({ named }) => named)]),
  }
}

/** Systems that are in one list and not, as they are there, in the other. */
function otherSystems(before: AnsweredBy, now: AnsweredBy): readonly System[] {
  const [was, is] = [before, now].map(({ systems }) => JSON.parse(systems) as System[]) as [
    System[],
    System[],
  ]
  const without = (some: readonly System[], others: readonly System[]): System[] =>
    some.filter((one) => !others.some((other) => one.every((part, at) => part === other[at])))
  return [...without(was, is), ...without(is, was)]
}

/**
 * What rests on an answer that the set-up gives otherwise than it stands with the question; nothing of it is noted. Units that were explained by
 * the set-up as a whole are among it, whatever changed.
 */
export async function restingOtherwise(books: Books): Promise<Exclude<Touched, 'all'>> {
  return restingOn(
    books,
    (await otherAnswers(books)).map(({ no }) => no),
  )
}

/** Puts every question anew, and keeps what each comes to now. */
async function answeredOtherwise(books: Books): Promise<readonly number[]> {
  const { trx, entityId } = books
  const changed = await otherAnswers(books)
  await trx.raw(
    'update question q set answer = v.answer from unnest(:nos::int[], :answers::text[]) as v (no, answer) where q.entity_id = :e and q.question_no = v.no',
    {
      e: entityId,
      nos: changed.map(({ no }) => no),
      answers: changed.map(({ now: answer }) => answer),
    } as never,
  )
  return changed.map(({ no }) => no)
}

/** Questions that are answered otherwise now than it stands with them. */
async function otherAnswers(books: Books): Promise<readonly { readonly no: number; readonly now: string }[]> {
  const { trx, entityId } = books
  const answering = answeringOf(await groundsOf(books), await readDeparting(books))
  const all = (await trx('question')
    .where({ entity_id: entityId })
    .select('question_no', 'asked', 'answer')) as {
    readonly question_no: number
    readonly asked: string
    readonly answer: string
  }[]
  return all.flatMap(({ question_no: no, asked, answer }) => {
    const now = digestOf([answerTo(asked, answering)])
    return now === answer ? [] : [{ no, now }]
  })
}

/** Units that rest on any of these, and those that were explained by the set-up as a whole; and entries that may become units. */
async function restingOn(
  { trx, entityId }: Books,
  questions: readonly number[],
): Promise<Exclude<Touched, 'all'>> {
  const { rows: sets } = (await trx.raw(
    'select distinct s.set_no from question_set s cross join unnest(s.questions) as q (no) where s.entity_id = :entity and q.no in (select unnest(:questions::int[]))',
    { entity: entityId, questions } as never,
  )) as { rows: { set_no: number }[] }
  const { rows } = (await trx.raw(
    `with changed as materialized (select unnest(:sets::int[]) as no)
     select distinct case when u.document_id is not null then u.named end as document, u.entry_id as entry from unit u left join lateral unnest(u.rests_on) as r (no) on true
     where u.entity_id = :entity and (u.rests_on is null or u.by_set_up or r.no in (select no from changed))
     union select null, e.entry_id from without_unit w join ledger_entry e on e.entity_id = w.entity_id and e.period = w.period
     where w.entity_id = :entity and w.rests_on && :sets::int[] and ${NOBODYS}`,
    { entity: entityId, sets: sets.map((row) => row.set_no) } as never,
  )) as { rows: { document: string | null; entry: string | null }[] }
  return {
    documents: new Set(rows.flatMap(({ document }) => document ?? [])),
    entries: new Set(rows.flatMap(({ entry }) => entry ?? [])),
  }
}
