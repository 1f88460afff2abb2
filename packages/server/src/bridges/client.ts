import {
  About,
  Balances,
  Booking,
  BRIDGE_CONTRACT,
  Page,
  Problem as ProblemDetails,
  Settings,
  type BookingRequest,
  type SetUpTaken,
} from '@axion/contract'
import { z } from 'zod'
import { Problem } from '../faults/problem.ts'
import type { Settings as AxionSettings } from '../settings.ts'

/** How a write to a bridge ended. `unknown`: the connection was lost, and it may or may not have been committed. */
export type WriteOutcome =
  | { readonly kind: 'done'; readonly body: unknown; readonly revision: string }
  | { readonly kind: 'refused'; readonly status: number; readonly code: string; readonly detail: string }
  | { readonly kind: 'later'; readonly afterSeconds: number; readonly detail: string }
  | { readonly kind: 'unknown'; readonly detail: string }

interface Write {
  readonly method: 'POST' | 'PUT' | 'PATCH'
  readonly path: string
  readonly body: unknown
  readonly key?: string
  readonly revision?: string
}

const PAGE_SIZE = 500
const NOTHING_SENT = new Set(['ECONNREFUSED', 'ENOTFOUND', 'EHOSTUNREACH', 'EAI_AGAIN'])
const Found = z.object({ items: z.array(Booking) })
const Changed = z.object({ id: z.string(), revision: z.string(), value: z.unknown() })

/** Opens bridges, at allowed addresses only. */
export class Bridges {
  constructor(private readonly settings: AxionSettings) {}

  /** @throws AXION_ADDRESS_NOT_ALLOWED unless the address begins with one on the list */
  open(name: string, address: string, token: string): Bridge {
    const url = URL.canParse(address) ? new URL(address) : null
    const allowed =
      url !== null &&
      this.settings.AXION_BRIDGES.some((entry) => {
        const base = new URL(entry)
        return (
          base.origin === url.origin &&
          `${url.pathname}/`.startsWith(base.pathname.endsWith('/') ? base.pathname : `${base.pathname}/`)
        )
      })
    if (!allowed) throw new Problem('AXION_ADDRESS_NOT_ALLOWED', { address })
    return new Bridge(name, address.replace(/\/$/, ''), token, this.settings.AXION_BRIDGE_TIMEOUT)
  }
}

/** One system's bridge over HTTP, as docs/bridge.md describes it. Every answer is checked before it is believed. */
export class Bridge {
  constructor(
    private readonly system: string,
    private readonly address: string,
    private readonly token: string,
    private readonly timeoutSeconds: number,
  ) {}

  /** @throws AXION_BRIDGE_VERSION where it speaks another version of the contract */
  async about(): Promise<About> {
    const { contract } = await this.read('/about', z.object({ contract: z.string() }))
    if (contract !== BRIDGE_CONTRACT)
      throw new Problem('AXION_BRIDGE_VERSION', {
        system: this.system,
        theirs: contract,
        ours: BRIDGE_CONTRACT,
      })
    return this.read('/about', About)
  }

  settings(): Promise<Settings> {
    return this.read('/settings', Settings)
  }

  balances(from: string, to: string): Promise<z.infer<typeof Balances>> {
    return this.read(`/balances?from=${from}&to=${to}`, Balances)
  }

  /** One page of changes past a sequence. */
  async page(resource: string, after: string, limit = PAGE_SIZE): Promise<z.infer<typeof Page>> {
    const page = await this.read(`/${resource}?after=${after}&limit=${limit}`, Page)
    if (page.more && BigInt(page.next) <= BigInt(after)) {
      throw new Problem('AXION_BRIDGE_MALFORMED', {
        system: this.system,
        path: `/${resource}`,
        problem: 'more pages are promised past a sequence that does not move',
      })
    }
    return page
  }

  async findBookings(by: {
    readonly externalId?: string
    readonly idempotencyKey?: string
  }): Promise<Booking[]> {
    return (
      await this.read(`/bookings?${new URLSearchParams(by as Record<string, string>).toString()}`, Found)
    ).items
  }

  postBooking(request: BookingRequest, key: string): Promise<WriteOutcome> {
    return this.write({ method: 'POST', path: '/bookings', body: request, key })
  }

  replaceBooking(id: string, request: BookingRequest, key: string, revision: string): Promise<WriteOutcome> {
    return this.write({
      method: 'PUT',
      path: `/bookings/${encodeURIComponent(id)}`,
      body: request,
      key,
      revision,
    })
  }

  voidBooking(id: string, key: string, revision: string): Promise<WriteOutcome> {
    return this.write({
      method: 'POST',
      path: `/bookings/${encodeURIComponent(id)}/void`,
      body: {},
      key,
      revision,
    })
  }

  /** Changes fields of a set-up object, based on the revision it was read at. */
  async change(
    resource: SetUpTaken,
    id: string,
    fields: object,
    revision: string,
  ): Promise<z.infer<typeof Changed>> {
    const outcome = await this.write({
      method: 'PATCH',
      path: `/${resource}/${encodeURIComponent(id)}`,
      body: fields,
      revision,
    })
    if (outcome.kind === 'done') return this.check(Changed, outcome.body, `/${resource}`)
    if (outcome.kind === 'refused' && outcome.status === 412)
      throw new Problem('AXION_STALE', { what: `${id} in ${this.system}` })
    throw new Problem('AXION_BRIDGE_REFUSED', { system: this.system, detail: outcome.detail })
  }

  /** Makes a set-up object. The same key makes no second one. @throws AXION_CREATED_UNSURE where nobody can say whether it was made */
  async create(
    resource: SetUpTaken,
    value: object,
    key: string,
    what: string,
  ): Promise<z.infer<typeof Changed>> {
    const outcome = await this.write({ method: 'POST', path: `/${resource}`, body: value, key })
    if (outcome.kind === 'done') return this.check(Changed, outcome.body, `/${resource}`)
    if (outcome.kind === 'unknown') throw new Problem('AXION_CREATED_UNSURE', { what, system: this.system })
    throw new Problem('AXION_BRIDGE_REFUSED', { system: this.system, detail: outcome.detail })
  }

  private async read<S extends z.ZodType>(path: string, shape: S): Promise<z.infer<S>> {
    const answer = await this.fetch(path, { method: 'GET' }).catch((error: unknown) => {
      if (error instanceof Problem) throw error
      throw new Problem('AXION_BRIDGE_DOWN', { system: this.system })
    })
    if (answer.status === 401 || answer.status === 403)
      throw new Problem('AXION_BRIDGE_TOKEN', { system: this.system })
    const body = await bodyOf(answer)
    if (!answer.ok)
      throw new Problem('AXION_BRIDGE_REFUSED', {
        system: this.system,
        detail: problemOf(body)?.detail ?? `status ${answer.status}`,
      })
    return this.check(shape, body, path)
  }

  private async write({ method, path, body, key, revision }: Write): Promise<WriteOutcome> {
    const headers = {
      'content-type': 'application/json',
      ...(key ? { 'idempotency-key': key } : {}),
      ...(revision ? { 'if-match': `"${revision}"` } : {}),
    }
    let answer: Response
    let read: unknown
    try {
      answer = await this.fetch(path, { method, headers, body: JSON.stringify(body) })
      read = await bodyOf(answer)
    } catch (error) {
      const code = (error as { cause?: { code?: string } }).cause?.code ?? ''
      return NOTHING_SENT.has(code)
        ? { kind: 'later', afterSeconds: 1, detail: 'it does not answer at its address' }
        : { kind: 'unknown', detail: 'the connection was lost' }
    }
    const problem = problemOf(read)
    if (answer.ok)
      return { kind: 'done', body: read, revision: (answer.headers.get('etag') ?? '').replaceAll('"', '') }
    if (!problem) return { kind: 'unknown', detail: `status ${answer.status} without a reason` }
    if (answer.status === 429 || answer.status === 503)
      return { kind: 'later', afterSeconds: retryAfter(answer), detail: problem.detail ?? problem.title }
    return {
      kind: 'refused',
      status: answer.status,
      code: problem.code ?? '',
      detail: problem.detail ?? problem.title,
    }
  }

  private async fetch(path: string, init: RequestInit): Promise<Response> {
    try {
      return await fetch(this.address + path, {
        ...init,
        redirect: 'error',
        signal: AbortSignal.timeout(this.timeoutSeconds * 1000),
        headers: { ...init.headers, authorization: `Bearer ${this.token}` },
      })
    } catch (error) {
      if ((error as Error).name === 'TimeoutError')
        throw new Problem('AXION_BRIDGE_TIMEOUT', {
          system: this.system,
          seconds: String(this.timeoutSeconds),
        })
      throw error
    }
  }

  private check<S extends z.ZodType>(shape: S, body: unknown, path: string): z.infer<S> {
    const read = shape.safeParse(body)
    if (read.success) return read.data
    const [issue] = read.error.issues
    throw new Problem('AXION_BRIDGE_MALFORMED', {
      system: this.system,
      path: path.split('?')[0] ?? path,
      problem: `${issue?.path.join('.')} ${issue?.message}`,
    })
  }
}

async function bodyOf(answer: Response): Promise<unknown> {
  const text = await answer.text()
  try {
    return JSON.parse(text)
  } catch {
    // Not JSON is no answer of the contract; the caller's shape check says so.
    return text
  }
}

function problemOf(body: unknown): z.infer<typeof ProblemDetails> | null {
  const read = ProblemDetails.safeParse(body)
  return read.success ? read.data : null
}

function retryAfter(answer: Response): number {
  const seconds = Number(answer.headers.get('retry-after') ?? '2')
  return Number.isFinite(seconds) ? Math.min(Math.max(seconds, 1), 300) : 2
}
