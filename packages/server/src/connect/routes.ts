import { About, role, say, type Code, type ConnectView } from '@axion/contract'
import { z } from 'zod'
import { audit } from '../audit/audit.ts'
import { seal } from '../bridges/secrets.ts'
import { inEntity, inOrder, json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { requirePerson, requireRole } from '../people/sessions.ts'
import type { App, Services } from '../services.ts'
import { monthParams } from '../tieout/routes.ts'
import { recheck } from './checks.ts'
import { fieldsOf } from './fields.ts'
import { connectedSystems } from './held.ts'
import { pathView } from './path.ts'
import { CHECKS } from './readiness.ts'

const MOST_CHANGES = 12

/** Connecting systems, whether they are ready, and what each pull brought. */
export function connectRoutes(app: App, services: Services): void {
  const { database, queue, bridges, settings } = services

  app.put('/api/entities/:entity/systems/:system', {
    schema: {
      params: z.object({ entity: z.string(), system: z.string().regex(/^[a-z0-9-]{1,40}$/) }),
      body: z.object({ role, name: z.string().min(1).max(100), address: z.url().max(500), token: z.string().min(8).max(500) }),
    },
  }, async (request) => {
    const entity = requireRole(request, 'administrator')
    const { name, address, token } = request.body
    const about: About = await bridges.open(name, address, token).about()
    if (about.role !== request.body.role) throw new Problem('AXION_BRIDGE_ROLE', { system: name, theirs: about.role, ours: request.body.role })
    await inEntity(database, entity.id, async (trx) => {
      const fields = { role: about.role, name, address, token_sealed: seal(token, settings.AXION_SECRET_KEY), about: json(about), disconnected_at: null }
      await trx('system').insert({ entity_id: entity.id, system_id: request.params.system, ...fields }).onConflict(['entity_id', 'system_id']).merge()
      await audit(trx, entity.id, requirePerson(request).name, 'connected', name, null, { role: about.role, address, company: about.company })
    })
    return { system: request.params.system, company: about.company }
  })

  app.get('/api/entities/:entity/months/:month/connect', { schema: { params: monthParams } }, (request) => {
    const entity = requireRole(request, 'viewer')
    return inEntity(database, entity.id, (trx) => connectView(trx, entity.id))
  })

  app.post('/api/entities/:entity/months/:month/checks', { schema: { params: monthParams } }, async (request) => {
    const entity = requireRole(request, 'preparer')
    await recheck(services, entity, request.params.month)
    return { checked: true }
  })

  app.post('/api/entities/:entity/months/:month/pulls', { schema: { params: monthParams, body: z.object({ systemIds: z.array(z.string()).min(1).nullable() }) } }, (request) => {
    const entity = requireRole(request, 'preparer')
    return inEntity(database, entity.id, async (trx) => ({
      run: await startRun(trx, queue, entity.id, 'pull', { month: request.params.month, systemIds: request.body.systemIds }, requirePerson(request).name),
    }))
  })

  app.get('/api/entities/:entity/months/:month/path', { schema: { params: monthParams } }, (request) => {
    const entity = requireRole(request, 'viewer')
    return inEntity(database, entity.id, (trx) => pathView(trx, entity.id, request.params.month, entity.currency))
  })
}

async function connectView(trx: Transaction, entityId: string): Promise<ConnectView> {
  const systems = await connectedSystems(trx, entityId)
  const results = (await trx('readiness').where({ entity_id: entityId })) as { system_id: string; check_code: string; state: 'passes' | 'fails' | 'open'; facts: { fact: string } }[]
  const findings = (await trx('finding').where({ entity_id: entityId })) as { system_id: string; code: Code; facts: Record<string, string> }[]
  return {
    systems: await inOrder(systems, async (system) => {
      const pull = (await trx('pull').where({ entity_id: entityId, system_id: system.system_id }).orderBy('pull_id', 'desc').first()) as { pull_id: string; finished_at: Date; counts: ConnectView['systems'][number]['lastPull'] } | undefined
      const { changes, more } = pull ? await changesOf(trx, entityId, pull.pull_id) : { changes: [], more: 0 }
      const own = results.filter((r) => r.system_id === system.system_id)
      const applicable = CHECKS.filter((check) => own.length === 0 || own.some((r) => r.check_code === check.code))
      return {
        id: system.system_id, role: system.role, name: system.name, product: system.about.product, company: system.about.company.name, webAddress: system.about.webAddress,
        pulledAt: pull?.finished_at.toISOString() ?? null, lastPull: pull?.counts ?? [], changes, moreChanges: more,
        checks: own.length === 0 ? [] : applicable.map((check) => {
          const result = own.find((r) => r.check_code === check.code)
          return { ...check, state: result?.state ?? ('not-checked' as const), fact: result?.facts.fact ?? '' }
        }),
        findings: findings.filter((f) => f.system_id === system.system_id).map((f) => say(f.code, f.facts)),
      }
    }),
  }
}

/** What a pull changed, field by field; what is new altogether is only counted. */
async function changesOf(trx: Transaction, entityId: string, pullId: string): Promise<{ changes: ConnectView['systems'][number]['changes']; more: number }> {
  const rows = (await trx('held_change').where({ entity_id: entityId, pull_id: pullId }).whereNot({ kind: 'added' }).orderBy('change_id')) as { resource: string; label: string; kind: string; before: unknown; after: unknown }[]
  const changes = rows.slice(0, MOST_CHANGES).map(({ resource, label, kind, before, after }) => {
    return { resource, label, kind, fields: fieldsOf(before, after).slice(0, 6) }
  })
  return { changes, more: Math.max(0, rows.length - MOST_CHANGES) }
}
