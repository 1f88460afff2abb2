import {
  OpeningAside,
  OpeningDay,
  OpeningDayKept,
  OpeningList,
  OpeningListView,
  OpeningPreview,
  OpeningRead,
  OpeningView,
  SentFile,
  Started,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { lastPulls } from '../../connect/fresh.ts'
import { previewOpening, setOpening } from '../../connect/openingDay.ts'
import { changing, inEntity, type Books } from '../../database/connection.ts'
import { startRun } from '../../jobs/runs.ts'
import { sendTables } from '../../lists/sent.ts'
import type { App, Services } from '../../services/services.ts'
import { isFiles } from '../../setUp/held.ts'
import { contentOf } from '../attached/files.ts'
import { loadOpening, openingView } from './accounts.ts'
import { linesOf, sheetOf } from './fromFile.ts'
import { itemsOf, keepAside, keepList, listView } from './lists.ts'

const ofAccount = monthParams.extend({ account: z.string().min(1).max(200) })
/** A list as a file. */
const MOST_BYTES = 4 * 1024 * 1024

/** From when on the books stand here, and what each account stood at then with the list that makes it up. */
export function openingRoutes(app: App, services: Services): void {
  dayRoutes(app, services)
  listRoutes(app, services)
  listFileRoutes(app, services)
}

function dayRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/opening',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: OpeningView } } },
    (request) => inEntity(database, requireRole(request).id, (books) => openingView(books)),
  )

  app.post(
    '/api/entities/:entity/months/:month/opening/preview',
    {
      config: { role: 'administrator' },
      schema: { params: monthParams, body: OpeningDay, response: { 200: OpeningPreview } },
    },
    (request) =>
      inEntity(database, requireRole(request).id, (books) => previewOpening(books, request.body.day)),
  )

  app.put(
    '/api/entities/:entity/months/:month/opening',
    {
      config: { role: 'administrator' },
      schema: { params: monthParams, body: OpeningDayKept, response: { 200: Started } },
    },
    (request) => {
      const person = requirePerson(request).name
      return changing(database, requireRole(request).id, async (books) => {
        await setOpening(books, request.body, person)
        const { month } = request.params
        const systemIds = await ledgerToAsk(books)
        return {
          run: await (systemIds === null
            ? startRun(books, { kind: 'prove', payload: { month }, startedBy: person })
            : startRun(books, { kind: 'pull', payload: { month, systemIds }, startedBy: person })),
        }
      })
    },
  )
}

/** The ledger, to be asked for its balances of the day, where it was pulled before: what moved is proved with that. Its first pull asks by itself. */
async function ledgerToAsk(books: Books): Promise<readonly string[] | null> {
  const ledger = (await loadOpening(books))?.ledger.row
  if (ledger === undefined || isFiles(ledger)) return null
  return (await lastPulls(books, ledger.system_id)).good === null ? null : [ledger.system_id]
}

function listRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/opening/accounts/:account',
    { config: { role: 'viewer' }, schema: { params: ofAccount, response: { 200: OpeningListView } } },
    (request) =>
      inEntity(database, requireRole(request).id, (books) => listView(books, request.params.account)),
  )

  app.put(
    '/api/entities/:entity/months/:month/opening/accounts/:account',
    {
      config: { role: 'preparer' },
      bodyLimit: MOST_BYTES,
      schema: { params: ofAccount, body: OpeningList, response: { 200: z.object({ lines: z.number() }) } },
    },
    (request) => {
      const { items } = request.body
      return changing(database, requireRole(request).id, async (books) => {
        await keepList(books, requirePerson(request).name, { account: request.params.account, items })
        return { lines: items.length }
      })
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/opening/accounts/:account/aside',
    {
      config: { role: 'preparer' },
      schema: { params: ofAccount, body: OpeningAside, response: { 200: z.object({ aside: z.boolean() }) } },
    },
    (request) => {
      const { why } = request.body
      return changing(database, requireRole(request).id, async (books) => {
        await keepAside(books, requirePerson(request).name, { account: request.params.account, why })
        return { aside: why !== null }
      })
    },
  )
}

/** The list as a file: read, so that somebody looks at it before it is kept; and taken out. */
function listFileRoutes(app: App, { database }: Services): void {
  app.post(
    '/api/entities/:entity/months/:month/opening/accounts/:account/read',
    {
      config: { role: 'preparer' },
      bodyLimit: MOST_BYTES,
      schema: {
        params: ofAccount,
        querystring: z.object({ name: z.string().min(1).max(200) }),
        response: { 200: OpeningRead },
      },
    },
    async (request) => {
      const currency = await inEntity(database, requireRole(request).id, (books) =>
        Promise.resolve(books.currency),
      )
      return {
        items: await linesOf(contentOf(request.body), { fileName: request.query.name, currency }),
      }
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/opening/accounts/:account/list',
    {
      config: { role: 'viewer' },
      schema: {
        params: ofAccount,
        querystring: z.object({ format: z.enum(['csv', 'xlsx']).default('csv') }),
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const { id } = requireRole(request)
      const { account } = request.params
      const items = await inEntity(database, id, (books) => itemsOf(books, account))
      return sendTables(database, reply, {
        entityId: id,
        format: request.query.format,
        name: `${id}-opening-${account.replaceAll(/[^\w.-]/g, '-')}`,
        tables: [sheetOf(account.slice(0, 31), items)],
      })
    },
  )
}
