import { createHash } from 'node:crypto'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { Faults } from '../shared/faults.ts'
import { Refusal } from '../shared/problems.ts'
import type { Store, Stored, Writer } from '../shared/store.ts'
import { journalOf } from './books.ts'
import type { BookingRequest, LedgerSettings } from './shapes.ts'

interface StoredBooking {
  readonly externalId: string
  readonly number: string
  readonly entryId: string
  readonly state: 'posted' | 'voided'
  readonly key: string | null
}
export interface StoredEntry {
  readonly number: string
  readonly bookingId: string | null
  readonly externalId: string | null
  readonly bookingRevision: string | null
  readonly postingDate: string
  readonly currency: string
  readonly baseCurrency: string
  readonly memo: string
  readonly voided: boolean
  readonly changedBy: string
  readonly changedAt: string
  readonly webAddress: string | null
  readonly lines: Awaited<ReturnType<typeof journalOf>>
}

interface Deps {
  readonly store: Store
  readonly faults: Faults
  readonly webAddress: string
  settings(): Promise<LedgerSettings>
}

/** Bookings: post, replace, void, and look up by idempotency key or external id. */
export function bookings(app: FastifyInstance, deps: Deps): void {
  app.post('/bookings', (request, reply) =>
    handled(request, reply, deps, async (writer, settings) => {
      const body = requireBooking(request.body)
      const id = String(await writer.nextNumber('booking-number', 7001))
      return {
        status: 201,
        ...(await record(writer, deps, { id, body, settings, key: keyOf(request), entryId: null })),
      }
    }),
  )

  app.put<{ Params: { id: string } }>('/bookings/:id', (request, reply) =>
    handled(request, reply, deps, async (writer, settings) => {
      const current = await requireMatch(writer, request, request.params.id)
      return {
        status: 200,
        ...(await record(writer, deps, {
          id: request.params.id,
          body: requireBooking(request.body),
          settings,
          key: keyOf(request),
          entryId: current.value.entryId,
        })),
      }
    }),
  )

  app.post<{ Params: { id: string } }>('/bookings/:id/void', (request, reply) =>
    handled(request, reply, deps, async (writer, settings) => {
      if (!settings.voids)
        throw new Refusal(422, 'no-voids', 'This ledger does not void: book a credit for the same amounts.')
      const { value } = await requireMatch(writer, request, request.params.id)
      const entry = (await writer.get<StoredEntry>('journal-entries', value.entryId))?.value
      const revision = await writer.put('bookings', request.params.id, { ...value, state: 'voided' })
      await writer.put('journal-entries', value.entryId, {
        ...entry,
        voided: true,
        bookingRevision: revision,
        changedAt: new Date().toISOString(),
        changedBy: 'bridge',
      })
      return {
        status: 200,
        revision,
        body: {
          id: request.params.id,
          externalId: value.externalId,
          number: value.number,
          revision,
          state: 'voided',
        },
      }
    }),
  )

  app.get<{ Querystring: { externalId?: string; idempotencyKey?: string } }>('/bookings', async (request) => {
    const { externalId, idempotencyKey } = request.query
    const all = await deps.store.all<StoredBooking>('bookings')
    const byKey = idempotencyKey !== undefined && !(await deps.faults.isOn('keys-ignored'))
    const byExternalId = externalId !== undefined && !(await deps.faults.isOn('no-external-id'))
    const found = all.filter(
      ({ value }) =>
        (byKey && value.key === idempotencyKey) || (byExternalId && value.externalId === externalId),
    )
    return {
      items: found.map(({ id, revision, value }) => ({
        id,
        externalId: value.externalId,
        number: value.number,
        revision,
        state: value.state,
      })),
    }
  })
}

interface Answer {
  readonly status: number
  readonly revision: string
  readonly body: object
}

/** Commits once for a key, and answers the same again; the faults around a commit strike here. */
async function handled(
  request: FastifyRequest,
  reply: FastifyReply,
  deps: Deps,
  work: (writer: Writer, settings: LedgerSettings) => Promise<Answer>,
): Promise<FastifyReply> {
  const key = (await deps.faults.isOn('keys-ignored')) ? null : keyOf(request)
  if (await deps.faults.strikes('lost-before-commit')) return dropped(request, reply)
  const settings = await deps.settings()
  const fingerprint = createHash('sha256')
    .update(`${request.method} ${request.url} ${JSON.stringify(request.body)}`)
    .digest('hex')
  const answer = await deps.store.write(async (writer) => {
    const kept = key === null ? undefined : await writer.keptAnswer(key)
    if (kept && kept.request !== fingerprint)
      throw new Refusal(409, 'key-reused', 'This idempotency key came with another request before.')
    if (kept) return kept.answer as Answer
    const fresh = await work(writer, settings)
    if (key !== null) await writer.keepAnswer(key, fingerprint, fresh)
    return fresh
  })
  if (await deps.faults.strikes('lost-after-commit')) return dropped(request, reply)
  return reply.code(answer.status).header('etag', `"${answer.revision}"`).send(answer.body)
}

function dropped(request: FastifyRequest, reply: FastifyReply): FastifyReply {
  reply.hijack()
  request.raw.socket.destroy()
  return reply
}

async function record(
  writer: Writer,
  deps: Deps,
  {
    id,
    body,
    settings,
    key,
    entryId,
  }: {
    readonly id: string
    readonly body: BookingRequest
    readonly settings: LedgerSettings
    readonly key: string | null
    readonly entryId: string | null
  },
): Promise<{ revision: string; body: object }> {
  const lines = await journalOf(writer, body, settings)
  const entry = entryId ?? String(await writer.nextNumber('entry-number', 48001))
  const number = settings.keepsDocumentNumbers ? body.number : `S-${id}`
  const value: StoredBooking = { externalId: body.externalId, number, entryId: entry, state: 'posted', key }
  const revision = await writer.put('bookings', id, value)
  await writer.put('journal-entries', entry, {
    number: entry,
    bookingId: id,
    externalId: body.externalId,
    bookingRevision: revision,
    postingDate: body.postingDate,
    currency: body.currency,
    baseCurrency: settings.baseCurrency,
    memo: `${number} ${body.party.name}`,
    voided: false,
    changedBy: 'bridge',
    changedAt: new Date().toISOString(),
    webAddress: `${deps.webAddress}?find=${entry}#entry-${entry}`,
    lines,
  } satisfies StoredEntry)
  return { revision, body: { id, externalId: body.externalId, number, revision, state: 'posted' } }
}

async function requireMatch(
  writer: Writer,
  request: FastifyRequest,
  id: string,
): Promise<Stored<StoredBooking>> {
  const current = await writer.get<StoredBooking>('bookings', id)
  if (!current) throw new Refusal(404, 'unknown-booking', `There is no booking ${id}.`)
  const match = request.headers['if-match']
  if (match === undefined)
    throw new Refusal(428, 'if-match-needed', 'A change states the revision it is based on in If-Match.')
  if (match !== `"${current.revision}"`)
    throw new Refusal(
      412,
      'revision-moved',
      `Booking ${id} is at revision ${current.revision}, not ${match}.`,
    )
  return current
}

function keyOf(request: FastifyRequest): string | null {
  const key = request.headers['idempotency-key']
  return typeof key === 'string' ? key : null
}

function requireBooking(body: unknown): BookingRequest {
  const booking = body as Partial<BookingRequest> | null
  const complete =
    booking &&
    typeof booking.externalId === 'string' &&
    typeof booking.number === 'string' &&
    Array.isArray(booking.lines) &&
    (booking.lines.length > 0 || booking.kind === 'correction')
  if (!complete)
    throw new Refusal(
      400,
      'bad-booking',
      'A booking has an external id, a number, and at least one line, or is a correction.',
    )
  return booking as BookingRequest
}
