import { AskedAnswers, DecisionsTaken, DecisionsView, ProvedBy, SeenChecked, SeenView } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import { LISTED_BYTES } from '../../lists/body.ts'
import type { App, Services } from '../../services/services.ts'
import { contentOf, keepFile, MOST_BYTES } from '../attached/files.ts'
import { keepAnswers } from './asked.ts'
import { decisionsView, takeDecisions } from './draft.ts'
import { checkSeen, requireSeen, seenView } from './seen.ts'

/** A baseline drafted out of what is there, decision by decision. */
export function draftRoutes(app: App, services: Services): void {
  decisionRoutes(app, services)
  seenRoutes(app, services)
}

function decisionRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/decisions',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: DecisionsView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => decisionsView(books, request.params.month))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/decisions',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: DecisionsTaken,
        response: { 200: z.object({ taken: z.int(), run: ProvedBy }) },
      },
      bodyLimit: LISTED_BYTES,
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const { name } = requirePerson(request)
        const { month } = request.params
        const taken = await takeDecisions(books, { month, person: name }, request.body)
        const run = await proveAfter(services, books, { month, startedBy: name })
        return { taken, run }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/decisions/answers',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: AskedAnswers,
        response: { 200: z.object({ kept: z.int(), run: ProvedBy }) },
      },
      bodyLimit: LISTED_BYTES,
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const { name } = requirePerson(request)
        const kept = await keepAnswers(books, name, request.body)
        const run = await proveAfter(services, books, { month: request.params.month, startedBy: name })
        return { kept, run }
      })
    },
  )
}

/** On whose word stands what was drafted, and who read it in an agency's own text. No figure changes by it. */
function seenRoutes(app: App, { database, today }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/decisions/seen',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: SeenView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => seenView(books, request.params.month))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/decisions/seen',
    {
      config: { role: 'preparer' },
      schema: { params: monthParams, body: SeenChecked, response: { 200: z.object({ checked: z.int() }) } },
      bodyLimit: LISTED_BYTES,
    },
    (request) => {
      const entity = requireRole(request)
      const { name } = requirePerson(request)
      return changing(database, entity.id, async (books) => ({
        checked: await checkSeen(books, { person: name, today: today(entity.timeZone) }, request.body),
      }))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/decisions/seen/files',
    {
      config: { role: 'preparer' },
      bodyLimit: MOST_BYTES + 1024,
      schema: {
        params: monthParams,
        querystring: z.object({ group: z.string().min(1).max(60), name: z.string().min(1).max(200) }),
        response: { 200: z.object({ file: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      const { group, name } = request.query
      return changing(database, entity.id, async (books) => {
        await requireSeen(books, group)
        const content = contentOf(request.body)
        return { file: await keepFile(books, { about: 'check', object: group }, { name, content }, person) }
      })
    },
  )
}
