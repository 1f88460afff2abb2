import { setTimeout as pause } from 'node:timers/promises'
import type { BaselineInput } from '@axion/contract'
import { baseline, billingData, ledgerData, SEED, type SystemData, type OtherSystem } from '@axion/demo'
import { startStandins } from '@axion/standins'
import type { FastifyInstance, LightMyRequestResponse } from 'fastify'
import pg from 'pg'
import { inject, vi } from 'vitest'
import { Cluster, type Databases } from '../../../scripts/lib/cluster.mjs'
import { freePort } from '../../../scripts/lib/home.mjs'
import { hashPassword } from '../src/access/passwords.ts'
import { Bridges } from '../src/bridges/client.ts'
import { connect, withHomes } from '../src/database/connection.ts'
import { Homes } from '../src/database/homes.ts'
import { buildApp } from '../src/main/app.ts'
import { migrate } from '../src/main/migrate.ts'
import { Reading } from '../src/reading/pool.ts'
import { perform } from '../src/runs/perform.ts'
import { businessDate, type EdgeServices } from '../src/services/services.ts'
import { readSettings } from '../src/settings/settings.ts'
import { guardTurns } from './turn.ts'

export const MONTH = '/api/entities/larkspur/months/2026-09'
export const PASSWORD = 'a long password'

/** An installation of its own: databases, stand-ins on real ports, and the application, driven without a browser. */
export type RunSeen = {
  state: string
  done: number
  failed: number
  pulled: {
    counts: { resource: string; added: number; changed: number; unreadable: number }[]
    problem: { says: string } | null
  }[]
  problem: { says: string } | null
  problems: readonly { what: string }[]
}

export interface World {
  readonly app: FastifyInstance
  readonly services: EdgeServices
  readonly databases: Databases
  readonly cluster: Cluster
  readonly environment: Record<string, string>
  readonly standins: string
  /** The token of every stand-in's bridge. */
  readonly token: string
  /** A call of the API as somebody with a role; refusals are returned, not thrown. */
  as(
    role: string,
    method: 'GET' | 'POST' | 'PUT' | 'DELETE',
    path: string,
    body?: object,
  ): Promise<LightMyRequestResponse>
  /** A preparer's call that has to succeed. */
  ok<T = Record<string, never>>(
    method: 'GET' | 'POST' | 'PUT' | 'DELETE',
    path: string,
    body?: object,
  ): Promise<T>
  /** Brings a file. */
  upload(role: string, url: string, content: Buffer): ReturnType<World['as']>
  /** Starts a run and does it here, slice by slice, to its end. */
  run(path: string, body?: object): Promise<RunSeen>
  /** Starts a run, and leaves it. */
  begin(path: string, body?: object): Promise<string>
  /** Does a run that was started, to its end. */
  finish(run: string): Promise<RunSeen>
  /** Does a run, and cancels it as soon as it has come so far. */
  whileRunning(run: string, isFar: (run: RunSeen) => boolean, then: 'cancel'): Promise<RunSeen>
  desk(system: string, action: string, fields: Record<string, string>): Promise<void>
  ledgerSql<R>(sql: string, values?: unknown[]): Promise<R[]>
  /** A question to any stand-in's own database, by the system's id. */
  standinSql<R>(system: string, sql: string): Promise<R[]>
  billingSql<R>(sql: string, values?: unknown[]): Promise<R[]>
  ownerSql<R>(sql: string, values?: unknown[]): Promise<R[]>
  /** Lets everybody in anew, where their sessions are over. */
  signIn(): Promise<void>
  close(): Promise<void>
}

export interface WorldOptions {
  /** Larkspur's where nothing is said. */
  readonly baseline?: BaselineInput
  readonly currency?: string
  readonly ledger?: SystemData
  readonly billing?: SystemData
  readonly environment?: Record<string, string>
  /** Addresses of bridges beside the stand-ins'. */
  readonly bridges?: readonly string[]
  /** A folder for a database of its own: what is done to it concerns no other test. */
  readonly home?: string
  /** Seconds that somebody waits for others at the same books; the usual ones where nothing is said. */
  readonly patience?: number
  /** Where bridges are reached, if not at their own port. */
  readonly through?: (port: number) => Promise<number>
  /** What its own database is told of the time. */
  readonly clock?: Readonly<Record<string, string>>
  /** Systems beside ledger and billing. */
  readonly others?: readonly OtherSystem[]
}

interface ReadyOptions extends WorldOptions {
  /** Whose clear links are taken: agencies and rates where nothing is said. */
  readonly links?: readonly string[]
  /** The last day that the ledger has locked. */
  readonly lockedThrough?: string
}

let made = 0

/** One for all worlds of a process: its threads load the contract once. */
const reading = new Reading()

/** The demo's ordinary sales of September and a ledger without conventions of its own: a month with three things wrong. */
export function plainBilling(seed: number, webAddress = 'http://127.0.0.1:1/desk'): SystemData {
  const { settings, objects } = billingData(seed, webAddress)
  const isOrdinary = (value: unknown): boolean => {
    const { documentDate, party } = value as { documentDate: string; party: { id: string } }
    return documentDate.startsWith('2026-09') && /_\d{5}$/.test(party.id)
  }
  return { settings, objects: objects.filter((o) => o.resource !== 'documents' || isOrdinary(o.value)) }
}

export function plainLedger(): SystemData {
  const { settings, objects } = ledgerData()
  return {
    settings: {
      ...settings,
      exchange: 'as-stated',
      credits: 'as-credits',
      inside: 'taken-out',
      mostLines: null,
    },
    objects: objects
      .filter((o) => o.resource !== 'journal-entries')
      .map((o) =>
        o.resource === 'tax-rates' ? { ...o, value: { ...(o.value as object), rounds: undefined } } : o,
      ),
  }
}

/** The demo's own ledger, with every convention and mistake of its own, and its billing with every kind of document. */
export function demoPair(): { ledger: SystemData; billing: SystemData } {
  return { ledger: ledgerData(), billing: billingData(SEED, 'http://127.0.0.1:1/desk') }
}

export async function makeWorld(options: WorldOptions = {}): Promise<World> {
  const { others = [] } = options
  const cluster = await new Cluster(options.home ?? inject('clusterHome'), {
    clock: options.clock ?? {},
  }).start()
  const name = `t${process.pid}_${++made}`
  const template = options.home === undefined ? inject('template') : undefined
  const databases = cluster.prepare(
    name,
    [
      ...(['ledger', 'billing'] as const).map((kind) => ({ path: kind, kind, database: `${name}_${kind}` })),
      ...others.map(({ id, role }) => ({
        path: id,
        kind: role,
        database: `${name}_${id.replace('-', '_')}`,
      })),
    ],
    template,
  )
  const standinDatabase = (kind: string): string =>
    databases.standins.find((s) => s.kind === kind)?.database ?? ''
  if (template === undefined) {
    await migrate(databases.owner)
    await guardTurns(databases.owner)
  }
  const port = await freePort()
  const standins = `http://127.0.0.1:${port}`
  const app_ = await startStandins({
    port,
    token: cluster.secrets.standinsToken,
    systems: databases.standins,
  })
  const reached = `http://127.0.0.1:${options.through ? await options.through(port) : port}`
  const environment = {
    AXION_DATABASE: databases.app,
    AXION_SECRET_KEY: cluster.secrets.secretKey,
    AXION_TODAY: '2026-10-02',
    AXION_LOG: 'silent',
    // Runs are done in the same process here, and keep it for as long as they take.
    AXION_LAG: '0',
    ...options.environment,
    AXION_BRIDGES: [`${reached}/`, `${standins}/`, ...(options.bridges ?? [])].join(','),
  }
  const settings = readSettings(environment)
  const patient = { ...settings.waits, patience: options.patience ?? 20 }
  const directory = connect(databases.app, 10, patient)
  const beside = settings.beside.map((one) => ({
    name: one.name,
    database: connect(one.app, 10, patient),
    keys: connect(one.keys ?? '', 2),
  }))
  const services: EdgeServices = {
    settings,
    database: beside.length === 0 ? directory : withHomes(directory, new Homes(directory, beside)),
    keys: connect(databases.keys, 2),
    beside,
    reading,
    bridges: new Bridges(settings, reading),
    today: businessDate(settings),
  }
  const app = await buildApp(services)
  const owner = connect(databases.owner, 1)
  const roles = ['administrator', 'preparer', 'reviewer', 'viewer', 'stranger']
  const hash = await hashPassword(PASSWORD)
  await owner('person').insert(
    roles.map((role) => ({
      email: `${role}@example.org`,
      name: role,
      password_hash: hash,
      may_create_entities: role === 'administrator',
    })),
  )
  await owner.destroy()

  const cookies = new Map<string, string>()
  const signIn = async (): Promise<void> => {
    const letIn = async (role: string, at: number): Promise<void> => {
      const answer = await app.inject({
        method: 'POST',
        url: '/api/session',
        payload: { email: `${role}@example.org`, password: PASSWORD },
        headers: { 'x-axion-request': 't' },
        remoteAddress: `10.0.0.${at + 1}`,
      })
      cookies.set(role, String(answer.headers['set-cookie']).split(';')[0] ?? '')
    }
    await Promise.all(roles.map(letIn))
  }
  await signIn()
  const as: World['as'] = (role, method, url, payload) =>
    app.inject({
      method,
      url,
      headers: { 'x-axion-request': 't', cookie: cookies.get(role) ?? '' },
      ...(payload ? { payload } : {}),
    })
  const must = async <T>(
    role: string,
    method: 'GET' | 'POST' | 'PUT' | 'DELETE',
    path: string,
    body?: object,
  ): Promise<T> => {
    const answer = await as(role, method, path, body)
    if (answer.statusCode >= 300) throw new Error(`${method} ${path}: ${answer.statusCode} ${answer.body}`)
    return answer.json()
  }
  for (const [system, data] of [
    ['ledger', options.ledger ?? plainLedger()],
    ['billing', options.billing ?? plainBilling(11, `${standins}/billing/desk`)],
    ...others.map(({ id, data }) => [id, data] as const),
  ] as const) {
    const loaded = await fetch(`${standins}/${system}/load`, {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        authorization: `Bearer ${cluster.secrets.standinsToken}`,
      },
      body: JSON.stringify(data),
    })
    if (!loaded.ok) throw new Error(await loaded.text())
  }
  await must('administrator', 'POST', '/api/entities', {
    id: 'larkspur',
    name: 'Larkspur Apiary Supply',
    country: 'XA',
    currency: options.currency ?? 'USD',
    timeZone: 'America/Chicago',
    locale: 'en-US',
  })
  for (const role of ['preparer', 'reviewer', 'viewer'])
    await must('administrator', 'PUT', '/api/entities/larkspur/members', {
      email: `${role}@example.org`,
      role,
    })
  await must('preparer', 'PUT', `${MONTH}/baseline`, options.baseline ?? baseline())
  for (const system of ['ledger', 'billing']) {
    await must('administrator', 'PUT', `/api/entities/larkspur/systems/${system}`, {
      role: system,
      name: system === 'ledger' ? 'Ledger' : 'Billing',
      address: `${reached}/${system}/bridge`,
      token: cluster.secrets.standinsToken,
    })
  }
  for (const { id, role, name } of others)
    await must('administrator', 'PUT', `/api/entities/larkspur/systems/${id}`, {
      role,
      name,
      address: `${reached}/${id}/bridge`,
      token: cluster.secrets.standinsToken,
    })
  const query =
    (connectionString: string) =>
    async <R>(sql: string, values: unknown[] = []): Promise<R[]> => {
      const client = new pg.Client({ connectionString })
      // A database that is killed is told to whoever asks it.
      client.on('error', () => undefined)
      await client.connect()
      try {
        return (await client.query(sql, values)).rows as R[]
      } finally {
        await client.end()
      }
    }
  const ok: World['ok'] = (method, path, body) => must('preparer', method, path, body)
  const seen = (run: string): Promise<RunSeen> => ok<RunSeen>('GET', `/api/entities/larkspur/runs/${run}`)
  const begin = async (path: string, body: object = {}): Promise<string> =>
    (await ok<{ run: string }>('POST', MONTH + path, body)).run
  const finish = async (run: string): Promise<RunSeen> => {
    for (let slices = 0; slices < 20;) {
      if (await perform(services, { entityId: 'larkspur', runId: run })) slices++
      // Somebody else is at it, or was when it died.
      else await pause(50)
      const view = await seen(run)
      if (!['queued', 'running'].includes(view.state)) return view
    }
    throw new Error('the run does not end')
  }
  return {
    app,
    services,
    databases,
    cluster,
    environment,
    standins,
    token: cluster.secrets.standinsToken,
    as,
    ok,
    upload: (role, url, content) =>
      app.inject({
        method: 'POST',
        url,
        headers: {
          'x-axion-request': 't',
          cookie: cookies.get(role) ?? '',
          'content-type': 'application/octet-stream',
        },
        payload: content,
      }),
    run: async (path, body = {}) => finish(await begin(path, body)),
    begin,
    finish,
    whileRunning: async (run, isFar) => {
      const ended = finish(run)
      let over = false
      void ended.finally(() => (over = true))
      while (!over) {
        if (!isFar(await seen(run))) continue
        await as('preparer', 'POST', `/api/entities/larkspur/runs/${run}/cancel`, {})
        break
      }
      return ended
    },
    desk: async (system, action, fields) => {
      const answer = await fetch(`${standins}/${system}/desk/${action}`, {
        method: 'POST',
        body: new URLSearchParams(fields),
        redirect: 'manual',
      })
      if (answer.status !== 303) throw new Error(`${action}: ${answer.status} ${await answer.text()}`)
    },
    ledgerSql: query(standinDatabase('ledger')),
    standinSql: (system, sql) =>
      query(databases.standins.find((s) => s.path === system)?.database ?? '')(sql),
    billingSql: query(standinDatabase('billing')),
    ownerSql: query(databases.owner),
    signIn,
    close: async () => {
      await app.close()
      await app_.close()
      for (const { database, keys } of [services, ...beside]) {
        await database.destroy()
        await keys.destroy()
      }
    },
  }
}

/** Waits until a worker of its own has done a run to its end. */
export function untilEnded(world: World, run: string): Promise<RunSeen> {
  return vi.waitFor(
    async () => {
      const seen = await world.ok<RunSeen>('GET', `/api/entities/larkspur/runs/${run}`)
      if (['queued', 'running'].includes(seen.state)) throw new Error(`the run is ${seen.state} for ever`)
      return seen
    },
    { timeout: 600_000, interval: 20 },
  )
}

/** A world whose month is pulled, linked and rehearsed, with its ledger ready to take bookings. */
export async function makeReadyWorld(options: ReadyOptions = {}): Promise<World> {
  const { links = ['agencies', 'rates'], lockedThrough = '2026-08-31' } = options
  const world = await makeWorld(options)
  await world.desk('ledger', 'settings', {
    keepsDocumentNumbers: 'yes',
    lockedThrough,
    taxComputation: 'by-rate',
  })
  await world.run('/pulls', { systemIds: null })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: links })
  await world.ok('PUT', `${MONTH}/links`, {
    systemId: 'ledger',
    kind: 'agency',
    objectId: 'agency_HCT',
    baselineId: 'HCT',
  })
  await world.ok('PUT', `${MONTH}/links`, {
    systemId: 'billing',
    kind: 'combined-rate',
    objectId: 'rate_typed',
    baselineId: 'WN-PLX',
  })
  await world.run('/post/rehearsal')
  return world
}

/** Books all that is rehearsed, and pulls what the ledger then holds. */
export async function bookAll(world: World): Promise<void> {
  await world.run('/post/runs', { states: ['rehearsed'] })
  await world.run('/pulls', { systemIds: null })
}

/** The same, but with nothing wrong in its ledger and a proper rate on every line: whatever is not proved came of what was done since. */
export function makeWellWorld(
  seed: number,
  environment: Record<string, string> = {},
  options: Pick<WorldOptions, 'home' | 'through' | 'clock'> = {},
): Promise<World> {
  const { settings, objects } = plainLedger()
  const right = objects.map((o) => {
    const value = o.value as { liabilityAccountId?: string; components?: { name: string; percent: string }[] }
    if (o.id === 'agency_CPL') return { ...o, value: { ...value, liabilityAccountId: 'acct_2214' } }
    if (o.id === 'agency_MCA') return { ...o, value: { ...value, liabilityAccountId: 'acct_2222' } }
    return o.id === 'tax_WN-FEN'
      ? {
          ...o,
          value: {
            ...value,
            components: value.components?.map((c) =>
              c.name === 'Hollis County' ? { ...c, percent: '1.45' } : c,
            ),
          },
        }
      : o
  })
  // A hand-typed rate rounds its total once, and can be a cent off its parts.
  const billing = plainBilling(seed)
  const proper = JSON.parse(
    JSON.stringify(billing.objects).replaceAll('"taxRateId":"rate_typed"', '"taxRateId":"rate_WN-PLX"'),
  ) as typeof billing.objects
  return makeReadyWorld({
    ledger: { settings, objects: right },
    billing: { settings: billing.settings, objects: proper },
    environment,
    ...options,
  })
}

/** How often each document stands in the ledger's own database. */
export async function timesBooked(world: World): Promise<Map<string, number>> {
  const rows = await world.ledgerSql<{ external_id: string; n: string }>(
    `select value->>'externalId' as external_id, count(*) as n from object where resource = 'journal-entries' and not removed and value->>'voided' = 'false' group by 1`,
  )
  return new Map(rows.map((row) => [row.external_id, Number(row.n)]))
}

/** The address of the stand-in ledger's own database. */
export function standinDatabase(world: World): string {
  return world.databases.standins.find((s) => s.kind === 'ledger')?.database ?? ''
}
