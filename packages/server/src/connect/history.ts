import { ChangesView, isMoving, RESOURCES, type Resource } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requireRole } from '../access/sessions.ts'
import { fieldsOf } from '../audit/fields.ts'
import { inEntity, type Books } from '../database/connection.ts'
import { likePattern } from '../database/like.ts'
import type { App, Services } from '../services/services.ts'
import { connectedSystems } from '../setUp/held.ts'

/** Documents and entries change every day: what is kept here is of the set-up. */
const SET_UP = (Object.keys(RESOURCES) as Resource[]).filter((resource) => !isMoving(resource))
const PAGE = 200

const Filter = z.object({
  system: z.string().max(60).optional(),
  resource: z.enum(SET_UP as [Resource, ...Resource[]]).optional(),
  kind: z.enum(['added', 'changed', 'removed']).optional(),
  search: z.string().max(100).optional(),
  before: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional(),
})

/** What pulls found otherwise than those before: kept for good, read newest first. */
export function historyRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/changes',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams, querystring: Filter, response: { 200: ChangesView } },
    },
    (request): Promise<ChangesView> => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => changesView(books, request.query))
    },
  )
}

async function changesView(
  books: Books,
  { system, resource, kind, search, before }: z.infer<typeof Filter>,
): Promise<ChangesView> {
  const rows = (await books
    .trx('held_change as c')
    .join('pull as p', (on) => void on.on('p.entity_id', 'c.entity_id').on('p.pull_id', 'c.pull_id'))
    .where({ 'c.entity_id': books.entityId })
    .whereIn('c.resource', resource ? [resource] : SET_UP)
    .modify((q) => {
      if (system) void q.where({ 'c.system_id': system })
      // What a first pull brings is no change: what is new is listed where it is asked for.
      void (kind ? q.where({ 'c.kind': kind }) : q.whereNot({ 'c.kind': 'added' }))
      if (search)
        void q.whereRaw(
          '(c.label ilike ? or c.before::text ilike ? or c.after::text ilike ?)',
          Array.from({ length: 3 }, () => likePattern(search)),
        )
      if (before) void q.where('c.change_id', '<', before)
    })
    .orderBy('c.change_id', 'desc')
    .limit(PAGE + 1)
    .select(
      'c.change_id',
      'c.system_id',
      'c.resource',
      'c.kind',
      'c.label',
      'c.before',
      'c.after',
      'p.finished_at as at',
    )) as {
    change_id: string
    system_id: string
    resource: Resource
    kind: ChangesView['changes'][number]['kind']
    label: string
    before: unknown
    after: unknown
    at: Date
  }[]
  const systems = await connectedSystems(books)
  const names = new Map(systems.map((one) => [one.system_id, one.name]))
  return {
    systems: systems.map((one) => ({ id: one.system_id, name: one.name })),
    resources: SET_UP,
    next: rows.length > PAGE ? (rows[PAGE - 1]?.change_id ?? null) : null,
    changes: rows.slice(0, PAGE).map((row) => ({
      id: row.change_id,
      at: row.at.toISOString(),
      system: names.get(row.system_id) ?? row.system_id,
      resource: row.resource,
      kind: row.kind,
      label: row.label,
      fields: fieldsOf(row.before, row.after).slice(0, 8),
    })),
  }
}
