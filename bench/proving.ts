import {
  agree,
  assume,
  candidatesOf,
  FINEST,
  recompute,
  together,
  UNCHANGED,
  type Assumption,
  type Changed,
  type Recomputable,
} from '@axion/core'
import {
  changing,
  inEntity,
  type Books,
  type Transaction,
} from '../packages/server/src/database/connection.ts'
import { overMonths } from '../packages/server/src/database/planner.ts'
import { startRun, type RunKind } from '../packages/server/src/jobs/runs.ts'
import { behindIn, unitsOf, type Unit } from '../packages/server/src/proof/gather.ts'
import { groundsOf, type Grounds } from '../packages/server/src/proof/grounds.ts'
import { proveTouched } from '../packages/server/src/proof/prove.ts'
import { touchedBySetUp } from '../packages/server/src/proof/restsOn.ts'
import { mostPairs, weighingOf, weighUnit } from '../packages/server/src/proof/weigh.ts'
import { FROM_DETAIL, fullProof } from '../packages/server/src/tieout/fullProof.ts'
import { ENTITY } from './month/founded.ts'
import { MONTH, runToItsEnd, type Pulled } from './pull.ts'
import { spreadOf, type Spread } from './timed.ts'

/** What is asked of a business that is read and proved, each beside its floor, in milliseconds. */
export interface ProvingTimes {
  /** The sums of stored facts, compared, beside the bare aggregate and join of the same columns; with all that is looked at besides. */
  readonly sums: Spread
  readonly bare: Spread
  readonly sumsAndPages: number
  /** A full proof from documents, as a run of the worker. */
  readonly anew: number
  /** What differs, judged and diagnosed, beside the recomputation of the same candidates. */
  readonly judging: Spread
  readonly recomputing: Spread
  readonly judged: number
  readonly candidates: number
  /** A pull that brings so many changed documents of two months, and proves them. */
  readonly changes: number
  readonly changed: number
  /** A party that is agreed upon: what rests on it is found and proved, with what is explained by the set-up as a whole. */
  readonly act: number
  readonly touched: number
}

const ROUNDS = 3

/** The same columns as a full proof reads: tax, bases and nets in both currencies, three voices of the one and two of the other, aggregated and joined; no rule is applied to what is found. */
const said = (voice: string): string =>
  `(select unit_id, agency, account, sum(tax) as tax, sum(in_base) as in_base, sum(base) as base from tax_fact where entity_id = :e and voice = '${voice}' group by 1, 2, 3)`
const net = (voice: string): string =>
  `(select unit_id, account, sum(net) as net from net_fact where entity_id = :e and voice = '${voice}' group by 1, 2)`
const BARE_JOIN = `select
  (select count(*) from ${said('expected')} x full join ${said('booked')} y using (unit_id, agency, account)
     full join (select unit_id, agency, sum(tax) as tax from tax_fact where entity_id = :e and voice = 'stated' group by 1, 2) z using (unit_id, agency)
   where x.tax is distinct from y.tax or x.in_base is distinct from y.in_base or x.base is distinct from y.base or x.tax is distinct from z.tax),
  (select count(*) from ${net('expected')} x full join ${net('booked')} y using (unit_id, account) where x.net is distinct from y.net)`

export async function timeProving(pulled: Pulled): Promise<ProvingTimes> {
  const { database } = pulled
  const inside = <T>(work: (books: Books) => Promise<T>): Promise<T> => inEntity(database, ENTITY, work)
  const [sums, bare]: [number[], number[]] = [[], []]
  for (let round = 0; round < ROUNDS; round++) {
    sums.push(await took(() => inside(({ trx }) => inBulk(trx, FROM_DETAIL, { e: ENTITY, p: MONTH }))))
    bare.push(await took(() => inside(({ trx }) => inBulk(trx, BARE_JOIN, { e: ENTITY }))))
  }
  const sumsAndPages = await took(() => inside((books) => fullProof(books, MONTH)))
  const anew = await took(() => done(pulled, 'full-proof', { month: MONTH }))
  const { judging, recomputing, judged, candidates } = await timeJudging(pulled)
  const changed = pulled.changes()
  const changes = await took(() => done(pulled, 'pull', { month: MONTH, systemIds: null }))
  let touched = 0
  await inside(touchedBySetUp)
  const act = await took(() =>
    changing(database, ENTITY, async (books) => {
      await books.trx('party').insert({
        entity_id: ENTITY,
        object_id: pulled.party,
        name: 'Agreed upon',
        claims: 'resale',
        catch_all: false,
        valid: '[,)',
      })
      const found = await touchedBySetUp(books)
      if (found === 'all') throw new Error('one party is not everything')
      touched = found.documents.size
      await proveTouched(books, found)
    }),
  )
  return {
    sums: spreadOf(sums),
    bare: spreadOf(bare),
    sumsAndPages,
    anew,
    judging,
    recomputing,
    judged,
    candidates,
    changes,
    changed,
    act,
    touched,
  }
}

async function took(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now()
  await work()
  return performance.now() - began
}

const inBulk = (trx: Transaction, sql: string, of: Readonly<Record<string, string>>): Promise<unknown> =>
  overMonths(trx, () => trx.raw(sql, of))

async function done<K extends RunKind>(
  { database, worker }: Pulled,
  kind: K,
  payload: Parameters<typeof startRun<K>>[1]['payload'],
): Promise<void> {
  const run = await changing(database, ENTITY, (books) =>
    startRun(books, { kind, payload, startedBy: 'bench' }),
  )
  await runToItsEnd(database, run, worker)
}

/**
 * Judges and diagnoses whatever differs in the month, as a proof does, and recomputes the same documents under the same assumptions, one at a
 * time and in pairs, without comparing, ranking or keeping anything. Each time from units that were worked out afresh: what a determination
 * comes to is remembered with it.
 */
async function timeJudging({ database }: Pulled): Promise<{
  readonly judging: Spread
  readonly recomputing: Spread
  readonly judged: number
  readonly candidates: number
}> {
  return inEntity(database, ENTITY, async (books) => {
    const grounds = await groundsOf(books)
    const { rows } = (await books.trx.raw(
      `select named from unit where entity_id = :e and period = :p and differs and document_id is not null order by document_date, number, document_id`,
      { e: ENTITY, p: MONTH },
    )) as { rows: { named: string }[] }
    const keys = rows.map(({ named }) => named)
    const [judging, recomputing]: [number[], number[]] = [[], []]
    let candidates = 0
    for (let round = 0; round < ROUNDS; round++) {
      let [weighed, bare] = [0, 0]
      candidates = 0
      const weighing = weighingOf(grounds, MONTH)
      for await (const behind of behindIn(grounds, MONTH, keys, 1000)) {
        const most = [...unitsOf(grounds, MONTH, behind)].map((unit) => {
          const pairs = mostPairs(weighing)
          const began = performance.now()
          weighUnit(unit, grounds, weighing)
          weighed += performance.now() - began
          return tried(unit, grounds, weighing.departures, pairs)
        })
        const afresh = [...unitsOf(grounds, MONTH, behind)]
        const began = performance.now()
        for (const [at, unit] of afresh.entries())
          candidates += recomputed(unit, grounds, weighing.departures, most[at] ?? NOTHING_TRIED)
        bare += performance.now() - began
      }
      judging.push(weighed)
      recomputing.push(bare)
    }
    return { judging: spreadOf(judging), recomputing: spreadOf(recomputing), judged: keys.length, candidates }
  })
}

/** Which assumptions change something by themselves, by their places, and how many pairs of them are tried; none where one alone explains it. */
interface Tried {
  readonly moving: readonly number[]
  readonly pairs: number
}
const NOTHING_TRIED: Tried = { moving: [], pairs: 0 }

const subjectOf = ({ source, expected }: Unit, { index }: Grounds): Recomputable | null =>
  source && { document: source.document, determination: source.determination, expected, index }
const assumptionsOf = (
  of: Recomputable,
  { systems }: Grounds,
  departures: ReadonlyMap<string, readonly Assumption[]>,
): readonly Assumption[] => [
  ...(departures.get(systems.find((system) => system.row.role === 'ledger')?.row.system_id ?? '') ?? []),
  ...candidatesOf(of),
]

function tried(
  unit: Unit,
  grounds: Grounds,
  departures: ReadonlyMap<string, readonly Assumption[]>,
  most: number,
): Tried {
  const of = subjectOf(unit, grounds)
  if (!of || unit.booked.length !== 1) return NOTHING_TRIED
  const odd = together(unit.booked)
  const start = UNCHANGED(of.document)
  const voices = assumptionsOf(of, grounds, departures).map((assumption) => {
    const changed = assume(assumption, start, of)
    return changed && recompute(changed, of)
  })
  const grain = { ...FINEST, nets: 'total' } as const
  if (voices.some((voice) => voice && agree(voice, odd, grain))) return NOTHING_TRIED
  return {
    moving: voices.flatMap((voice, at) => (voice && !agree(voice, of.expected, grain) ? [at] : [])),
    pairs: most,
  }
}

/** What a document comes to under each assumption by itself, and under pairs, of the ledger's voice. @returns how many there were */
function recomputed(
  unit: Unit,
  grounds: Grounds,
  departures: ReadonlyMap<string, readonly Assumption[]>,
  { moving, pairs }: Tried,
): number {
  const of = subjectOf(unit, grounds)
  if (!of) return 0
  const start = UNCHANGED(of.document)
  const assumptions = assumptionsOf(of, grounds, departures)
  let done = 0
  const comesTo = (changed: Changed | null): void => {
    if (changed && recompute(changed, of)) done++
  }
  const changes = assumptions.map((assumption) => assume(assumption, start, of))
  changes.forEach(comesTo)
  let left = pairs
  for (const [at, first] of moving.entries())
    for (const second of moving.slice(at + 1)) {
      if (left-- <= 0) return done
      const [changed, assumption] = [changes[first], assumptions[second]]
      if (changed && assumption) comesTo(assume(assumption, changed, of))
    }
  return done
}
