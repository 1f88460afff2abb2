import pg from 'pg'

/** One stored object, as the bridge hands it out. */
export interface Stored<T = unknown> {
  readonly id: string
  readonly sequence: string
  readonly revision: string
  readonly removed: boolean
  readonly value: T
}

const SCHEMA = `
  create sequence if not exists change_sequence;
  create table if not exists object (
    resource text not null, id text not null, sequence bigint not null, revision integer not null,
    removed boolean not null default false, value jsonb, primary key (resource, id));
  create unique index if not exists object_sequence on object (sequence);
  create table if not exists setting (name text primary key, value jsonb not null);
  create table if not exists idempotency_key (key text primary key, request text not null, answer jsonb not null, kept_at timestamptz not null default now());
`

/** A stand-in's own database. Every writer holds one lock from its first sequence number to its commit. */
export class Store {
  private constructor(readonly pool: pg.Pool) {}

  static async open(connectionString: string): Promise<Store> {
    const pool = new pg.Pool({ connectionString, max: 6 })
    // A connection that is lost while nobody uses it is opened again when somebody does.
    pool.on('error', (error) => process.stderr.write(`stand-in: ${error.message}\n`))
    await pool.query(SCHEMA)
    return new Store(pool)
  }

  close(): Promise<void> {
    return this.pool.end()
  }

  /** Runs writes in one transaction. Sequence numbers become visible in their order, so no reader skips a row. */
  async write<T>(work: (writer: Writer) => Promise<T>): Promise<T> {
    const client = await this.pool.connect()
    let lost: Error | undefined
    const lose = (error: Error): void => void (lost = error)
    // One that is lost between two queries is told by the next.
    client.on('error', lose)
    try {
      await client.query('begin')
      await client.query('select pg_advisory_xact_lock(4100)')
      const result = await work(new Writer(client))
      await client.query('commit')
      return result
    } catch (error) {
      if (lost === undefined) await client.query('rollback')
      throw error
    } finally {
      client.off('error', lose)
      client.release(lost)
    }
  }

  async page(
    resource: string,
    after: string,
    limit: number,
  ): Promise<{ items: Stored[]; next: string; more: boolean }> {
    const { rows } = await this.pool.query<Stored>(
      `select id, sequence, revision::text, removed, value from object where resource = $1 and sequence > $2 order by sequence limit $3`,
      [resource, after, limit + 1],
    )
    const items = rows.slice(0, limit)
    return { items, next: items.at(-1)?.sequence ?? after, more: rows.length > limit }
  }

  async get<T>(resource: string, id: string): Promise<Stored<T> | undefined> {
    return new Reader(this.pool).get<T>(resource, id)
  }

  async all<T>(resource: string): Promise<Stored<T>[]> {
    return new Reader(this.pool).all<T>(resource)
  }

  async setting<T>(name: string, otherwise: T): Promise<T> {
    const { rows } = await this.pool.query<{ value: T }>('select value from setting where name = $1', [name])
    return rows[0]?.value ?? otherwise
  }

  async setSetting(name: string, value: unknown): Promise<void> {
    await this.pool.query(
      'insert into setting values ($1, $2) on conflict (name) do update set value = excluded.value',
      [name, JSON.stringify(value)],
    )
  }
}

class Reader {
  constructor(protected readonly db: pg.Pool | pg.PoolClient) {}

  async get<T>(resource: string, id: string): Promise<Stored<T> | undefined> {
    const { rows } = await this.db.query<Stored<T>>(
      'select id, sequence, revision::text, removed, value from object where resource = $1 and id = $2 and not removed',
      [resource, id],
    )
    return rows[0]
  }

  async all<T>(resource: string): Promise<Stored<T>[]> {
    const { rows } = await this.db.query<Stored<T>>(
      'select id, sequence, revision::text, removed, value from object where resource = $1 and not removed order by length(id), id',
      [resource],
    )
    return rows
  }
}

/** Reads and writes inside one writing transaction. */
export class Writer extends Reader {
  async put(resource: string, id: string, value: unknown): Promise<string> {
    const { rows } = await this.db.query<{ revision: string }>(
      `insert into object (resource, id, sequence, revision, value) values ($1, $2, nextval('change_sequence'), 1, $3)
       on conflict (resource, id) do update set sequence = excluded.sequence, revision = object.revision + 1, value = excluded.value, removed = false
       returning revision::text`,
      [resource, id, JSON.stringify(value)],
    )
    return rows[0]?.revision ?? '1'
  }

  async remove(resource: string, id: string): Promise<void> {
    await this.db.query(
      `update object set removed = true, value = null, revision = revision + 1, sequence = nextval('change_sequence') where resource = $1 and id = $2`,
      [resource, id],
    )
  }

  async nextNumber(name: string, first: number): Promise<number> {
    const { rows } = await this.db.query<{ value: number }>(
      `insert into setting values ($1, to_jsonb($2::int)) on conflict (name) do update set value = to_jsonb((setting.value)::int + 1) returning value`,
      [name, first],
    )
    return rows[0]?.value ?? first
  }

  async keptAnswer(key: string): Promise<{ request: string; answer: unknown } | undefined> {
    const { rows } = await this.db.query<{ request: string; answer: unknown }>(
      'select request, answer from idempotency_key where key = $1',
      [key],
    )
    return rows[0]
  }

  async keepAnswer(key: string, request: string, answer: unknown): Promise<void> {
    await this.db.query('insert into idempotency_key (key, request, answer) values ($1, $2, $3)', [
      key,
      request,
      JSON.stringify(answer),
    ])
  }
}
