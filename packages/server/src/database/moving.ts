import { pipeline } from 'node:stream/promises'
import { setTimeout as pause } from 'node:timers/promises'
import pg from 'pg'
import { from as copyFrom, to as copyTo } from 'pg-copy-streams'
import { DIRECTORY } from '../settings/settings.ts'

/** The databases of an installation by name, the directory among them, each as the owner of its schema. */
export type Owners = ReadonlyMap<string, pg.Client>

/** Who entered before an entity's books were closed is waited for so long. */
const LONGEST_MS = 600_000
const LOOKS_MS = 200

export interface Moving {
  readonly entityId: string
  /** The name of a database of `owners`. */
  readonly to: string
  /** Is told of each step. */
  readonly say: (line: string) => void
}

/**
 * Moves the books of an entity, whole, to another database. They are closed meanwhile: requests are told so, and runs go on where they
 * were once the books are open again, under another lease. Until the directory says where they are now, they are where they were, and what
 * arrived elsewhere counts for nothing; so it may be stopped at any point, and asked for again. Asked to move where the books are
 * already, it opens them, and takes away what is left of them elsewhere.
 * Two moves of one entity exclude each other, for as long as the connection of whoever moves it lasts.
 * @throws what is wrong with what was asked; what went wrong meanwhile, once the books are open again where they were
 */
export async function moveBooks(owners: Owners, moving: Moving): Promise<void> {
  const directory = need(owners, DIRECTORY)
  const lock = [`move ${moving.entityId}`]
  const { rows } = await directory.query<{ alone: boolean }>(
    'select pg_try_advisory_lock(hashtextextended($1, 0)) as alone',
    lock,
  )
  if (rows[0]?.alone !== true) throw new Error(`${moving.entityId} is being moved already`)
  try {
    await moveAlone(owners, moving)
  } finally {
    await directory.query('select pg_advisory_unlock(hashtextextended($1, 0))', lock)
  }
}

/** Two moves of one entity would each take away what the other carries. */
async function moveAlone(owners: Owners, { entityId, to, say }: Moving): Promise<void> {
  const directory = need(owners, DIRECTORY)
  const target = need(owners, to)
  const { rows } = await directory.query<{ lives_in: string | null }>(
    'select lives_in from legal_entity where entity_id = $1',
    [entityId],
  )
  const [home] = rows
  if (!home) throw new Error(`there is no legal entity "${entityId}"`)
  const from = home.lives_in ?? DIRECTORY
  const source = need(owners, from)
  for (const client of owners.values())
    await client.query(`select set_config('axion.entity', $1, false)`, [entityId])
  if (from !== to) {
    await requireOneSchema(source, target)
    await close(source, entityId)
    try {
      await empty(target, entityId)
      await carry(source, target, { entityId, to, say })
    } catch (error) {
      await open(source, entityId)
      throw error
    }
    // From here on they are there.
    await directory.query('update legal_entity set lives_in = $2 where entity_id = $1', [
      entityId,
      to === DIRECTORY ? null : to,
    ])
  }
  await open(target, entityId)
  for (const [name, client] of owners)
    if (name !== to) {
      await empty(client, entityId)
      await (name === DIRECTORY
        ? open(client, entityId)
        : client.query('delete from legal_entity where entity_id = $1', [entityId]))
    }
  await target.query('select learn_grown()')
  say(`the books of ${entityId} are in ${to}`)
}

function need(owners: Owners, name: string): pg.Client {
  const found = owners.get(name)
  if (!found) throw new Error(`there is no database "${name}"; there are ${[...owners.keys()].join(', ')}`)
  return found
}

async function requireOneSchema(source: pg.Client, target: pg.Client): Promise<void> {
  const newest = async (client: pg.Client): Promise<string | undefined> =>
    (await client.query<{ name: string }>('select name from knex_migrations order by id desc limit 1'))
      .rows[0]?.name
  if ((await newest(source)) !== (await newest(target)))
    throw new Error('the two databases are of different versions: bring both up to date first')
}

/** Closes the books, and waits until all who had entered them before are gone: each holds a lock on the table that says whether they are closed. */
async function close(source: pg.Client, entityId: string): Promise<void> {
  await source.query(
    'update legal_entity set moving_since = coalesce(moving_since, now()) where entity_id = $1',
    [entityId],
  )
  const within = async (): Promise<string[]> =>
    (
      await source.query<{ one: string }>(
        `select distinct l.virtualtransaction as one from pg_locks l
         where l.relation = 'legal_entity'::regclass and l.database = (select oid from pg_database where datname = current_database()) and l.pid <> pg_backend_pid()`,
      )
    ).rows.map(({ one }) => one)
  let before = await within()
  const until = performance.now() + LONGEST_MS
  while (before.length > 0) {
    if (performance.now() > until) {
      await open(source, entityId)
      throw new Error(`somebody is at what they began before, for longer than ${LONGEST_MS / 60_000} minutes`)
    }
    await pause(LOOKS_MS)
    const now = new Set(await within())
    before = before.filter((one) => now.has(one))
  }
}

function open(client: pg.Client, entityId: string): Promise<unknown> {
  return client.query('update legal_entity set moving_since = null where entity_id = $1', [entityId])
}

interface Table {
  readonly name: string
  readonly columns: readonly string[]
  /** What its rows need to be there first. */
  readonly needs: readonly string[]
}

/** All that has an entity's rows, but for what the directory alone knows, each after what it needs. */
async function tablesOf(client: pg.Client): Promise<Table[]> {
  const { rows } = await client.query<Table>(`
    select c.relname as name,
      array(select attname::text from pg_attribute where attrelid = c.oid and attnum > 0 and not attisdropped and attgenerated = '' order by attnum) as columns,
      array(select distinct confrelid::regclass::text from pg_constraint where conrelid = c.oid and contype = 'f' and confrelid <> c.oid and confrelid <> 'legal_entity'::regclass) as needs
    from pg_class c
    where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and c.relname not in ('legal_entity', 'membership')
      and exists (select from pg_attribute where attrelid = c.oid and attname = 'entity_id' and not attisdropped)
    order by (c.relname = 'set_up_stamp'), c.relname`)
  const placed = new Set<string>()
  const inOrder: Table[] = []
  while (inOrder.length < rows.length) {
    const next = rows.filter(({ name, needs }) => !placed.has(name) && needs.every((one) => placed.has(one)))
    if (next.length === 0) throw new Error('tables need each other in a circle')
    for (const table of next) {
      placed.add(table.name)
      inOrder.push(table)
    }
  }
  // What others write by themselves comes last, so that it is as it was.
  return [
    ...inOrder.filter(({ name }) => name !== 'set_up_stamp'),
    ...inOrder.filter(({ name }) => name === 'set_up_stamp'),
  ]
}

/** What follows other rows by itself, wherever they arrive: it is not carried, and goes after them. */
const FOLLOWING = ['post_line', 'post_sum', 'unit_sum', 'touch_sum']
/** What is written by itself where something else goes: it goes last. */
const WRITTEN_BY_OTHERS = ['past', 'set_up_stamp', 'tie_total', ...FOLLOWING]

/** Takes away what a database has of an entity, but its row. */
async function empty(client: pg.Client, entityId: string): Promise<void> {
  const tables = await tablesOf(client)
  const backwards = [...tables].reverse().map(({ name }) => name)
  // Facts first: what goes with a unit would look for them one by one.
  const rank = (name: string): number =>
    name.endsWith('_fact') ? 0 : WRITTEN_BY_OTHERS.includes(name) ? 3 + FOLLOWING.indexOf(name) : 1
  for (const name of backwards.sort((a, b) => rank(a) - rank(b)))
    await client.query(`delete from ${name} where entity_id = $1`, [entityId])
  await client.query('delete from chain_head where chain = $1', [entityId])
}

/** Carries all rows over in one transaction of the target, and counts them on both sides. */
async function carry(source: pg.Client, target: pg.Client, { entityId, to, say }: Moving): Promise<void> {
  // As text, to the microsecond: a date of JavaScript's would have less.
  const {
    rows: [own],
  } = await source.query<{ row: string; recorded: string }>(
    `select (to_jsonb(e) || jsonb_build_object('lives_in', null, 'moving_since', now()))::text as row, recorded_last::text as recorded from legal_entity e where entity_id = $1`,
    [entityId],
  )
  await target.query('begin')
  try {
    await target.query(
      `insert into legal_entity select (jsonb_populate_record(null::legal_entity, $1::jsonb)).*
       on conflict (entity_id) do update set name = excluded.name, locale = excluded.locale, year_begins = excluded.year_begins, closed_on = excluded.closed_on, restored_at = excluded.restored_at, moving_since = excluded.moving_since`,
      [own?.row],
    )
    const tables = (await tablesOf(source)).filter(({ name }) => !FOLLOWING.includes(name))
    for (const table of tables) await carryTable(source, target, entityId, table)
    await target.query('select sum_posts($1)', [entityId])
    await copy(
      source,
      target,
      `select * from chain_head where chain = ${pg.escapeLiteral(entityId)}`,
      'chain_head',
    )
    // Whoever worked at a run has it no more; and what was recorded here is past all that was recorded there.
    await target.query(
      `update run set leased_until = null, lease = lease + 1 where entity_id = $1 and state in ('queued', 'running')`,
      [entityId],
    )
    await target.query(
      'update legal_entity set recorded_last = greatest(recorded_last, $2) where entity_id = $1',
      [entityId, own?.recorded],
    )
    await target.query(`select trail_write($1, 'Set-up', $2::jsonb)`, [
      entityId,
      JSON.stringify([{ action: 'moved-books', object: to }]),
    ])
    await target.query('commit')
    say(`${tables.length} tables of ${entityId} arrived in ${to}`)
  } catch (error) {
    await target.query('rollback')
    throw error
  }
}

async function carryTable(
  source: pg.Client,
  target: pg.Client,
  entityId: string,
  table: Table,
): Promise<void> {
  const { name, columns } = table
  const names = columns.map((one) => pg.escapeIdentifier(one)).join(', ')
  // Row-level security forbids a copy into a table that it holds.
  await target.query(`create temp table arriving as select ${names} from ${name} with no data`)
  await copy(
    source,
    target,
    `select ${names} from ${name} where entity_id = ${pg.escapeLiteral(entityId)}`,
    'arriving',
  )
  const { rowCount } = await target.query(`insert into ${name} (${names}) select ${names} from arriving
    ${name === 'set_up_stamp' ? 'on conflict (entity_id, part) do update set stamp = excluded.stamp, since = excluded.since' : ''}`)
  await target.query('drop table arriving')
  const { rows } = await source.query<{ n: number }>(
    `select count(*)::int as n from ${name} where entity_id = $1`,
    [entityId],
  )
  if (rowCount !== rows[0]?.n) throw new Error(`${name}: ${rows[0]?.n} rows left, and ${rowCount} arrived`)
}

function copy(source: pg.Client, target: pg.Client, rows: string, into: string): Promise<void> {
  return pipeline(
    source.query(copyTo(`copy (${rows}) to stdout`)),
    target.query(copyFrom(`copy ${into} from stdin`)),
  )
}
