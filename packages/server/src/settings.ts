import { isDate } from '@axion/core'
import { z } from 'zod'

const port = z.coerce.number().int().min(1).max(65535)
const seconds = (min: number, max: number) => z.coerce.number().min(min).max(max)

/** Everything the server and worker read from the environment; docs/operations.md lists them for people. */
const Settings = z
  .object({
    AXION_PORT: port.default(4100),
    AXION_DATABASE: z.string().startsWith('postgres'),
    AXION_SECRET_KEY: z.string().regex(/^[0-9a-f]{64}$/, 'is not 64 hexadecimal digits'),
    AXION_TODAY: z.string().refine(isDate, 'is no calendar date').optional(),
    AXION_BRIDGES: z
      .string()
      .default('')
      .transform((text) =>
        text
          .split(',')
          .map((part) => part.trim())
          .filter(Boolean),
      ),
    AXION_BRIDGE_TIMEOUT: seconds(0.2, 300).default(10),
    AXION_LEASE: seconds(1, 900).default(15),
    AXION_ATTEMPTS: z.coerce.number().int().min(1).max(50).default(8),
    AXION_WEB: z.string().optional(),
    AXION_LOG: z.enum(['error', 'warn', 'info', 'debug', 'silent']).default('warn'),
  })
  .refine((s) => s.AXION_LEASE > s.AXION_BRIDGE_TIMEOUT, {
    error: 'must be longer than AXION_BRIDGE_TIMEOUT',
    path: ['AXION_LEASE'],
  })

export type Settings = z.infer<typeof Settings>

/** @throws with one line a setting that is missing or wrong */
export function readSettings(environment: NodeJS.ProcessEnv): Settings {
  const read = Settings.safeParse(
    Object.fromEntries(Object.entries(environment).filter(([, value]) => value !== '')),
  )
  if (read.success) return read.data
  throw new Error(read.error.issues.map((issue) => `${issue.path.join('.')} ${issue.message}`).join('\n'))
}
