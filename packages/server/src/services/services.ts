import type {
  FastifyBaseLogger,
  FastifyInstance,
  RawReplyDefaultExpression,
  RawRequestDefaultExpression,
  RawServerDefault,
} from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import type { Bridges } from '../bridges/client.ts'
import type { Database } from '../database/connection.ts'
import type { Beside } from '../database/homes.ts'
import type { Reading } from '../reading/pool.ts'
import type { Settings } from '../settings/settings.ts'

/** What routes and runs work with. */
export interface Services {
  readonly settings: Settings
  readonly database: Database
  readonly bridges: Bridges
  readonly reading: Reading
  /** The business date in a time zone: AXION_TODAY where it is set. */
  today(timeZone: string): string
}

/** What the server has, and no worker: the role that alone reads password hashes and lets people in. */
export interface EdgeServices extends Services {
  readonly keys: Database
  /** Databases beside the directory. */
  readonly beside: readonly Beside[]
}

export type App = FastifyInstance<
  RawServerDefault,
  RawRequestDefaultExpression,
  RawReplyDefaultExpression,
  FastifyBaseLogger,
  ZodTypeProvider
>

export function businessDate(settings: Settings): Services['today'] {
  return (timeZone) =>
    settings.AXION_TODAY ?? new Intl.DateTimeFormat('en-CA', { timeZone }).format(new Date())
}
