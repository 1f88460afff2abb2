import type { Columns } from '../database/row.ts'
import { ALSO_OF, RESOURCES_OF, say, type Location, type Resource } from '@axion/contract'
import { parseAmount, lastDayOf } from '@axion/core'
import type { Bridge } from '../bridges/client.ts'
import { unseal } from '../bridges/secrets.ts'
import {
  changing,
  inEntity,
  inOrder,
  noteGrown,
  type Books,
  type Transaction,
} from '../database/connection.ts'
import { json } from '../database/json.ts'
import { insertRows } from '../database/insert.ts'
import { passes } from '../faults/errors.ts'
import { Problem } from '../faults/problem.ts'
import { Cancelled, reasonOf, TurnOver } from '../jobs/ending.ts'
import type { Services } from '../services/services.ts'
import type { SystemRow } from '../setUp/held.ts'
import type { ReadAs, RowsRead } from '../reading/thread.ts'
import { Ahead } from './ahead.ts'
import { pageOf, stage, type Staged } from './staged.ts'
import { noneOf, takeResource, type PullCount, type Read } from './take.ts'

interface Begun extends Columns<'pull', 'pull_id' | 'counts'> {
  readonly counts: PullCount[]
}

/** A system as a run reads it. */
interface Pulling {
  readonly runId: string
  readonly system: SystemRow
  /** The month that findings without a date of their own are kept under. */
  readonly month: string
  /** Told of each resource as it is begun, in the transaction that looks how far it was read. */
  readonly step: (books: Books, resource: string) => Promise<void>
  /** Asked between pages; throws where somebody cancelled the run, or its turn is over. */
  readonly goesOn: () => Promise<void>
}

interface Reading extends Pulling {
  readonly services: Services
  readonly entityId: string
  readonly bridge: Bridge
}

/**
 * Pulls one system: each resource from where the last pull ended, atomically.
 * An object in a bad shape becomes a finding that names it; the rest is taken. Nothing is sent.
 * A slice of the same run that was here before is gone on with.
 */
export async function pullSystem(
  services: Services,
  entityId: string,
  pulling: Pulling,
): Promise<PullCount[]> {
  const { system, runId } = pulling
  const bridge = services.bridges.open(
    system.name,
    system.address,
    unseal(system.token_sealed, services.settings.AXION_SECRET_KEY),
    { patient: true },
  )
  const begun = await inEntity(services.database, entityId, async ({ trx }): Promise<Begun> => {
    const of = { entity_id: entityId, system_id: system.system_id, run_id: runId }
    const open = (await trx('pull')
      .where({ ...of, ended: false })
      .first('pull_id', 'counts')) as Begun | undefined
    if (open) return open
    const [row] = (await trx('pull')
      .insert({ ...of, counts: '[]' })
      .returning(['pull_id', 'counts'])) as [Begun]
    return row
  })
  try {
    return await readSystem({ ...pulling, services, entityId, bridge }, begun)
  } catch (error) {
    const note = (ended: object): Promise<void> =>
      inEntity(services.database, entityId, (books) =>
        noteCounts(books, begun.pull_id, { counts: begun.counts, ...ended }),
      )
    if (error instanceof TurnOver) await note({})
    if (passes(error) || error instanceof TurnOver) throw error
    const { code, facts } =
      error instanceof Cancelled
        ? new Problem('AXION_PULL_CANCELLED', { system: system.name })
        : reasonOf(error)
    await note({ problem: json({ code, facts }), ended: true, finished_at: services.database.fn.now() })
    throw error instanceof Cancelled ? error : new Problem(code, facts)
  }
}

/** What the database, or something that nobody foresaw, makes of a resource is told with its name; the log has the rest. */
async function namingIt<T>(system: string, resource: Resource, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Problem || error instanceof Cancelled || error instanceof TurnOver || passes(error))
      throw error
    const { code, facts } = reasonOf(error)
    throw new Problem('AXION_PULL_BROKE', {
      system,
      resource: resource.replaceAll('-', ' '),
      detail: facts['detail'] ?? say(code, facts).says,
    })
  }
}

/** @param begun whose counts grow as resources are read */
async function readSystem(reading: Reading, { pull_id: pullId, counts }: Begun): Promise<PullCount[]> {
  const { services, entityId, bridge, system, month } = reading
  const about = await bridge.about()
  const settings = await bridge.settings()
  await inEntity(services.database, entityId, ({ trx }) =>
    trx('system')
      .where({ entity_id: entityId, system_id: system.system_id })
      .update({ about: json(about), settings: json(settings) }),
  )
  for (const resource of [
    ...RESOURCES_OF[system.role],
    ...ALSO_OF[system.role].filter((one) => about.resources.includes(one)),
  ]) {
    if (counts.some((one) => one.resource === resource)) continue
    const read = await changesOf(reading, resource)
    if (read === null) counts.push(noneOf(resource))
    else
      await namingIt(system.name, resource, () =>
        changing(services.database, entityId, async (books) => {
          const count = await takeResource({ books, pullId, system, resource, month }, await read(books.trx))
          await noteCounts(books, pullId, { counts: [...counts, count] })
          return count
        }).then((count) => counts.push(count)),
      )
  }
  await inEntity(services.database, entityId, (books) =>
    noteCounts(books, pullId, { counts, ended: true, finished_at: books.trx.fn.now() }),
  )
  return counts
}

/** What was read so far, with whatever else a pull came to: a slice that goes on does not ask for it again. */
async function noteCounts(
  { trx, entityId }: Books,
  pullId: string,
  { counts, ...ended }: { readonly counts: readonly PullCount[]; readonly [column: string]: unknown },
): Promise<void> {
  await trx('pull')
    .where({ entity_id: entityId, pull_id: pullId })
    .update({ ...ended, counts: json(counts) })
}

interface ReadSoFar {
  readonly cursor: { readonly sequence: string; readonly whole: boolean } | undefined
  readonly unread: readonly { readonly object_id: string; readonly sequence: string }[]
}

/** How far a resource was read, and which of its objects could not be. */
async function readSoFar({ trx }: Books, of: Staged): Promise<ReadSoFar> {
  return {
    cursor: await trx('pull_cursor').where(of).first('sequence', 'whole'),
    unread: (await trx('finding')
      .where(of)
      .whereNotNull('sequence')
      .orderBy('sequence')
      .limit(MOST_READ_AGAIN)
      .select('object_id', 'sequence')) as { object_id: string; sequence: string }[],
  }
}

/**
 * A resource to its end: what came is staged, and taken over from there.
 * @returns null where nothing came, and there is nothing to take note of
 */
async function changesOf(
  reading: Reading,
  resource: Resource,
): Promise<((trx: Transaction) => Promise<Read>) | null> {
  const { services, entityId, bridge, system } = reading
  const { database } = services
  const of = { entity_id: entityId, system_id: system.system_id, resource }
  const { cursor, unread, as } = await inEntity(database, entityId, async (books) => {
    await reading.step(books, resource)
    return { ...(await readSoFar(books, of)), as: await readAs(books, system, resource) }
  })
  // What could not be read is asked for again: its source may have been mended without a word.
  const parts: RowsRead[] = await inOrder(unread, ({ object_id: only, sequence }) =>
    bridge.page({ after: (BigInt(sequence) - 1n).toString(), limit: 1, only }, as),
  )
  const start = cursor?.sequence ?? '0'
  let next = start
  const ahead = new Ahead((after) => bridge.page({ after }, as))
  let pages = 0
  for (let more = true; more;) {
    const after = next
    const page = await namingIt(system.name, resource, () =>
      pageOf(database, of, after, async () => {
        await reading.goesOn()
        return ahead.page(after)
      }),
    )
    if (page.rows) parts.push(page.rows)
    ;({ next, more } = page)
    pages++
  }
  const came = parts.some(({ count }) => count > 0)
  if (cursor?.whole === false && next === start && !came) return null
  // What was staged is in the database of the entity's books, which the planner is to know the size of.
  if (pages > MANY_PAGES)
    await inEntity(database, entityId, ({ trx }) => Promise.resolve(noteGrown(trx, 'books')))
  return async (trx) => {
    for (const { rows } of parts) await stage(trx, of, rows)
    return { next, whole: cursor?.whole === true }
  }
}

/** So many pages change how the planner should think of what is staged. */
const MANY_PAGES = 4

async function readAs(
  { trx, entityId, currency }: Books,
  { role, system_id: systemId }: SystemRow,
  resource: Resource,
): Promise<Omit<ReadAs, 'spoilt'>> {
  const places = (await trx('held_object')
    .where({ entity_id: entityId, system_id: systemId, resource: 'locations', removed: false })
    .select('object_id', 'value')) as { object_id: string; value: Location }[]
  return {
    role,
    resource,
    booksCurrency: currency,
    places: new Map(resource === 'documents' ? places.map((row) => [row.object_id, row.value]) : []),
  }
}

/** So many objects that could not be read are asked for again in one pull. */
const MOST_READ_AGAIN = 200

/** The ledger's balances at the end of each month. */
export async function pullBalances(
  services: Services,
  entityId: string,
  { system_id: systemId, name, address, token_sealed: token }: SystemRow,
  months: readonly string[],
): Promise<void> {
  const bridge = services.bridges.open(name, address, unseal(token, services.settings.AXION_SECRET_KEY), {
    patient: true,
  })
  for (const period of months) {
    const { items } = await bridge.balances(`${period}-01`, lastDayOf(period))
    await changing(services.database, entityId, async ({ trx }) => {
      const accounts = (await trx('held_object')
        .where({ entity_id: entityId, system_id: systemId, resource: 'accounts', removed: false })
        .select('object_id', trx.raw(`value->>'number' as number`))) as {
        object_id: string
        number: string
      }[]
      await trx('ledger_balance').where({ entity_id: entityId, system_id: systemId, period }).delete()
      await insertRows(
        trx,
        'ledger_balance',
        items.flatMap(({ accountId, currency, opening, closing }) => {
          const account = accounts.find((a) => a.object_id === accountId)?.number
          return account === undefined
            ? []
            : [
                {
                  entity_id: entityId,
                  system_id: systemId,
                  period,
                  account,
                  currency,
                  opening: parseAmount(opening, currency).toString(),
                  closing: parseAmount(closing, currency).toString(),
                },
              ]
        }),
      )
    })
  }
}
