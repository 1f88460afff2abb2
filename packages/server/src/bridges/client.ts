import { setTimeout as pause } from 'node:timers/promises'
import {
  About,
  Balances,
  Booking,
  BRIDGE_CONTRACT,
  Settings,
  type BookingRequest,
  type SetUpTaken,
} from '@axion/contract'
import { z } from 'zod'
import { Problem } from '../faults/problem.ts'
import type { Reading } from '../reading/pool.ts'
import type { ReadAs } from '../reading/thread.ts'
import type { Settings as AxionSettings } from '../settings/settings.ts'
import { bodyOf, bytesOf, type Body } from './body.ts'
import type { PageAsked, PageOfRows, WriteOutcome } from './exchanged.ts'
import { isTimeout, problemOf, retryAfter, whyLost } from './answers.ts'

interface Write {
  readonly method: 'POST' | 'PUT' | 'PATCH'
  readonly path: string
  readonly body: unknown
  readonly key?: string
  readonly revision?: string
}

const PAGE_SIZE = 500
/** What is read comes whole: a part of it, or nothing, is no answer. */
const OK = 200
/** A bridge that asks to be asked later is, so many times, and waited for so long each time at the most. */
const MOST_TURNS = 5
const NOTHING_SENT = new Set(['ECONNREFUSED', 'ENOTFOUND', 'EHOSTUNREACH', 'EAI_AGAIN'])
const Found = z.object({ items: z.array(Booking) })
const Changed = z.object({ id: z.string(), revision: z.string(), value: z.unknown() })

/** Opens bridges, at allowed addresses only. */
export class Bridges {
  constructor(
    private readonly settings: AxionSettings,
    private readonly reading: Reading,
  ) {}

  /**
   * Patient, it waits where it is asked to ask later, as a pull does: nobody waits for it, and no lease runs out.
   * @throws AXION_ADDRESS_NOT_ALLOWED unless the address begins with one on the list
   */
  open(name: string, address: string, token: string, { patient = false } = {}): Bridge {
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
    return new Bridge({ system: name, address: address.replace(/\/$/, ''), token }, this.reading, {
      timeoutSeconds: this.settings.AXION_BRIDGE_TIMEOUT,
      turns: patient ? MOST_TURNS : 1,
      waits: this.settings.waits,
    })
  }
}

/** One system's bridge over HTTP, as docs/bridge.md describes it. Every answer is checked before it is believed. */
export class Bridge {
  constructor(
    private readonly at: { readonly system: string; readonly address: string; readonly token: string },
    private readonly reading: Reading,
    private readonly patience: {
      readonly timeoutSeconds: number
      /** How often it asks where it is asked to ask later. */
      readonly turns: number
      readonly waits: AxionSettings['waits']
    },
  ) {}

  /** @throws AXION_BRIDGE_VERSION where it speaks another version of the contract */
  async about(): Promise<About> {
    const { contract } = await this.read('/about', z.object({ contract: z.string() }))
    if (contract !== BRIDGE_CONTRACT)
      throw new Problem('AXION_BRIDGE_VERSION', {
        system: this.at.system,
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

  /** One page of changes past a sequence, read to each value. @param only of one object alone */
  async page(
    { after, limit = PAGE_SIZE, only = null }: PageAsked,
    as: Omit<ReadAs, 'spoilt'>,
  ): Promise<PageOfRows> {
    const path = `/${as.resource}`
    const { answer, got } = await this.asked(`${path}?after=${after}&limit=${limit}`)
    if (answer.status !== OK) this.refuse(answer, bodyOf(got))
    if (got.kind === 'broken') throw this.malformed(path, got.problem)
    const read = await this.reading.page({
      bytes: got.bytes,
      after,
      limit,
      only,
      as: { ...as, spoilt: null },
    })
    if ('problem' in read) throw this.malformed(path, read.problem)
    return read
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
    resource: SetUpTaken | 'committed',
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
      throw new Problem('AXION_STALE', { what: `${id} in ${this.at.system}` })
    throw new Problem('AXION_BRIDGE_REFUSED', { system: this.at.system, detail: outcome.detail })
  }

  /** Makes a set-up object. The same key makes no second one. @throws AXION_CREATED_UNSURE where nobody can say whether it was made */
  async create(
    resource: SetUpTaken | 'committed',
    value: object,
    key: string,
    what: string,
  ): Promise<z.infer<typeof Changed>> {
    const outcome = await this.write({ method: 'POST', path: `/${resource}`, body: value, key })
    if (outcome.kind === 'done') return this.check(Changed, outcome.body, `/${resource}`)
    if (outcome.kind === 'unknown')
      throw new Problem('AXION_CREATED_UNSURE', { what, system: this.at.system })
    throw new Problem('AXION_BRIDGE_REFUSED', { system: this.at.system, detail: outcome.detail })
  }

  private async read<S extends z.ZodType>(path: string, shape: S): Promise<z.infer<S>> {
    const { answer, got } = await this.asked(path)
    const body = bodyOf(got)
    if (answer.status !== OK) this.refuse(answer, body)
    if (body.kind === 'broken') throw this.malformed(path, body.problem)
    return this.check(shape, body.kind === 'json' ? body.value : body.text, path)
  }

  /** @throws what an answer that is none of the good ones is called */
  private refuse(answer: Response, body: Body): never {
    if (answer.status === 401 || answer.status === 403)
      throw new Problem('AXION_BRIDGE_TOKEN', { system: this.at.system })
    throw new Problem('AXION_BRIDGE_REFUSED', {
      system: this.at.system,
      detail: problemOf(body)?.detail ?? `status ${answer.status}`,
    })
  }

  /** One answer to its end. Where it asks to be asked later, it is, so many times. */
  private async asked(
    path: string,
  ): Promise<{ readonly answer: Response; readonly got: Awaited<ReturnType<typeof bytesOf>> }> {
    for (let turn = 1; ; turn++) {
      const got = await this.fetch(path, { method: 'GET' })
        .then(async (answer) => ({ answer, got: await bytesOf(answer) }))
        .catch((error: unknown) => {
          throw this.lost(error)
        })
      if (![429, 503].includes(got.answer.status) || turn >= this.patience.turns) return got
      await pause(Math.min(retryAfter(got.answer), this.patience.waits.askedLater) * 1000)
    }
  }

  /** What a connection that was lost, or took too long, is called. */
  private lost(error: unknown): Problem {
    if (error instanceof Problem) return error
    return isTimeout(error)
      ? new Problem('AXION_BRIDGE_TIMEOUT', {
          system: this.at.system,
          seconds: String(this.patience.timeoutSeconds),
        })
      : new Problem('AXION_BRIDGE_DOWN', { system: this.at.system, ...whyLost(error) })
  }

  private malformed(path: string, problem: string): Problem {
    return new Problem('AXION_BRIDGE_MALFORMED', {
      system: this.at.system,
      path: path.split('?')[0] ?? path,
      problem,
    })
  }

  private async write({ method, path, body, key, revision }: Write): Promise<WriteOutcome> {
    const headers = {
      'content-type': 'application/json',
      ...(key ? { 'idempotency-key': key } : {}),
      ...(revision ? { 'if-match': `"${revision}"` } : {}),
    }
    let answer: Response
    let read: Body
    try {
      answer = await this.fetch(path, { method, headers, body: JSON.stringify(body) })
      read = bodyOf(await bytesOf(answer))
    } catch (error) {
      const code = (error as { cause?: { code?: string } }).cause?.code ?? ''
      return NOTHING_SENT.has(code)
        ? {
            kind: 'later',
            afterSeconds: this.patience.waits.nobodyThere,
            detail: 'it does not answer at its address',
          }
        : { kind: 'unknown', detail: 'the connection was lost' }
    }
    const problem = problemOf(read)
    if (answer.ok)
      return read.kind === 'broken'
        ? { kind: 'unknown', detail: read.problem }
        : {
            kind: 'done',
            body: read.kind === 'json' ? read.value : read.text,
            revision: (answer.headers.get('etag') ?? '').replaceAll('"', ''),
          }
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
      return await fetch(this.at.address + path, {
        ...init,
        redirect: 'error',
        signal: AbortSignal.timeout(this.patience.timeoutSeconds * 1000),
        headers: { ...init.headers, authorization: `Bearer ${this.at.token}` },
      })
    } catch (error) {
      throw isTimeout(error) ? this.lost(error) : error
    }
  }

  private check<S extends z.ZodType>(shape: S, body: unknown, path: string): z.infer<S> {
    const read = shape.safeParse(body)
    if (read.success) return read.data
    const [issue] = read.error.issues
    throw this.malformed(path, `${issue?.path.join('.')} ${issue?.message}`)
  }
}
