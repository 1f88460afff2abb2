import { z } from 'zod'
import { About, BRIDGE_CONTRACT, SET_UP_TAKEN, Settings } from './about.ts'
import { Balances, Booking, BookingRequest } from './books.ts'
import { Page, Problem } from './paging.ts'
import { RESOURCES } from './resources.ts'

const json = (schema: z.ZodType): object => ({
  content: {
    'application/json': { schema: z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) },
  },
})
const answers = (schema: z.ZodType, status = '200'): object => ({
  [status]: { description: 'As asked', ...json(schema) },
  default: {
    description: 'A refusal: nothing was written',
    content: { 'application/problem+json': { schema: z.toJSONSchema(Problem) } },
  },
})
const parameter = (
  name: string,
  { place, required }: { readonly place: 'query' | 'header' | 'path'; readonly required: boolean },
  description: string,
): object => ({ name, in: place, required, description, schema: { type: 'string' } })
const KEY = parameter(
  'Idempotency-Key',
  { place: 'header', required: true },
  'The same key with the same request does nothing again',
)
const MATCH = parameter(
  'If-Match',
  { place: 'header', required: true },
  'The revision that the change is based on',
)
const ID = parameter('id', { place: 'path', required: true }, 'The system’s own id')
const Found = z.object({ items: z.array(Booking) })
const Changed = z.object({ id: z.string(), revision: z.string(), value: z.unknown() })

/** What may be made and changed by others. */
const WRITTEN = [...SET_UP_TAKEN, 'committed'] as const

/** The bridge contract as an OpenAPI 3.1 document, made from the shapes that validate it. docs/bridge.md says the same in words. */
export function bridgeDocument(): object {
  const resources = Object.entries(RESOURCES).map(([resource, value]): [string, object] => [
    `/${resource}`,
    {
      get: {
        summary: `Changes of ${resource} past a sequence; each value is a ${resource} value as described`,
        parameters: [
          parameter('after', { place: 'query', required: false }, 'A sequence; 0 at first'),
          parameter('limit', { place: 'query', required: false }, '1 to 1000'),
        ],
        responses: answers(
          Page.extend({ items: z.array(Page.shape.items.element.extend({ value: value.nullable() })) }),
        ),
      },
    },
  ])
  const write = (schema: z.ZodType, parameters: object[], response: z.ZodType, status = '200'): object => ({
    parameters,
    requestBody: { required: true, ...json(schema) },
    responses: answers(response, status),
  })
  return {
    openapi: '3.1.0',
    info: { title: 'Axion bridge', version: BRIDGE_CONTRACT },
    security: [{ token: [] }],
    components: { securitySchemes: { token: { type: 'http', scheme: 'bearer' } } },
    paths: {
      '/about': { get: { responses: answers(About) } },
      '/settings': { get: { responses: answers(Settings) } },
      ...Object.fromEntries(resources),
      '/balances': {
        get: {
          parameters: [
            parameter('from', { place: 'query', required: true }, 'First day'),
            parameter('to', { place: 'query', required: true }, 'Last day'),
          ],
          responses: answers(Balances),
        },
      },
      '/bookings': {
        post: write(BookingRequest, [KEY], Booking, '201'),
        get: {
          parameters: [
            parameter('externalId', { place: 'query', required: false }, 'By external id'),
            parameter(
              'idempotencyKey',
              { place: 'query', required: false },
              'By the key of the latest write',
            ),
          ],
          responses: answers(Found),
        },
      },
      '/bookings/{id}': { put: write(BookingRequest, [ID, KEY, MATCH], Booking) },
      '/bookings/{id}/void': { post: { parameters: [ID, MATCH], responses: answers(Booking) } },
      ...Object.fromEntries(
        WRITTEN.map((resource) => [
          `/${resource}`,
          {
            ...Object.fromEntries(resources)[`/${resource}`],
            post: write(RESOURCES[resource], [KEY], Changed, '201'),
          },
        ]),
      ),
      ...Object.fromEntries(
        WRITTEN.map((resource) => [
          `/${resource}/{id}`,
          { patch: write(RESOURCES[resource].partial(), [ID, MATCH], Changed) },
        ]),
      ),
    },
  }
}
