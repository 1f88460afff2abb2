import { MonthsView, PathView, PracticeView } from '@axion/contract'
import { formatAmount, monthBefore } from '@axion/core'
import { z } from 'zod'
import { monthParams, PERIOD } from '../access/month.ts'
import { entitiesOf, requirePerson, requireRole } from '../access/sessions.ts'
import { inEntity, inOrder } from '../database/connection.ts'
import { whyAway } from '../faults/whyAway.ts'
import type { App, Services } from '../services/services.ts'
import { monthsOfAll, monthsView } from './months.ts'
import { pathView } from './path.ts'

/** The practice board, and an entity's months: every legal entity that somebody belongs to, each read in a transaction of its own. */
export function practiceRoutes(app: App, { database, today }: Services): void {
  app.get(
    '/api/entities/:entity/months',
    {
      config: { role: 'viewer' },
      schema: { params: z.object({ entity: z.string() }), response: { 200: MonthsView } },
    },
    (request): Promise<MonthsView> => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => monthsView(books, today(entity.timeZone)))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/path',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: PathView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => pathView(books, request.params.month))
    },
  )

  app.get(
    '/api/practice',
    {
      schema: {
        querystring: z.object({ month: z.string().regex(PERIOD, 'is no month').optional() }),
        response: { 200: PracticeView },
      },
    },
    async (request): Promise<PracticeView> => {
      const person = requirePerson(request)
      const own = await entitiesOf(database, person.id)
      const entities = own.filter(({ closedOn }) => closedOn === null)
      const month = request.query.month ?? monthBefore(today(entities[0]?.timeZone ?? 'UTC'))
      const away: PracticeView['away'][number][] = []
      const read = await inOrder(entities, ({ id, name, role, currency, timeZone }) =>
        inEntity(database, id, async (books) => {
          const path = await pathView(books, month)
          const open = (await books
            .trx('tie_unit')
            .where({ entity_id: id, period: month, proved: false })
            .whereNotNull('cause')
            .first(books.trx.raw('count(distinct cause)::int as causes'))) as unknown as { causes: number }
          const { months } = await monthsView(books, today(timeZone))
          return {
            row: {
              id,
              name,
              role,
              month,
              path,
              before: stateOf(months, monthBefore(month), currency),
              causes: open.causes,
              findings: path.align.findings,
            },
            months,
          }
        }).catch((error: unknown) => {
          // What is wrong with one entity's database keeps nobody from the others.
          const problem = whyAway(error)
          if (!problem) throw error
          away.push({ id, name, role, problem })
          return null
        }),
      )
      const known = read.filter((one) => one !== null)
      return {
        month,
        months: monthsOfAll(known.map((one) => one.months)),
        entities: known.map((one) => one.row).sort(byWhatWaits),
        away,
        closed: own.flatMap(({ id, name, closedOn }) =>
          closedOn === null ? [] : [{ id, name, on: closedOn }],
        ),
      }
    },
  )
}

function stateOf(
  months: MonthsView['months'],
  month: string,
  currency: string,
): PracticeView['entities'][number]['before'] {
  // On whose word it is proved is an entity's, whatever the month.
  const nothing = {
    month,
    state: 'nothing',
    unproved: formatAmount(0n, currency),
    documents: 0,
    apart: 0,
    notYet: 0,
    resting: months.some(({ resting }) => resting),
  } as const
  return months.find((one) => one.month === month) ?? nothing
}

type EntityRow = PracticeView['entities'][number]

/** What is not proved first, then what waits to be posted. Amounts of two currencies cannot be compared, so documents are. */
function byWhatWaits(a: EntityRow, b: EntityRow): number {
  return (
    b.path.tieout.documents - a.path.tieout.documents ||
    b.path.post.waiting - a.path.post.waiting ||
    b.findings - a.findings ||
    a.name.localeCompare(b.name)
  )
}
