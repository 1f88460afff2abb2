import type { FastifySchemaCompiler } from 'fastify'
import { validatorCompiler } from 'fastify-type-provider-zod'
import { z } from 'zod'

/** What is wrong with a body is looked for until so many faults are found. */
const MOST_FAULTS = 100
/** From so many members on an array is looked at one by one first. */
const LONG = 1000

/**
 * Checks requests by their schemas. A long array is checked member by member first, and no further than its first hundred faults: a
 * body of nothing but faults costs little, however long.
 */
export const validateBounded: FastifySchemaCompiler<z.ZodType> = (route) => {
  const whole = validatorCompiler(route)
  return (data: unknown) => {
    const faults = faultsOfMembers(route.schema, data)
    if (faults.length === 0) return whole(data)
    const saying = z.unknown().superRefine((_, context) => {
      for (const { message, path } of faults) context.addIssue({ code: 'custom', message, path: [...path] })
    })
    return validatorCompiler({ ...route, schema: saying })(data)
  }
}

interface Fault {
  readonly message: string
  readonly path: readonly PropertyKey[]
}

/** The faults of the first long array that has any. */
function faultsOfMembers(schema: unknown, value: unknown): readonly Fault[] {
  if (!(schema instanceof z.ZodObject) || typeof value !== 'object' || value === null) return []
  for (const [key, of] of Object.entries(schema.shape)) {
    const members = (value as Readonly<Record<string, unknown>>)[key]
    if (!(of instanceof z.ZodArray) || !Array.isArray(members) || members.length < LONG) continue
    const faults: Fault[] = []
    for (const [at, member] of members.entries()) {
      const { error } = (of.element as z.ZodType).safeParse(member)
      for (const { message, path } of error?.issues ?? []) faults.push({ message, path: [key, at, ...path] })
      if (faults.length >= MOST_FAULTS) return faults.slice(0, MOST_FAULTS)
    }
    if (faults.length > 0) return faults
  }
  return []
}
