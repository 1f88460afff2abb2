import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'

/** What a system is set to, as docs/bridge.md has it; its currencies and zone are its own. */
export const SETTINGS = {
  taxEnabled: true,
  computesTax: true,
  keepsDocumentNumbers: true,
  pairsCreditsItself: false,
  usesAccountNumbers: false,
  lockedThrough: null,
  defaultItemTaxCode: null,
}

/** One object of a resource, as docs/bridge.md has it. */
interface Item {
  readonly id: string
  readonly sequence: string
  readonly revision: string
  readonly removed: boolean
  readonly value: unknown
}

export interface Source {
  readonly address: string
  /** Changes an object, or makes it: it moves to a new sequence. */
  put(resource: string, id: string, value: object): void
  /** What it answers where nothing is the matter; null where it has no such path. */
  right(path: string, query: URLSearchParams): object | null
  /** Answers otherwise than the page has it, where this does: it says whether it did. */
  instead(answer: Instead | null): void
  close(): Promise<void>
}

export type Instead = (path: string, response: ServerResponse, query: URLSearchParams) => boolean

/** A billing system behind a bridge, from docs/bridge.md alone: it only reads, and nothing of the demo or its generator is in it. */
export async function source(company: string, settings: object, token: string, port = 0): Promise<Source> {
  const held = new Map<string, Map<string, Item>>()
  let sequence = 0
  const resources = ['agencies', 'tax-rates', 'items', 'parties', 'documents']
  const about = {
    contract: '1',
    role: 'billing',
    product: 'Sorrel Counter',
    company: { id: 'c', name: company },
    webAddress: null,
    resources,
    takes: [],
    taxComputation: null,
    idempotency: null,
    findsByExternalId: false,
    voids: false,
    longestLateCommitSeconds: null,
  }
  const page = (resource: string, query: URLSearchParams): object => {
    const after = Number(query.get('after') ?? '0')
    const limit = Math.min(Number(query.get('limit') ?? '200'), 1000)
    const all = [...(held.get(resource)?.values() ?? [])]
      .filter((item) => Number(item.sequence) > after)
      .sort((a, b) => Number(a.sequence) - Number(b.sequence))
    const items = all.slice(0, limit)
    return { items, next: items.at(-1)?.sequence ?? String(after), more: all.length > limit }
  }
  const answer = (response: ServerResponse, status: number, body: object): void => {
    const kind = status < 300 ? 'application/json; charset=utf-8' : 'application/problem+json'
    response.writeHead(status, { 'content-type': kind }).end(JSON.stringify(body))
  }
  const right = (path: string, query: URLSearchParams): object | null =>
    path === 'about'
      ? about
      : path === 'settings'
        ? settings
        : resources.includes(path)
          ? page(path, query)
          : null
  let instead: Instead | null = null
  const server = createServer((request: IncomingMessage, response) => {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://source')
    const name = pathname.slice(1)
    if (instead?.(name, response, searchParams)) return
    if (request.headers.authorization !== `Bearer ${token}`)
      return answer(response, 401, { type: 'about:blank', title: 'unauthorized', status: 401 })
    if (['after', 'limit'].some((one) => !/^\d+$/.test(searchParams.get(one) ?? '0')))
      return answer(response, 400, { type: 'about:blank', title: 'bad cursor', status: 400 })
    const found = right(name, searchParams)
    if (found !== null) return answer(response, 200, found)
    return answer(response, 404, { type: 'about:blank', title: 'not found', status: 404 })
  })
  await new Promise<void>((listening) => server.listen(port, '127.0.0.1', listening))
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    put: (resource, id, value) => {
      const of = held.get(resource) ?? new Map<string, Item>()
      held.set(resource, of)
      const revision = String(Number(of.get(id)?.revision ?? '0') + 1)
      of.set(id, { id, sequence: String(++sequence), revision, removed: false, value })
    },
    right,
    instead: (answer) => void (instead = answer),
    close: () =>
      new Promise((closed) => {
        server.closeAllConnections()
        server.close(() => closed())
      }),
  }
}
