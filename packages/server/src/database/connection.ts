import { AsyncLocalStorage } from 'node:async_hooks'
import { Mutex, withTimeout } from 'async-mutex'
import knex, { type Knex } from 'knex'
import pg from 'pg'
import { BooksAway, NotHere, passes } from '../faults/errors.ts'
import { waits, type Waits } from '../settings/waits.ts'
import type { Homes } from './homes.ts'
import { sqlState } from './sqlState.ts'

export type Database = Knex
export type Transaction = Knex.Transaction

const DATE = 1082
// A date stays the text it is: read as local midnight it can slip a day.
pg.types.setTypeParser(DATE, (text) => text)

/** What goes with a pool, for whoever opens a transaction on it. */
interface Known {
  /** Seconds that somebody who asked for a page waits for others who change the same books. */
  readonly patience: number
  /** Where the books of each legal entity are; without it, all are here. */
  readonly homes?: Homes
}

/** A database that cannot be reached within so long does not answer. */
const LONGEST_CONNECTING_MS = 15_000

/**
 * A pool under the application's role, which owns nothing. `bigint` and `numeric` arrive as strings.
 * @param waits `patience`: seconds that somebody who asked for a page waits for others who change the same books; `idle`: after so many a
 * transaction that nothing is heard of is given up
 */
export function connect(
  connectionString: string,
  max = 10,
  { patience, idle }: Pick<Waits, 'patience' | 'idle'> = waits(1),
): Database {
  const known: Known = { patience }
  return knex({
    client: 'pg',
    connection: {
      connectionString,
      connectionTimeoutMillis: LONGEST_CONNECTING_MS,
      keepAlive: true,
      keepAliveInitialDelayMillis: 10_000,
    },
    pool: { min: 0, max, afterCreate: prepared(idle) },
  }).withUserParams(known as unknown as Record<string, unknown>)
}

/** The directory, through which the books of each entity are found in the database that they are in. */
export function withHomes(directory: Database, homes: Homes): Database {
  return directory.withUserParams({ ...knownOf(directory), homes } as unknown as Record<string, unknown>)
}

function knownOf(database: Database): Known {
  return database.userParams as unknown as Known
}

/**
 * No statement is compiled before it runs. The planner guesses at how many rows a view or a common table expression has, takes a page of a
 * small business for costly, and has it compiled for a quarter of a second where it runs for ten milliseconds; what is large is not faster by it.
 *
 * Whoever is cut off holds nothing for long: the database asks a silent connection within half a minute whether anybody is there, and gives
 * a transaction up of which it hears nothing, whatever stands between.
 */
function prepared(idle: number) {
  const settings = `set jit = off; set tcp_keepalives_idle = 10; set tcp_keepalives_interval = 5; set tcp_keepalives_count = 3;
    set idle_in_transaction_session_timeout = ${Math.ceil(idle * 1000)}`
  return (connection: pg.Client, done: (error: Error | null, connection: pg.Client) => void): void =>
    connection.query(settings, (error) => done(error, connection))
}

/** On whose behalf something is done: a request's, with the token of its session or of an invitation's link; or a run's. */
export interface Acting {
  readonly from?: string
  readonly token?: string | undefined
  readonly link?: string
  readonly run?: string
  /** The lease under which the run is worked at: once another worker has it, nothing is written any more. */
  readonly lease?: string
}

/** Who acts, for as long as a request or a slice of a run is under way. The trail finds the name behind it by itself. */
export const acting = new AsyncLocalStorage<Acting>()

/**
 * Tells a transaction's functions who acts in it, and in which legal entity.
 * @returns the currency of the entity's books; null where they are not in this database
 * @throws SQLSTATE AXL01 where it is for a run that another worker has taken over, AXL02 while the books are moved
 */
async function enter(trx: Transaction, entityId = ''): Promise<string | null> {
  const { from = '', token = '', link = '', run = '', lease = '' } = acting.getStore() ?? {}
  const { rows } = await trx.raw<{ rows: { books: string | null }[] }>(
    'select enter(?, ?, ?, ?, ?, ?) as books',
    [entityId, from, token, link, run, lease],
  )
  return rows[0]?.books ?? null
}

/** One transaction outside of any legal entity: of the practice and its people. */
export function inPractice<T>(database: Database, work: (trx: Transaction) => Promise<T>): Promise<T> {
  return database.transaction(async (trx) => {
    await enter(trx)
    return work(trx)
  })
}

/** What a transaction wrote so much of that the planner is to be told of its size, once it is committed. */
const grown = new WeakMap<Transaction, Set<Grown>>()
type Grown = 'books' | 'facts' | 'grids'
const LEARN: Readonly<Record<Grown, string>> = {
  books: 'select learn_grown()',
  facts: 'select learn_facts()',
  grids: 'select learn_align()',
}

/** Says that a transaction writes many rows: statistics are taken after it, in a transaction of their own, so that nobody waits for them. */
export function noteGrown(trx: Transaction, what: Grown): void {
  grown.get(trx)?.add(what)
}

/** A legal entity's books, for as long as one transaction is open on them. */
export interface Books {
  readonly trx: Transaction
  readonly entityId: string
  /** The currency that they are kept in. */
  readonly currency: string
}

/**
 * One transaction that sees and writes a single legal entity's rows, and no others: row-level security holds it there.
 * @throws BooksAway where the database that they are in does not answer
 */
export async function inEntity<T>(
  database: Database,
  entityId: string,
  work: (books: Books) => Promise<T>,
): Promise<T> {
  const { homes } = knownOf(database)
  if (!homes) return open(database, entityId, work)
  const once = async (): Promise<T> => {
    const beside = await homes.of(entityId)
    if (!beside) return open(database, entityId, work)
    if (homes.isSilent(beside)) throw new BooksAway(beside.name)
    try {
      await homes.introduce(beside, acting.getStore()?.token)
      return await open(beside.database, entityId, work)
    } catch (error) {
      if (!isUnreachable(error)) throw error
      homes.noteSilent(beside)
      throw new BooksAway(beside.name, { cause: error })
    }
  }
  try {
    return await once()
  } catch (error) {
    if (!(error instanceof NotHere)) throw error
    // It was moved since it was last entered from here.
    homes.forget(entityId)
    return once()
  }
}

/** Whether no connection could be had, or the one that there was is gone: what is amiss with a statement has a state of its own. */
function isUnreachable(error: unknown): boolean {
  const state = sqlState(error)
  if (state !== undefined) return /^(08|57P)/.test(state)
  return passes(error) && !(error instanceof OthersAtIt) && (error as Error).name !== 'KnexTimeoutError'
}

async function open<T>(database: Database, entityId: string, work: (books: Books) => Promise<T>): Promise<T> {
  const written = new Set<Grown>()
  const result = await database.transaction(async (trx) => {
    grown.set(trx, written)
    const currency = await enter(trx, entityId)
    if (currency === null) throw new NotHere(entityId)
    return work({ trx, entityId, currency })
  })
  // What was done is done: statistics that could not be taken are taken by the database's own clock.
  for (const what of written)
    await database
      .raw(LEARN[what])
      .catch((error: unknown) => process.stderr.write(`axion: statistics: ${(error as Error).message}\n`))
  return result
}

/**
 * Changes who belongs to an entity, which the directory knows, and its books, in which that is told: one transaction, or one in each where
 * the books are elsewhere. Theirs is kept first: the trail may tell of what then was not done, and never leaves out what was.
 */
export async function changingMembers<T>(
  database: Database,
  entityId: string,
  work: (members: Books, books: Books) => Promise<T>,
): Promise<T> {
  const { homes } = knownOf(database)
  const beside = homes ? await homes.of(entityId) : null
  if (!beside) return changing(database, entityId, (books) => work(books, books))
  return inDirectory(database, entityId, async (members) => {
    // The books' own turn is over before this transaction is: of two who act at once, one would not see the other.
    await waitFor(members, CHANGES)
    return changing(database, entityId, (books) => work(members, books))
  })
}

/** One transaction on what the directory knows of an entity, wherever its books are: who belongs to it. */
export function inDirectory<T>(
  database: Database,
  entityId: string,
  work: (books: Books) => Promise<T>,
): Promise<T> {
  return database.transaction(async (trx) => {
    await enter(trx, entityId)
    const entity = await trx('legal_entity').where({ entity_id: entityId }).first('base_currency')
    if (!entity) throw new NotHere(entityId)
    return work({ trx, entityId, currency: entity.base_currency })
  })
}

/** Who changes an entity's books waits here for the one before, and holds no connection meanwhile. */
const turns = new Map<string, Mutex>()

/**
 * One transaction that changes what an entity's proof reads or writes: one after another, so that locks are taken in one order.
 * It is never opened within another. Somebody who waits for an answer is told after a while that others are at the same; a run waits.
 * @throws what passes, where others are at it for too long
 */
export async function changing<T>(
  database: Database,
  entityId: string,
  work: (books: Books) => Promise<T>,
): Promise<T> {
  const impatient = acting.getStore()?.from !== undefined
  const patience = Math.ceil(knownOf(database).patience * 1000)
  const own = turns.get(entityId) ?? new Mutex()
  turns.set(entityId, own)
  const turn = impatient ? withTimeout(own, patience, new OthersAtIt()) : own
  return turn.runExclusive(() =>
    inEntity(database, entityId, async (books) => {
      if (impatient) await books.trx.raw(`set local lock_timeout = ${patience}`)
      await waitFor(books, CHANGES)
      noteGrown(books.trx, 'books')
      return work(books)
    }),
  )
}

/** What whoever changes an entity's books holds. */
const CHANGES = 'changes'

/**
 * Waits for a lock of the entity's own, a row of it, which is held to the end of the transaction. Locks are taken in this order: what the
 * entity's changes wait for, then a month's grids.
 */
export async function waitFor({ trx, entityId }: Books, what: string): Promise<void> {
  await trx.raw('select wait_for(?, ?)', [entityId, what])
}

/** Others were at the same for longer than anybody waits: it passes. */
export class OthersAtIt extends Error {
  /** As the database says of a lock that is not to be had. */
  readonly code = '55P03'
}

/** One transaction that sees what belongs to a person: their memberships, and the entities they name. */
export function asPerson<T>(
  database: Database,
  personId: string,
  work: (trx: Transaction) => Promise<T>,
): Promise<T> {
  return database.transaction(async (trx) => {
    await trx.raw(`select set_config('axion.person', ?, true)`, [personId])
    return work(trx)
  })
}

/** One after another: a transaction has one connection, which answers one query at a time. */
export async function inOrder<T, R>(
  items: readonly T[],
  work: (item: T, at: number) => Promise<R>,
): Promise<R[]> {
  const results: R[] = []
  for (const [at, item] of items.entries()) results.push(await work(item, at))
  return results
}
