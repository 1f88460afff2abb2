import { PostFilter, PostListQuery, say, type BookingState, type Code, type PostView } from '@axion/contract'
import { absolute, formatAmount, groupBy } from '@axion/core'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { blockingChecks } from '../connect/checks.ts'
import { changing, inEntity, type Transaction } from '../database/connection.ts'
import { unitSql } from '../documents/ids.ts'
import { notPostedOf } from '../documents/notPosted.ts'
import { LEFT_OUT, move, states, VOIDED_THERE } from '../documents/states.ts'
import type { StoredDocument } from '../documents/units.ts'
import { documentsWithBookings } from '../documents/withBookings.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import { choicesOf } from '../lists/choices.ts'
import { allOf, narrowed, pageOf } from '../lists/list.ts'
import { sendTables } from '../lists/sent.ts'
import type { App, Services } from '../services/services.ts'
import { connectedSystems } from '../setUp/held.ts'
import { FORETOLD } from './foretell.ts'
import { countsOf, POST_HEADER, postCells, postList, postRow, type PostRecord } from './list.ts'
import { queueFor } from './outbox.ts'
import { composeChosen, postingRevision, previewPosting } from './preview.ts'
import { takeBack } from './takeBack.ts'
import { previewWithdrawal, withdrawn } from './withdraw.ts'

const SENDABLE = ['rehearsed', 'failed', 'changed', 'withdrawn'] as const satisfies readonly BookingState[]
const UNDER_WAY: readonly BookingState[] = ['waiting', 'sending']
const BOOKED: BookingState = 'booked'

/** Rehearsing, posting some or all, and what became of each document. */
export function postRoutes(app: App, services: Services): void {
  const { database, queue } = services

  app.get(
    '/api/entities/:entity/months/:month/post',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: PostListQuery,
      },
    },
    async (request): Promise<PostView> => {
      const entity = requireRole(request)
      const { month } = request.params
      const blocking = await blockingChecks(services, entity.id, month)
      return inEntity(database, entity.id, async (trx) => {
        const { states, remarked } = await countsOf(trx, entity.id, month)
        const list = postList(entity.id, month, request.query)
        const page = await pageOf<PostRecord>(trx, list, request.query, entity.currency)
        const text = (units: string): string => formatAmount(BigInt(units), entity.currency)
        return {
          currency: entity.currency,
          counts: Object.fromEntries(states.map(({ state, n }) => [state, n])),
          blocking,
          ledger: await ledgerOf(trx, entity.id),
          reasons: await reasonsOf(trx, entity.id, month, entity.currency),
          tax: Object.fromEntries(states.map(({ state, tax }) => [state, text(tax)])),
          remarked: { documents: remarked.n, tax: text(remarked.tax) },
          notPosted: await notPostedOf(trx, entity.id, month, entity.currency),
          choices: await choicesOf(trx, entity.id, month),
          rows: page.rows.map((row) => postRow(row, entity.currency)),
          total: page.total,
          next: page.next,
        }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/post/list.:format',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ format: z.enum(['csv', 'xlsx']) }),
        querystring: PostListQuery,
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { month, format } = request.params
      const { rows, systems } = await inEntity(database, entity.id, async (trx) => ({
        rows: await allOf<PostRecord>(
          trx,
          postList(entity.id, month, request.query),
          request.query,
          entity.currency,
        ),
        systems: (await choicesOf(trx, entity.id, month)).systems,
      }))
      const named = (id: string): string => systems.find((one) => one.id === id)?.name ?? id
      const cells = rows.map((row) =>
        postCells(postRow(row, entity.currency), named(row.system_id), entity.currency),
      )
      const name = `post-${month}`
      return sendTables(database, reply, entity.id, format, name, [
        { name, header: POST_HEADER, rows: cells },
      ])
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/runs/preview',
    {
      config: { role: 'viewer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: ChosenForPosting },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => {
        const documents = await chosenIn(trx, entity, request.params.month, request.body)
        return previewPosting(trx, entity.currency, {
          entityId: entity.id,
          documents,
          person: requirePerson(request).name,
        })
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/rehearsal',
    { config: { role: 'preparer' }, schema: { params: monthParams } },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => ({
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
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: monthParams,
        body: z.intersection(
          ChosenForPosting,
          z.object({ onlyRight: z.boolean().default(false), revision: z.string().max(200).optional() }),
        ),
      },
    },
    async (request) => {
      const entity = requireRole(request)
      const blocking = await blockingChecks(services, entity.id, request.params.month)
      if (blocking.length > 0) throw new Problem('AXION_NOT_READY', { checks: blocking.join(' ') })
      return changing(database, entity.id, async (trx) => {
        const chosen = await chosenIn(trx, entity, request.params.month, request.body)
        const posting = { entityId: entity.id, documents: chosen, person: requirePerson(request).name }
        await composeChosen(trx, posting)
        const { revision } = request.body
        if (revision !== undefined && revision !== (await postingRevision(trx, posting)))
          throw new Problem('AXION_STALE', { what: 'What is to be posted' })
        const run = await startRun(
          trx,
          queue,
          entity.id,
          'post',
          { month: request.params.month },
          requirePerson(request).name,
          chosen.length,
        )
        const queued = await queueFor(
          trx,
          entity.id,
          run,
          chosen,
          request.body.onlyRight ? `not ${FORETOLD}` : undefined,
        )
        if (queued === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'post' })
        await audit(trx, 'posted', documentsInWords(queued), null, {
          documents: await numbersOf(trx, entity.id, run),
          run,
        })
        return { run, documents: queued }
      })
    },
  )

  const chosenUnits = z.object({ units: z.array(z.string().max(300)).min(1).max(10_000) })

  app.post(
    '/api/entities/:entity/months/:month/post/withdrawals/preview',
    {
      config: { role: 'viewer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: chosenUnits },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (trx) =>
        previewWithdrawal(trx, entity.id, entity.currency, request.body.units),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/withdrawals',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: chosenUnits.extend({ revision: z.string().max(200) }) },
    },
    (request) => {
      const entity = requireRole(request)
      const { units, revision } = request.body
      return changing(database, entity.id, async (trx) => {
        const preview = await previewWithdrawal(trx, entity.id, entity.currency, units)
        if (preview.revision !== revision)
          throw new Problem('AXION_STALE', { what: 'What is to be withdrawn' })
        if (preview.documents.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'withdraw' })
        const run = await startRun(
          trx,
          queue,
          entity.id,
          'withdraw',
          { month: request.params.month },
          requirePerson(request).name,
          preview.documents.length,
        )
        const documents = await withdrawn(trx, entity.id, preview)
        await takeBack(trx, entity.id, run, documents, 0)
        await audit(
          trx,
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
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        // Some, or whatever of the month is in doubt.
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(1000).nullable() }),
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => {
        const run = await startRun(
          trx,
          queue,
          entity.id,
          'post',
          { month: request.params.month },
          requirePerson(request).name,
        )
        const looked = await move(trx, entity.id, 'to-be-looked-up', {
          to: 'waiting',
          set: 'attempts = 0, run_id = :run, uncertain_since = coalesce(b.uncertain_since, now())',
          where: `b.period = :month and (:units::text[] is null or ${unitSql('b')} = any(:units::text[]))`,
          bindings: { run, month: request.params.month, units: request.body.units },
        })
        if (looked.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'look up' })
        return { run, documents: looked.length }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/not-there',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(1000) }),
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, (trx) =>
        sayNotThere(trx, entity.id, requirePerson(request).name, request.body.units),
      )
    },
  )
}

/** What is in doubt and somebody has looked for in vain: it may be sent again, and the trail says who said so. */
async function sayNotThere(
  trx: Transaction,
  entityId: string,
  person: string,
  units: readonly string[],
): Promise<{ documents: number }> {
  const said = await move<'said-not-there', { number: string }>(
    trx,
    entityId,
    'said-not-there',
    {
      to: 'failed',
      set: `reason_code = :code, reason_facts = :facts::jsonb, uncertain_since = null`,
      where: `${unitSql('b')} = any(:units)`,
      bindings: { units, code: 'AXION_NOT_THERE' satisfies Code, facts: JSON.stringify({ person }) },
    },
    'b.number',
  )
  if (said.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'settle' })
  for (const { number } of said) await audit(trx, 'said-not-there', number, null, null)
  return { documents: said.length }
}

/** Which documents are meant: some, those in a state, a telling handful, those of a cause, or all that a filter finds. */
const ChosenForPosting = z.union([
  z.object({ units: z.array(z.string().max(300)).min(1).max(10_000) }),
  z.object({ states: z.array(z.enum(SENDABLE)).min(1) }),
  z.object({ handful: z.int().min(1).max(50) }),
  z.object({ cause: z.string().max(400) }),
  z.object({ filter: PostFilter }),
])

/** The chosen documents that can be posted: what is booked and proved, a draft, or left out, is none. */
async function chosenIn(
  trx: Transaction,
  { id: entityId, currency }: { readonly id: string; readonly currency: string },
  month: string,
  chosen: z.infer<typeof ChosenForPosting>,
): Promise<(StoredDocument & { readonly state: BookingState | null })[]> {
  const units = async (): Promise<string[] | null> => {
    if ('units' in chosen) return chosen.units
    if ('cause' in chosen) return unitsOfCause(trx, entityId, month, chosen.cause)
    if ('handful' in chosen) return handful(trx, entityId, month, chosen.handful)
    if (!('filter' in chosen)) return null
    const { sql, bindings } = narrowed(postList(entityId, month, chosen.filter), chosen.filter, currency)
    const { rows } = (await trx.raw(sql, bindings as never)) as { rows: PostRecord[] }
    return rows.map((row) => row.unit)
  }
  const wanted = await units()
  return (await documentsOf(trx, entityId, month)
    .where(
      (q) =>
        void (wanted === null
          ? q
              .whereIn('b.state', 'states' in chosen ? chosen.states : [])
              // What the ledger voided is booked anew where just it is asked for.
              .whereRaw(`not ${VOIDED_THERE}`)
          : q.whereRaw(`${unitSql('d')} = any(?)`, [wanted])),
    )
    .where(
      (q) =>
        void q
          .whereIn('b.state', [...SENDABLE])
          .orWhereNull('b.state')
          .orWhere(
            (again) =>
              void again
                .where('b.state', BOOKED)
                .whereExists(
                  trx('tie_unit as u').whereRaw(
                    'u.entity_id = b.entity_id and u.system_id = b.system_id and u.document_id = b.document_id and not u.proved and u.settled is null',
                  ),
                ),
          )
          .orWhere(
            (left) =>
              void left
                .whereIn('b.state', [...UNDER_WAY])
                .whereNotExists(
                  trx('run as r')
                    .whereRaw('r.entity_id = b.entity_id and r.run_id = b.run_id')
                    .whereIn('r.state', ['queued', 'running']),
                ),
          ),
    )
    .whereNotIn('d.status', ['draft', 'void'])
    .whereRaw(`not ${LEFT_OUT}`)
    .select('d.*', 'b.state')) as (StoredDocument & { state: BookingState | null })[]
}

/** The documents of a run, by number. */
async function numbersOf(trx: Transaction, entityId: string, run: string): Promise<string[]> {
  return trx('booking')
    .where({ entity_id: entityId, run_id: run })
    .orderBy('number')
    .pluck('number') as Promise<string[]>
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
       select u.unit_id, row_number() over (partition by u.combined_rates order by u.document_date, u.number) as turn from tie_unit u
       join booking b on b.entity_id = u.entity_id and b.system_id = u.system_id and b.document_id = u.document_id and b.kind = u.kind
       where u.entity_id = ? and u.period = ? and b.state in ${states('rehearsed')} and b.findings = '[]') x
     order by turn, unit_id limit ?`,
    [entityId, month, size],
  )) as { rows: { unit_id: string }[] }
  return rows.map((row) => row.unit_id)
}

function documentsOf(trx: Transaction, entityId: string, month: string) {
  return documentsWithBookings(trx)
    .where({ 'd.entity_id': entityId, 'd.period': month })
    .whereRaw(`(d.status <> 'void' or b.state is not null)`)
    .orderBy(['d.document_date', 'd.number'])
}

async function ledgerOf(trx: Transaction, entityId: string): Promise<PostView['ledger']> {
  const ledger = (await connectedSystems(trx, entityId)).find((system) => system.role === 'ledger')
  const address = ledger?.about.webAddress ?? null
  return ledger && address !== null ? { name: ledger.name, address } : null
}

/** Documents that could not be posted, by reason, most money first: one thing to mend, and how much waits for it. */
async function reasonsOf(
  trx: Transaction,
  entityId: string,
  month: string,
  currency: string,
): Promise<PostView['reasons']> {
  const list = postList(entityId, month, { state: 'failed,in-doubt,blocked' })
  const { sql, bindings } = narrowed(list, NO_FILTER, currency)
  const { rows } = (await trx.raw(sql, bindings as never)) as { rows: PostRecord[] }
  const told = rows.map((row) => {
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

const NO_FILTER: PostFilter = {}

function withoutDocument({ document: _one, ...facts }: Record<string, string>): Record<string, string> {
  return facts
}
