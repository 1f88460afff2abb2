import { createHash, timingSafeEqual } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { balancesOf } from './balances.ts'
import { Changes } from './changes.ts'
import { Refusal } from './refusal.ts'
import { read } from './source.ts'

/** A bridge that lets Axion read a system: what it is and how it is set stands in bridge.json, what it holds comes from source.ts. */
const here = dirname(fileURLToPath(import.meta.url))
interface About {
  readonly role: string
  readonly resources: readonly string[]
}
const { port, about, settings } = JSON.parse(readFileSync(join(here, 'bridge.json'), 'utf8')) as {
  port: number
  about: About
  settings: object
}
const digestOf = (text: string): Buffer => createHash('sha256').update(text).digest()
const token = digestOf(readFileSync(join(here, 'token'), 'utf8').trim())
const changes = new Changes(join(here, 'state.json'), read)

const MOST = 1000
const USUAL = 200

function isLetIn(request: IncomingMessage): boolean {
  const [scheme, given = ''] = (request.headers.authorization ?? '').split(' ')
  return scheme === 'Bearer' && timingSafeEqual(digestOf(given), token)
}

/** A whole number of a query, within bounds. */
function whole(query: URLSearchParams, name: string, usual: number): bigint {
  const text = query.get(name) ?? String(usual)
  if (!/^\d{1,18}$/.test(text)) throw new Refusal(400, 'Not readable', `${name} is no whole number.`)
  return BigInt(text)
}

function day(query: URLSearchParams, name: string): string {
  const text = query.get(name) ?? ''
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) throw new Refusal(400, 'Not readable', `${name} is no date.`)
  return text
}

async function answer(request: IncomingMessage): Promise<unknown> {
  const { pathname, searchParams: query } = new URL(request.url ?? '/', 'http://bridge')
  if (!isLetIn(request)) throw new Refusal(401, 'Not let in', 'The token is missing or wrong.')
  if (request.method !== 'GET')
    throw new Refusal(405, 'Read alone', 'This bridge lets the system be read, and writes nothing into it.')
  if (pathname === '/about') return about
  if (pathname === '/settings') return settings
  if (pathname === '/balances' && about.role === 'ledger') {
    const span = [day(query, 'from'), day(query, 'to')] as const
    const { rows, sequence } = await changes.now('journal-entries')
    return { sequence, items: balancesOf(rows, ...span) }
  }
  const resource = about.resources.find((one) => pathname === `/${one}`)
  if (resource === undefined) throw new Refusal(404, 'Not there', `There is no ${pathname} here.`)
  const limit = whole(query, 'limit', USUAL)
  if (limit < 1 || limit > MOST) throw new Refusal(400, 'Not readable', `limit is none from 1 to ${MOST}.`)
  return changes.page(resource, whole(query, 'after', 0), Number(limit))
}

function send(response: ServerResponse, status: number, type: string, body: unknown): void {
  response.writeHead(status, { 'content-type': `${type}; charset=utf-8` })
  response.end(JSON.stringify(body))
}

createServer((request, response) => {
  answer(request)
    .then((body) => send(response, 200, 'application/json', body))
    .catch((error: unknown) => {
      const refusal =
        error instanceof Refusal ? error : new Refusal(500, 'Not readable', (error as Error).message)
      if (!(error instanceof Refusal)) process.stderr.write(`${(error as Error).stack ?? String(error)}\n`)
      if (refusal.retryAfter !== null) response.setHeader('retry-after', String(refusal.retryAfter))
      const { status, title, detail } = refusal
      send(response, status, 'application/problem+json', { type: 'about:blank', title, status, detail })
    })
}).listen(Number(process.env['PORT'] ?? port), '127.0.0.1', function (this: { address(): unknown }) {
  const { port: at } = this.address() as { port: number }
  process.stdout.write(`The bridge is at http://127.0.0.1:${at}; its token is in the file "token".\n`)
})
