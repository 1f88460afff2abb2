import { z } from 'zod'

export const PERIOD = /^\d{4}-(0[1-9]|1[0-2])$/

/** An entity and a month in an address. */
export const monthParams = z.object({ entity: z.string(), month: z.string().regex(PERIOD, 'is no month') })
