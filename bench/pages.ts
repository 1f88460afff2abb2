import { spawn } from 'node:child_process'
import { setTimeout as pause } from 'node:timers/promises'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { freePort } from '../scripts/lib/home.mjs'
import { told } from '../scripts/lib/programs.mjs'
import { hashPassword } from '../packages/server/src/access/passwords.ts'
import { connect } from '../packages/server/src/database/connection.ts'
import { ENTITY } from './month/founded.ts'
import { MONTH, type Pulled } from './pull.ts'

/** What is asked for, and within how many milliseconds it is wanted. */
export const PAGES: Readonly<Record<string, { readonly says: string; readonly most: number }>> = {
  differences: { says: 'first page of stored differences, causes and money', most: 100 },
  close: { says: 'close sheet', most: 300 },
  path: { says: 'path', most: 300 },
  board: { says: 'practice board', most: 300 },
  'tie-out': { says: 'rows of Tie out', most: 300 },
  post: { says: 'rows of Post', most: 300 },
  align: { says: 'rows of Align', most: 300 },
  'tie-out sums': { says: 'how many a filter of Tie out finds, and what they come to', most: 1000 },
  'post sums': { says: 'the same of Post', most: 1000 },
}

const SINGLE = 20
const PEOPLE = 10
const EACH = 12
const PASSWORD = 'as long as it has to be'
const of = `/api/entities/${ENTITY}/months/${MONTH}`

export interface PageTimes {
  /** Of each answer, by what was asked for. */
  readonly milliseconds: Readonly<Record<string, readonly number[]>>
  /** How often each list was asked for. */
  readonly asked: number
  /** What tables and indexes of entities take. */
  readonly bytes: number
}

/** Asks a server of its own for pages of a business. */
export async function timePages(
  { databases, environment, memory }: Pulled,
  seed: number,
): Promise<PageTimes> {
  const port = await freePort()
  const address = `http://127.0.0.1:${port}`
  const bytes = await member(databases.owner)
  const server = spawn(
    process.execPath,
    ['--max-old-space-size=512', ...told('packages/server/src/main/server.ts')],
    {
      env: { ...environment, AXION_PORT: String(port), AXION_KEYS_DATABASE: databases.keys },
      stdio: ['ignore', 'ignore', 'inherit'],
    },
  )
  memory.also('server', String(server.pid))
  try {
    const cookie = await signedIn(address)
    const ask = async (path: string): Promise<number> => {
      const began = performance.now()
      const answer = await fetch(`${address}${path}`, { headers: { cookie } })
      const text = await answer.text()
      if (answer.status !== 200) throw new Error(`${path}: ${answer.status} ${text.slice(0, 300)}`)
      return performance.now() - began
    }
    const milliseconds: Record<string, number[]> = {}
    for (const [name, path] of Object.entries({
      differences: `${of}/tie-out?limit=200`,
      close: `${of}/close`,
      path: `${of}/path`,
      board: `/api/practice?month=${MONTH}`,
    })) {
      // The first answer is of a server that has just begun.
      await ask(path)
      milliseconds[name] = []
      for (let at = 0; at < SINGLE; at++) milliseconds[name].push(await ask(path))
    }
    for (const [name, drawn] of Object.entries(LISTS)) {
      const draw = seeded(seed)
      await ask(drawn(draw))
      const each = Array.from({ length: PEOPLE }, () => Array.from({ length: EACH }, () => drawn(draw)))
      milliseconds[name] = (
        await Promise.all(
          each.map(async (paths) => {
            const taken: number[] = []
            for (const path of paths) taken.push(await ask(path))
            return taken
          }),
        )
      ).flat()
    }
    return { milliseconds, asked: PEOPLE * EACH, bytes }
  } finally {
    server.kill('SIGKILL')
  }
}

/** A number from nought up to one, the next from a seed. */
type Draw = () => number

function seeded(seed: number): Draw {
  const generator = xoroshiro128plus(seed)
  return () => (generator.next() >>> 0) / 2 ** 32
}

/** Two of the filters, each with a value, and an order. */
function query(
  draw: Draw,
  filters: Readonly<Record<string, readonly string[]>>,
  sorts: readonly string[],
): string {
  const one = <T>(of: readonly T[]): T => of[Math.floor(draw() * of.length)] as T
  const names = Object.keys(filters)
  const first = one(names)
  const second = one(names.filter((name) => name !== first))
  const asked = new URLSearchParams([first, second].map((name) => [name, one(filters[name] ?? [])]))
  asked.set('sort', one(sorts))
  if (draw() < 0.5) asked.set('down', 'yes')
  return asked.toString()
}

const DOCUMENT_FILTERS = {
  search: ['1', '12', '99', 'er', 'Or', 'zz', '104', 'inn', 'nobody'],
  system: ['billing', 'pos', 'commerce', 'purchasing'],
  kind: ['invoice', 'credit-note', 'receipt', 'bill'],
  from: [`${MONTH}-05`, `${MONTH}-20`],
  to: [`${MONTH}-10`, `${MONTH}-25`],
  least: ['1.00', '50.00'],
  most: ['20.00', '5000.00'],
}

const tieOutQuery = (draw: Draw): string =>
  query(draw, { ...DOCUMENT_FILTERS, show: ['all', 'unproved', 'not-posted'] }, [
    ...['open', 'date', 'number', 'party', 'state'],
  ])
const postQuery = (draw: Draw): string =>
  query(draw, { ...DOCUMENT_FILTERS, state: ['not-composed', 'booked'] }, [
    ...['date', 'number', 'party', 'tax', 'total', 'state'],
  ])

const LISTS: Readonly<Record<string, (draw: Draw) => string>> = {
  'tie-out': (draw) => `${of}/tie-out?${tieOutQuery(draw)}`,
  'tie-out sums': (draw) => `${of}/tie-out/sums?${tieOutQuery(draw)}`,
  post: (draw) => `${of}/post?${postQuery(draw)}`,
  'post sums': (draw) => `${of}/post/sums?${postQuery(draw)}`,
  align: (draw) => {
    const kinds = ['items', 'parties', 'rates']
    const kind = kinds[Math.floor(draw() * kinds.length)] ?? ''
    return `${of}/align/${kind}?${query(draw, { search: ['a', 'ho', '1'], code: ['missing', 'differs'] }, ['name', 'stake'])}`
  },
}

/** Somebody who may see the business. @returns what its tables take */
async function member(owner: string): Promise<number> {
  const database = connect(owner, 1)
  const [person] = await database('person')
    .insert({ email: 'bench@example.org', name: 'Bench', password_hash: await hashPassword(PASSWORD) })
    .returning('person_id')
  await database('membership').insert({
    entity_id: ENTITY,
    person_id: person?.person_id ?? '',
    role: 'preparer',
  })
  const { rows } = await database.raw<{ rows: { bytes: string }[] }>(
    `select sum(pg_total_relation_size(c.oid)) as bytes from pg_class c where relkind = 'r' and relnamespace = 'public'::regnamespace`,
  )
  await database.destroy()
  return Number(rows[0]?.bytes)
}

async function signedIn(address: string): Promise<string> {
  for (let tries = 0; tries < 600; tries++) {
    const answer = await fetch(`${address}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-axion-request': 'bench' },
      body: JSON.stringify({ email: 'bench@example.org', password: PASSWORD }),
    }).catch(() => null)
    if (answer?.ok) return (answer.headers.get('set-cookie') ?? '').split(';')[0] ?? ''
    await pause(100)
  }
  throw new Error('the server does not let anybody in')
}
