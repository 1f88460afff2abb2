import {
  AskedView,
  ConnectView,
  role,
  Scope,
  ScopePreview,
  ScopeView,
  Started,
  WaysView,
} from '@axion/contract'
import type { FastifyRequest } from 'fastify'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole, type EntityOfPerson } from '../access/sessions.ts'
import { changing, inEntity } from '../database/connection.ts'
import { proveAfter, type Act } from '../jobs/proveAfter.ts'
import { startRun } from '../jobs/runs.ts'
import { startFor } from '../jobs/starting.ts'
import type { App, Services } from '../services/services.ts'
import { askBefore } from './asked.ts'
import { recheck } from './checks.ts'
import { setComputing } from './computing.ts'
import { ask, disconnect, keepSystem } from './connecting.ts'
import { changeScope, previewScope, scopeView } from './scope.ts'
import { waysOf } from './ways.ts'
import { connectView } from './view.ts'

/** Connecting systems, whether they are ready, and what each pull brought. */
export function connectRoutes(app: App, services: Services): void {
  systemRoutes(app, services)
  scopeRoutes(app, services)
  computingRoutes(app, services)
  pullRoutes(app, services)
}

const ofSystem = monthParams.extend({ system: z.string().max(60) })
const systemId = z.string().regex(/^[a-z0-9-]{1,40}$/)
const Connecting = z.object({
  role,
  name: z.string().min(1).max(100),
  address: z.url().max(500),
  token: z.string().min(8).max(500),
})

/** Systems as they are connected, and taken off. */
function systemRoutes(app: App, services: Services): void {
  const { database } = services
  const acting = (request: FastifyRequest, { timeZone }: EntityOfPerson): Act => ({
    month: services.today(timeZone).slice(0, 7),
    startedBy: requirePerson(request).name,
  })
  app.post(
    '/api/entities/:entity/months/:month/systems/:system/asked',
    {
      config: { role: 'administrator' },
      schema: {
        params: monthParams.extend({ system: systemId }),
        body: Connecting,
        response: { 200: AskedView },
      },
    },
    (request) => {
      const { system, month } = request.params
      return askBefore(services, { systemId: system, ...request.body }, requireRole(request), month)
    },
  )

  app.put(
    '/api/entities/:entity/systems/:system',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string(), system: systemId }),
        body: Connecting,
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
      await changing(database, entity.id, async (books) => {
        await keepSystem(books, services, connection, about)
        await proveAfter(services, books, acting(request, entity))
      })
      return { system: request.params.system, company: about.company }
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
        await disconnect(books, request.params.system)
        await proveAfter(services, books, acting(request, entity))
        return { disconnected: request.params.system }
      })
    },
  )
}

/** For which systems a tax service computes. */
function computingRoutes(app: App, { database }: Services): void {
  app.put(
    '/api/entities/:entity/months/:month/systems/:system/computes-for',
    {
      config: { role: 'administrator' },
      schema: {
        params: ofSystem,
        body: z.strictObject({ systems: z.array(z.string().max(60)).max(50) }),
        response: { 200: Started },
      },
    },
    (request) => {
      const { month, system } = request.params
      const person = requirePerson(request).name
      return changing(database, requireRole(request).id, async (books) => {
        await setComputing(books, { serviceId: system, systems: request.body.systems }, person)
        return { run: await startRun(books, { kind: 'prove', payload: { month }, startedBy: person }) }
      })
    },
  )
}

/** How a system is found to keep its books, and which of its company it is asked for. */
function scopeRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/systems/:system/ways',
    {
      config: { role: 'viewer' },
      schema: { params: ofSystem, response: { 200: WaysView } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        waysOf(books, request.params.month, request.params.system),
      )
    },
  )

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
}

/** Whether systems are ready, and what is pulled of them. */
function pullRoutes(app: App, services: Services): void {
  const { database, today } = services
  app.get(
    '/api/entities/:entity/months/:month/connect',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: ConnectView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        connectView(books, {
          month: request.params.month,
          today: today(entity.timeZone),
          administers: entity.role === 'administrator',
        }),
      )
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
    (request) =>
      startFor(database, request, 'pull', { month: request.params.month, systemIds: request.body.systemIds }),
  )
}
