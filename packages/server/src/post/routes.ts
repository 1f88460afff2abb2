import {
  Begun,
  Concerned,
  PostingPreview,
  PostListQuery,
  PostSums,
  PostView,
  SentFile,
  Started,
  WithdrawPreview,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { blockingChecks } from '../connect/checks.ts'
import { changing, inEntity } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startFor } from '../jobs/starting.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import { sendTables } from '../lists/sent.ts'
import type { App, Services } from '../services/services.ts'
import { lookAgain, post, sayNotThere, withdraw } from './acts.ts'
import { ChosenForPosting, chosenIn } from './chosen.ts'
import { POST_HEADER, postSums, postTable } from './list.ts'
import { previewPosting } from './preview.ts'
import { sayLooked } from './restored.ts'
import { postView } from './view.ts'
import { previewWithdrawal } from './withdraw.ts'

/** Rehearsing, posting some or all, and what became of each document. */
export function postRoutes(app: App, services: Services): void {
  listRoutes(app, services)
  postingRoutes(app, services)
  withdrawalRoutes(app, services)
  doubtRoutes(app, services)
}

/** Every document of the month, with what is booked of it. */
function listRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/post',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: PostListQuery,
        response: { 200: PostView },
      },
    },
    async (request): Promise<PostView> => {
      const entity = requireRole(request)
      const { month } = request.params
      const { says: blocking, unchecked } = await blockingChecks(services, entity.id, month)
      return inEntity(database, entity.id, async (books) => ({
        ...(await postView(books, month, request.query)),
        ...{ blocking, unchecked },
      }))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/post/sums',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams, querystring: PostListQuery, response: { 200: PostSums } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => postSums(books, request.params.month, request.query))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/post/list.:format',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ format: z.enum(['csv', 'xlsx']) }),
        querystring: PostListQuery,
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { month, format } = request.params
      const rows = await inEntity(database, entity.id, (books) => postTable(books, month, request.query))
      const name = `post-${month}`
      return sendTables(database, reply, {
        entityId: entity.id,
        format,
        name,
        tables: [{ name, header: POST_HEADER, rows }],
      })
    },
  )
}

/** What is rehearsed, and what goes to the ledger. */
function postingRoutes(app: App, services: Services): void {
  const { database } = services
  app.post(
    '/api/entities/:entity/months/:month/post/runs/preview',
    {
      config: { role: 'viewer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: ChosenForPosting, response: { 200: PostingPreview } },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const documents = await chosenIn(books, request.params.month, request.body)
        return previewPosting(books, {
          documents,
          person: requirePerson(request).name,
        })
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/rehearsal',
    { config: { role: 'preparer' }, schema: { params: monthParams, response: { 200: Started } } },
    (request) => startFor(database, request, 'rehearse', { month: request.params.month }),
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
        response: { 200: Begun },
      },
    },
    async (request) => {
      const entity = requireRole(request)
      const { month } = request.params
      const { onlyRight, revision, ...chosen } = request.body
      const { says } = await blockingChecks(services, entity.id, month)
      if (says.length > 0) throw new Problem('AXION_NOT_READY', { checks: says.join(' ') })
      const person = requirePerson(request).name
      return changing(database, entity.id, (books) =>
        post(books, { month, person, chosen, onlyRight, revision }),
      )
    },
  )
}

const chosenUnits = z.object({ units: z.array(z.string().max(300)).min(1).max(10_000) })

/** What is taken back from the ledger. */
function withdrawalRoutes(app: App, { database }: Services): void {
  app.post(
    '/api/entities/:entity/months/:month/post/withdrawals/preview',
    {
      config: { role: 'viewer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: chosenUnits, response: { 200: WithdrawPreview } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => previewWithdrawal(books, request.body.units))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/withdrawals',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: monthParams,
        body: chosenUnits.extend({ revision: z.string().max(200) }),
        response: { 200: Begun },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      return changing(database, entity.id, (books) =>
        withdraw(books, { month: request.params.month, person, ...request.body }),
      )
    },
  )
}

/** What nobody knows of whether it arrived. */
function doubtRoutes(app: App, { database }: Services): void {
  app.post(
    '/api/entities/:entity/months/:month/post/look-again',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        // Some, or whatever of the month is in doubt.
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(1000).nullable() }),
        response: { 200: Begun },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      return changing(database, entity.id, (books) =>
        lookAgain(books, { month: request.params.month, person, ...request.body }),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/not-there',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(1000) }),
        response: { 200: Concerned },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, (books) =>
        sayNotThere(books, requirePerson(request).name, request.body.units),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/post/looked',
    {
      config: { role: 'preparer' },
      schema: { params: monthParams, response: { 200: z.object({ known: z.boolean() }) } },
    },
    (request) =>
      changing(database, requireRole(request).id, async (books) => {
        await sayLooked(books)
        return { known: true }
      }),
  )
}
