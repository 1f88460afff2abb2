import type { Columns } from '../database/row.ts'
import { TrailView } from '@axion/contract'
import type { Knex } from 'knex'
import { z } from 'zod'
import { requirePractice, requireRole } from '../access/sessions.ts'
import { inEntity } from '../database/connection.ts'
import { likePattern } from '../database/like.ts'
import type { App, Services } from '../services/services.ts'
import { fieldsOf } from './fields.ts'

interface TrailRow extends Columns<
  'audit_entry',
  'place' | 'at' | 'person' | 'from_address' | 'action' | 'object' | 'before' | 'after'
> {
  readonly before: unknown
  readonly after: unknown
}

/** A field of the trail is read at a glance; a search goes through all of it. */
const MOST = 240
function atMost(text: string): string {
  return text.length <= MOST ? text : `${text.slice(0, MOST).replace(/, [^,]*$/, '')}, …`
}

const TrailQuery = z.object({
  person: z.string().max(200).optional(),
  action: z.string().max(60).optional(),
  search: z.string().max(100).optional(),
  before: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional(),
  limit: z.coerce.number().int().min(1).max(500).default(200),
})

/** Reading the audit trails. Nothing here, and no right of the application's, can change them. */
export function trailRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/trail',
    {
      config: { role: 'viewer' },
      schema: {
        params: z.object({ entity: z.string() }),
        querystring: TrailQuery,
        response: { 200: TrailView },
      },
    },
    (request): Promise<TrailView> => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, ({ trx }) =>
        trailView(() => trx('audit_entry').where({ entity_id: entity.id }), request.query),
      )
    },
  )

  app.get(
    '/api/practice/trail',
    { schema: { querystring: TrailQuery, response: { 200: TrailView } } },
    (request): Promise<TrailView> => {
      requirePractice(request)
      return trailView(() => database('practice_entry'), request.query)
    },
  )
}

async function trailView(
  lines: () => Knex.QueryBuilder,
  { person, action, search, before, limit }: z.infer<typeof TrailQuery>,
): Promise<TrailView> {
  const rows = (await lines()
    .modify((q) => {
      if (person) void q.where({ person })
      if (action) void q.where({ action })
      if (search)
        void q.whereRaw(
          '(object ilike ? or before::text ilike ? or after::text ilike ?)',
          Array.from({ length: 3 }, () => likePattern(search)),
        )
      if (before) void q.where('place', '<', before)
    })
    .orderBy('place', 'desc')
    .limit(limit + 1)) as TrailRow[]
  const distinct = async (column: 'person' | 'action'): Promise<string[]> =>
    ((await lines().distinct(`${column} as value`).orderBy('value')) as { value: string }[])
      .map((r) => r.value)
      .filter((value) => value !== '')
  return {
    people: await distinct('person'),
    actions: await distinct('action'),
    next: rows.length > limit ? (rows[limit - 1]?.place ?? null) : null,
    entries: rows.slice(0, limit).map((row) => ({
      id: row.place,
      at: row.at.toISOString(),
      person: row.person,
      from: row.from_address,
      action: row.action,
      object: row.object,
      fields: fieldsOf(row.before, row.after)
        .slice(0, 8)
        .map(({ field, from, to }) => ({ field, from: atMost(from), to: atMost(to) })),
    })),
  }
}
