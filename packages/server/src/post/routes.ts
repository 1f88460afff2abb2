import { say, type Code, type PostRow, type PostState, type PostView } from '@axion/contract'
import { absolute, formatAmount, groupBy } from '@axion/core'
import { z } from 'zod'
import { audit } from '../audit/audit.ts'
import { blockingChecks } from '../connect/checks.ts'
import { inEntity, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { requirePerson, requireRole } from '../people/sessions.ts'
import type { App, Services } from '../services.ts'
import { monthParams } from '../tieout/routes.ts'
import type { StoredDocument } from '../tieout/units.ts'
import { compose } from './rehearse.ts'
import { takeBack } from './takeBack.ts'
import { previewWithdrawal, withdrawn } from './withdraw.ts'
import type { Remark } from './compose.ts'
import { LEFT_OUT, POST_STATE } from './state.ts'

const SENDABLE = ['rehearsed', 'failed', 'changed', 'withdrawn']

interface Row {
  readonly system_id: string
  readonly document_id: string
  readonly external_id: string | null
  readonly number: string
  readonly kind: string
  readonly party: string
  readonly document_date: string
  readonly currency: string
  readonly state: PostState
  /** Stated, in the base currency: the same rows as the tie-out's. */
  readonly tax: string
  readonly net: string
  readonly stated_total: string
  readonly findings: Remark[] | null
  readonly reason_code: Code | null
  readonly reason_facts: Record<string, string> | null
}

/** Rehearsing, posting some or all, and what became of each document. */
export function postRoutes(app: App, services: Services): void {
  const { database, queue } = services

  app.get(
    '/api/entities/:entity/months/:month/post',
    {
      schema: {
        params: monthParams,
        querystring: z.object({
          state: z.string().max(200).optional(),
          search: z.string().max(100).optional(),
          warned: z.enum(['yes']).optional(),
          offset: z.coerce.number().int().min(0).default(0),
          limit: z.coerce.number().int().min(1).max(1000).default(400),
        }),
      },
    },
    async (request): Promise<PostView> => {
      const entity = requireRole(request, 'viewer')
      const { state, search, warned, offset, limit } = request.query
      const blocking = await blockingChecks(services, entity.id, request.params.month)
      return inEntity(database, entity.id, async (trx) => {
        const all = await rowsOf(trx, entity.id, request.params.month)
        const counts: Partial<Record<PostState, number>> = {}
        const tax: Partial<Record<PostState, bigint>> = {}
        for (const row of all) {
          counts[row.state] = (counts[row.state] ?? 0) + 1
          tax[row.state] = (tax[row.state] ?? 0n) + BigInt(row.tax)
        }
        const wanted = all.filter(
          (row) =>
            (!state || state.split(',').includes(row.state)) &&
            (!warned || (row.findings ?? []).length > 0) &&
            (!search || `${row.number} ${row.party}`.toLowerCase().includes(search.toLowerCase())),
        )
        return {
          currency: entity.currency,
          counts,
          blocking,
          total: wanted.length,
          reasons: reasonsOf(all, entity.currency),
          tax: Object.fromEntries(
            Object.entries(tax).map(([key, amount]) => [key, formatAmount(amount, entity.currency)]),
          ),
          rows: wanted.slice(offset, offset + limit).map((row) => rowOf(row, entity.currency)),
        }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/rehearsal',
    { schema: { params: monthParams } },
    (request) => {
      const entity = requireRole(request, 'preparer')
      return inEntity(database, entity.id, async (trx) => ({
        run: await startRun(
          trx,
          queue,
          entity.id,
          'rehearse',
          { month: request.params.month },
          requirePerson(request).name,
        ),
      }))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/runs',
    {
      schema: {
        params: monthParams,
        body: z.union([
          z.object({ units: z.array(z.string().max(300)).min(1).max(10_000) }),
          z.object({ states: z.array(z.enum(['rehearsed', 'failed', 'changed', 'withdrawn'])).min(1) }),
          z.object({ handful: z.int().min(1).max(50) }),
          z.object({ cause: z.string().max(400) }),
        ]),
      },
    },
    async (request) => {
      const entity = requireRole(request, 'preparer')
      const blocking = await blockingChecks(services, entity.id, request.params.month)
      if (blocking.length > 0) throw new Problem('AXION_NOT_READY', { checks: blocking.join(' ') })
      return inEntity(database, entity.id, async (trx) => {
        const body =
          'cause' in request.body
            ? { units: await unitsOfCause(trx, entity.id, request.params.month, request.body.cause) }
            : 'handful' in request.body
              ? { units: await handful(trx, entity.id, request.params.month, request.body.handful) }
              : request.body
        const chosen = (await documentsOf(trx, entity.id, request.params.month)
          .where(
            (q) =>
              void ('units' in body
                ? q.whereIn(trx.raw(`'doc:' || d.system_id || ':' || d.document_id`) as never, body.units)
                : q.whereIn('b.state', body.states)),
          )
          .where(
            (q) =>
              void q
                .whereIn('b.state', SENDABLE)
                .orWhereNull('b.state')
                .orWhere(
                  (again) =>
                    void again
                      .where('b.state', 'booked')
                      .whereExists(
                        trx('tie_unit as u').whereRaw(
                          'u.entity_id = b.entity_id and u.system_id = b.system_id and u.document_id = b.document_id and not u.proved',
                        ),
                      ),
                )
                .orWhere(
                  (left) =>
                    void left
                      .whereIn('b.state', ['waiting', 'sending'])
                      .whereNotExists(
                        trx('run as r')
                          .whereRaw('r.entity_id = b.entity_id and r.run_id = b.run_id')
                          .whereIn('r.state', ['queued', 'running']),
                      ),
                ),
          )
          .whereNotIn('d.status', ['draft', 'void'])
          .whereRaw(`not ${LEFT_OUT}`)
          .select('d.*', 'b.state')) as (StoredDocument & { state: string | null })[]
        // What stands in the outbox goes on as it is; anything else is composed anew, so that what was mended since counts.
        await compose(
          trx,
          entity.id,
          chosen.filter((d) => !['waiting', 'sending'].includes(d.state ?? '')),
          requirePerson(request).name,
        )
        const run = await startRun(
          trx,
          queue,
          entity.id,
          'post',
          { month: request.params.month, thenPull: false },
          requirePerson(request).name,
          chosen.length,
        )
        const own = (): ReturnType<Transaction> =>
          trx('booking')
            .where({ entity_id: entity.id })
            .whereIn('kind', ['invoice', 'credit-note'])
            .whereIn(
              trx.raw(`system_id || '/' || document_id`) as never,
              chosen.map((d) => `${d.system_id}/${d.document_id}`),
            )
        const queued = await own()
          .where({ state: 'rehearsed' })
          .update({ state: 'waiting', run_id: run, updated_at: trx.fn.now() })
        const resumed = await own().whereIn('state', ['waiting', 'sending']).update({ run_id: run })
        if (Number(queued) + Number(resumed) === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'post' })
        await audit(
          trx,
          entity.id,
          requirePerson(request).name,
          'posted',
          documentsInWords(Number(queued)),
          null,
          { run },
        )
        return { run, documents: Number(queued) }
      })
    },
  )

  const chosenUnits = z.object({ units: z.array(z.string().max(300)).min(1).max(10_000) })

  app.post(
    '/api/entities/:entity/months/:month/post/withdrawals/preview',
    { schema: { params: monthParams, body: chosenUnits } },
    (request) => {
      const entity = requireRole(request, 'viewer')
      return inEntity(database, entity.id, (trx) =>
        previewWithdrawal(trx, entity.id, entity.currency, request.body.units),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/withdrawals',
    { schema: { params: monthParams, body: chosenUnits.extend({ revision: z.string().max(200) }) } },
    (request) => {
      const entity = requireRole(request, 'preparer')
      const { units, revision } = request.body
      return inEntity(database, entity.id, async (trx) => {
        const preview = await previewWithdrawal(trx, entity.id, entity.currency, units)
        if (preview.revision !== revision)
          throw new Problem('AXION_STALE', { what: 'What is to be withdrawn' })
        if (preview.documents.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'withdraw' })
        const run = await startRun(
          trx,
          queue,
          entity.id,
          'post',
          { month: request.params.month, thenPull: true },
          requirePerson(request).name,
          preview.documents.length,
        )
        const documents = await withdrawn(trx, entity.id, preview)
        await takeBack(trx, entity.id, run, documents, 0)
        await audit(
          trx,
          entity.id,
          requirePerson(request).name,
          'withdrew',
          documentsInWords(preview.documents.length),
          { documents: preview.documents.map((d) => d.number) },
          { run },
        )
        return { run, documents: preview.documents.length }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/look-again',
    {
      schema: {
        params: monthParams,
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(1000) }),
      },
    },
    (request) => {
      const entity = requireRole(request, 'preparer')
      return inEntity(database, entity.id, async (trx) => {
        const run = await startRun(
          trx,
          queue,
          entity.id,
          'post',
          { month: request.params.month, thenPull: false },
          requirePerson(request).name,
        )
        const looked = await trx('booking')
          .where({ entity_id: entity.id, state: 'in-doubt' })
          .whereIn(trx.raw(`'doc:' || system_id || ':' || document_id`) as never, request.body.units)
          .update({
            state: 'waiting',
            attempts: 0,
            run_id: run,
            uncertain_since: trx.raw('coalesce(uncertain_since, now())'),
          })
        if (looked === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'look up' })
        return { run, documents: looked }
      })
    },
  )
}

function documentsInWords(n: number): string {
  return `${n} ${n === 1 ? 'document' : 'documents'}`
}

/** What one cause of the tie-out holds back: mended elsewhere, it can be booked again. */
async function unitsOfCause(
  trx: Transaction,
  entityId: string,
  month: string,
  cause: string,
): Promise<string[]> {
  const rows = (await trx('tie_unit')
    .where({ entity_id: entityId, period: month, cause, proved: false })
    .select('unit_id')) as { unit_id: string }[]
  return rows.map((row) => row.unit_id)
}

/** A few rehearsed documents without a remark that tell most: one of every rate first, then more of each. */
async function handful(trx: Transaction, entityId: string, month: string, size: number): Promise<string[]> {
  const { rows } = (await trx.raw(
    `select unit_id from (
       select u.unit_id, row_number() over (partition by u.combined_rate order by u.document_date, u.number) as turn from tie_unit u
       join booking b on b.entity_id = u.entity_id and b.system_id = u.system_id and b.document_id = u.document_id and b.kind = u.kind
       where u.entity_id = ? and u.period = ? and b.state = 'rehearsed' and b.findings = '[]') x
     order by turn, unit_id limit ?`,
    [entityId, month, size],
  )) as { rows: { unit_id: string }[] }
  return rows.map((row) => row.unit_id)
}

function documentsOf(trx: Transaction, entityId: string, month: string) {
  return trx('source_document as d')
    .leftJoin(
      'booking as b',
      (on) =>
        void on
          .on('b.entity_id', 'd.entity_id')
          .on('b.system_id', 'd.system_id')
          .on('b.document_id', 'd.document_id')
          .on('b.kind', 'd.kind'),
    )
    .where({ 'd.entity_id': entityId, 'd.period': month })
    .whereRaw(`(d.status <> 'void' or b.state is not null)`)
    .orderBy(['d.document_date', 'd.number'])
}

/** Each document with its booking's state, and what it states in the base currency. */
async function rowsOf(trx: Transaction, entityId: string, month: string): Promise<Row[]> {
  const stated = (table: string, amount: string): unknown =>
    trx.raw(
      `coalesce((select sum(f.in_base) from ${table} f where f.entity_id = d.entity_id and f.unit_id = 'doc:' || d.system_id || ':' || d.document_id and f.voice = 'stated'), 0)::text as ${amount}`,
    )
  return (await documentsOf(trx, entityId, month).select(
    'd.system_id',
    'd.document_id',
    'd.number',
    'd.kind',
    'd.party',
    'd.document_date',
    'd.currency',
    'b.external_id',
    'b.findings',
    'b.reason_code',
    'b.reason_facts',
    trx.raw(`d.value->>'total' as stated_total`),
    trx.raw(`${POST_STATE} as state`),
    stated('tax_fact', 'tax') as never,
    stated('net_fact', 'net') as never,
  )) as Row[]
}

function rowOf(row: Row, currency: string): PostRow {
  return {
    unit: `doc:${row.system_id}:${row.document_id}`,
    externalId: row.external_id,
    number: row.number,
    kind: row.kind,
    party: row.party,
    date: row.document_date,
    state: row.state,
    tax: formatAmount(BigInt(row.tax), currency),
    total: formatAmount(BigInt(row.tax) + BigInt(row.net), currency),
    foreign:
      row.currency === currency
        ? null
        : {
            currency: row.currency,
            total: row.kind === 'credit-note' ? `-${row.stated_total}` : row.stated_total,
          },
    remarks: (row.findings ?? []).map((remark) => ({
      code: remark.code,
      blocks: remark.blocks,
      ...say(remark.code, remark.facts),
    })),
    reason:
      row.reason_code && UNSENT.includes(row.state) ? say(row.reason_code, row.reason_facts ?? {}) : null,
  }
}

const UNSENT: readonly PostState[] = ['failed', 'in-doubt', 'blocked', 'waiting']

/** Documents that could not be posted, by reason, most money first: one thing to mend, and how much waits for it. */
function reasonsOf(rows: readonly Row[], currency: string): PostView['reasons'] {
  const told = rows
    .filter((row) => ['failed', 'in-doubt', 'blocked'].includes(row.state))
    .map((row) => {
      const blocking = row.state === 'blocked' ? row.findings?.find((remark) => remark.blocks) : undefined
      const code = row.reason_code ?? blocking?.code ?? 'AXION_RUN_FAILED'
      return { row, code, ...say(code, withoutDocument(row.reason_facts ?? blocking?.facts ?? {})) }
    })
  const groups = groupBy(told, ({ row, code, says }) => `${row.state}|${code}|${says}`)
  return [...groups.values()]
    .flatMap((group) => {
      const [first] = group
      const tax = group.reduce((sum, { row }) => sum + absolute(BigInt(row.tax)), 0n)
      return first
        ? [
            {
              code: first.code,
              says: first.says,
              mend: first.mend,
              documents: group.length,
              tax,
              state: first.row.state,
            },
          ]
        : []
    })
    .sort((a, b) => (b.tax === a.tax ? b.documents - a.documents : b.tax > a.tax ? 1 : -1))
    .map((reason) => ({ ...reason, tax: formatAmount(reason.tax, currency) }))
}

function withoutDocument({ document: _one, ...facts }: Record<string, string>): Record<string, string> {
  return facts
}
