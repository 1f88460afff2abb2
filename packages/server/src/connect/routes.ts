import {
  ConnectView,
  role,
  say,
  Scope,
  ScopePreview,
  ScopeView,
  Started,
  WaysView,
  type Code,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { fieldsOf } from '../audit/fields.ts'
import { changing, inEntity, inOrder, type Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import type { App, Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { connectedSystems, isFiles } from '../setUp/held.ts'
import { recheck } from './checks.ts'
import { ask, keepSystem } from './connecting.ts'
import { lastPulls, notFresh } from './fresh.ts'
import { CHECKS } from './readiness.ts'
import { changeScope, leftOutOf, previewScope, scopeView } from './scope.ts'
import { streamsOf } from './silence.ts'
import { waysOf } from './ways.ts'

const MOST_CHANGES = 12

/** Connecting systems, whether they are ready, and what each pull brought. */
export function connectRoutes(app: App, services: Services): void {
  const { database, queue, today } = services

  app.put(
    '/api/entities/:entity/systems/:system',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string(), system: z.string().regex(/^[a-z0-9-]{1,40}$/) }),
        body: z.object({
          role,
          name: z.string().min(1).max(100),
          address: z.url().max(500),
          token: z.string().min(8).max(500),
        }),
        response: {
          200: z.object({ system: z.string(), company: z.object({ id: z.string(), name: z.string() }) }),
        },
      },
    },
    async (request) => {
      const entity = requireRole(request)
      const { name, address, token } = request.body
      const connection = { systemId: request.params.system, role: request.body.role, name, address, token }
      const about = await ask(services, connection)
      await changing(database, entity.id, (books) => keepSystem(books, services, connection, about))
      return { system: request.params.system, company: about.company }
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/connect',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: ConnectView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        connectView(books, request.params.month, today(entity.timeZone)),
      )
    },
  )

  app.delete(
    '/api/entities/:entity/systems/:system',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string(), system: z.string().max(60) }),
        response: { 200: z.object({ disconnected: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const { trx } = books
        const taken = (await trx('system')
          .where({ entity_id: entity.id, system_id: request.params.system })
          .whereNull('disconnected_at')
          .update({ disconnected_at: trx.fn.now() }, ['name'])) as { name: string }[]
        if (!taken[0]) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
        await audit(trx, 'disconnected', taken[0].name)
        await noteSetUp(books)
        return { disconnected: request.params.system }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/systems/:system/ways',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams.extend({ system: z.string().max(60) }), response: { 200: WaysView } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        waysOf(books, request.params.month, request.params.system),
      )
    },
  )

  const ofSystem = monthParams.extend({ system: z.string().max(60) })

  app.get(
    '/api/entities/:entity/months/:month/systems/:system/scope',
    { config: { role: 'viewer' }, schema: { params: ofSystem, response: { 200: ScopeView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        scopeView(books, request.params.month, request.params.system),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/systems/:system/scope/preview',
    {
      config: { role: 'viewer' },
      schema: { params: ofSystem, body: Scope, response: { 200: ScopePreview } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        previewScope(books, request.params.system, request.body),
      )
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/systems/:system/scope',
    {
      config: { role: 'administrator' },
      schema: {
        params: ofSystem,
        body: z.object({ scope: Scope, revision: z.string().max(200) }),
        response: { 200: z.object({ changed: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await changeScope(books, request.params.system, request.body, requirePerson(request).name)
        return { changed: request.params.system }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/checks',
    {
      config: { role: 'preparer' },
      schema: { params: monthParams, response: { 200: z.object({ checked: z.boolean() }) } },
    },
    async (request) => {
      const entity = requireRole(request)
      await recheck(services, entity, request.params.month)
      return { checked: true }
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/pulls',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ systemIds: z.array(z.string()).min(1).nullable() }),
        response: { 200: Started },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => ({
        run: await startRun(books, queue, {
          kind: 'pull',
          payload: { month: request.params.month, systemIds: request.body.systemIds },
          startedBy: requirePerson(request).name,
        }),
      }))
    },
  )
}

async function connectView(books: Books, month: string, today: string): Promise<ConnectView> {
  const { trx, entityId, currency } = books
  const systems = await connectedSystems(books)
  const results = (await trx('readiness').where({ entity_id: entityId, period: month })) as {
    system_id: string
    check_code: string
    state: 'passes' | 'fails' | 'open'
    facts: { fact: string }
  }[]
  const findings = (await trx('finding').where({ entity_id: entityId })) as {
    system_id: string
    code: Code
    facts: Record<string, string>
  }[]
  const streams = await streamsOf(books, month, today)
  const leftOut = await leftOutOf(books, month, systems)
  const scopes = new Map(
    (
      (await trx('system_scope').where({ entity_id: entityId }).select('system_id', 'scope')) as {
        system_id: string
        scope: Scope
      }[]
    ).map((row) => [row.system_id, row.scope]),
  )
  const off = (await trx('system')
    .where({ entity_id: entityId })
    .whereNotNull('disconnected_at')
    .orderBy('name')
    .select('system_id', 'name', 'role', 'disconnected_at')) as {
    system_id: string
    name: string
    role: string
    disconnected_at: Date
  }[]
  return {
    currency,
    disconnected: off.map((row) => ({
      id: row.system_id,
      name: row.name,
      role: row.role,
      at: row.disconnected_at.toISOString(),
    })),
    systems: await inOrder(systems, async (system) => {
      const { good: pull } = await lastPulls(books, system.system_id)
      const [stale] = await notFresh(books, [system])
      const { changes, more } = pull ? await changesOf(books, pull.pull_id) : { changes: [], more: 0 }
      const own = results.filter((r) => r.system_id === system.system_id)
      const applicable = CHECKS.filter(
        (check) => own.length === 0 || own.some((r) => r.check_code === check.code),
      )
      return {
        id: system.system_id,
        role: system.role,
        name: system.name,
        product: system.about.product,
        company: system.about.company.name,
        webAddress: system.about.webAddress,
        pulledAt: pull?.finished_at.toISOString() ?? null,
        notFresh: stale ?? null,
        lastPull: pull?.counts ?? [],
        changes,
        moreChanges: more,
        checks:
          own.length === 0
            ? []
            : applicable.map((check) => {
                const result = own.find((r) => r.check_code === check.code)
                return {
                  ...check,
                  state: result?.state ?? ('not-checked' as const),
                  fact: result?.facts.fact ?? '',
                }
              }),
        byFiles: isFiles(system),
        goesOut: system.goesOut,
        schedule: scopes.get(system.system_id)?.schedule ?? null,
        leftOut: leftOut.get(system.system_id) ?? { documents: 0, tax: null, total: null },
        streams: streams
          .filter((stream) => stream.systemId === system.system_id)
          .map(({ name, documents, silence }) => ({
            name,
            documents,
            silence: silence && { since: silence.since, days: silence.days, ...silence.usual },
          })),
        findings: findings.filter((f) => f.system_id === system.system_id).map((f) => say(f.code, f.facts)),
      }
    }),
  }
}

/** What a pull changed, field by field; what is new altogether is only counted. */
async function changesOf(
  { trx, entityId }: Books,
  pullId: string,
): Promise<{ changes: ConnectView['systems'][number]['changes']; more: number }> {
  const rows = (await trx('held_change')
    .where({ entity_id: entityId, pull_id: pullId })
    .whereNot({ kind: 'added' })
    .orderBy('change_id')) as {
    resource: string
    label: string
    kind: string
    before: unknown
    after: unknown
  }[]
  const changes = rows.slice(0, MOST_CHANGES).map(({ resource, label, kind, before, after }) => {
    return { resource, label, kind, fields: fieldsOf(before, after).slice(0, 6) }
  })
  return { changes, more: Math.max(0, rows.length - MOST_CHANGES) }
}
