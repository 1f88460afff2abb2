import { isIP } from 'node:net'
import { isDate } from '@axion/core'
import { z } from 'zod'
import { waits } from './waits.ts'

const port = z.coerce.number().int().min(1).max(65535)
const number = (min: number, max: number) => z.coerce.number().min(min).max(max)

/** Parts between commas, each of which has to be one. */
const list = (isOne: (part: string) => boolean, problem: string) =>
  z
    .string()
    .default('')
    .transform((text) =>
      text
        .split(',')
        .map((part) => part.trim())
        .filter(Boolean),
    )
    .superRefine((parts, context) => {
      for (const part of parts.filter((one) => !isOne(one)))
        context.addIssue({ code: 'custom', message: `has "${part}", which ${problem}` })
    })

function isPlainAddress(text: string): boolean {
  const url = URL.canParse(text) ? new URL(text) : null
  return url !== null && ['http:', 'https:'].includes(url.protocol) && url.search === '' && url.hash === ''
}

function isNetwork(text: string): boolean {
  const [address = '', bits, ...more] = text.split('/')
  const most = { 0: -1, 4: 32, 6: 128 }[isIP(address) as 0 | 4 | 6]
  return (
    most >= 0 && more.length === 0 && (bits === undefined || (/^\d{1,3}$/.test(bits) && Number(bits) <= most))
  )
}

/** What the first database is called, where one is named. */
export const DIRECTORY = 'directory'
const NAME = /^[a-z][a-z0-9]{0,29}$/

/** A database beside the directory, as the environment names it. */
export interface DatabaseBeside {
  readonly name: string
  readonly app: string
  /** Under the role that lets people in: the server's alone. */
  readonly keys: string | undefined
}

/** Everything the server and worker read from the environment; docs/operations.md lists them for people. */
const Settings = z
  .object({
    AXION_PORT: port.default(4100),
    AXION_DATABASE: z.string().startsWith('postgres'),
    AXION_KEYS_DATABASE: z.string().startsWith('postgres').optional(),
    AXION_DATABASES: list(
      (part) => NAME.test(part) && part !== DIRECTORY,
      'is no name of a database beside the directory',
    ),
    AXION_SECRET_KEY: z.string().regex(/^[0-9a-f]{64}$/, 'is not 64 hexadecimal digits'),
    AXION_TODAY: z.string().refine(isDate, 'is no calendar date').optional(),
    AXION_BRIDGES: list(isPlainAddress, 'is no http or https address without a query'),
    AXION_PROXIES: list(isNetwork, 'is neither an address nor a network such as 10.0.0.0/8'),
    AXION_BRIDGE_TIMEOUT: number(0.2, 300).default(10),
    AXION_LEASE: number(0.3, 900).default(15),
    AXION_SLICE: number(0, 600).default(20),
    AXION_HANDS: z.coerce.number().int().min(1).max(16).default(4),
    AXION_WORKER: z.string().max(100).optional(),
    AXION_ATTEMPTS: z.coerce.number().int().min(1).max(50).default(8),
    AXION_AT_ONCE: z.coerce.number().int().min(0).max(1_000_000).default(2000),
    AXION_LAG: number(0, 600).default(5),
    AXION_WAITS: number(0.01, 1).default(1),
    AXION_WEB: z.string().optional(),
    AXION_LOG: z.enum(['error', 'warn', 'info', 'debug', 'silent']).default('warn'),
  })
  .refine((s) => s.AXION_LEASE > s.AXION_BRIDGE_TIMEOUT, {
    error: 'must be longer than AXION_BRIDGE_TIMEOUT',
    path: ['AXION_LEASE'],
  })
  .transform((s) => ({ ...s, waits: waits(s.AXION_WAITS) }))

export type Settings = z.infer<typeof Settings> & { readonly beside: readonly DatabaseBeside[] }

/** @throws with one line a setting that is missing or wrong */
export function readSettings(environment: NodeJS.ProcessEnv): Settings {
  const read = Settings.safeParse(
    Object.fromEntries(Object.entries(environment).filter(([, value]) => value !== '')),
  )
  if (read.success)
    return {
      ...read.data,
      beside: read.data.AXION_DATABASES.map((name) => ({
        name,
        app: requireAddress(environment, besideName('AXION_DATABASE', name)),
        keys: environment[besideName('AXION_KEYS_DATABASE', name)],
      })),
    }
  throw new Error(read.error.issues.map((issue) => `${issue.path.join('.')} ${issue.message}`).join('\n'))
}

/** Every database of the installation by name, the directory first, each as the owner of its schema. @throws where an address is missing */
export function ownersOf(environment: NodeJS.ProcessEnv): [name: string, address: string][] {
  const beside = (environment['AXION_DATABASES'] ?? '').split(',').map((part) => part.trim())
  return [
    [DIRECTORY, requireAddress(environment, 'AXION_OWNER_DATABASE')],
    ...beside
      .filter(Boolean)
      .map((name): [string, string] => [
        name,
        requireAddress(environment, besideName('AXION_OWNER_DATABASE', name)),
      ]),
  ]
}

/** What a setting is called that is a database's beside the directory. */
export function besideName(setting: string, database: string): string {
  return `${setting}_${database.toUpperCase()}`
}

/** The address of a database that is named elsewhere. @throws where it is missing or none */
export function requireAddress(environment: NodeJS.ProcessEnv, name: string): string {
  const address = environment[name] ?? ''
  if (!address.startsWith('postgres')) throw new Error(`${name} is missing, or no address of a database`)
  return address
}
