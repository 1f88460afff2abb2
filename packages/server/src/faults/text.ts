import type { FastifyInstance } from 'fastify'
import { Problem } from './problem.ts'

const NO_TEXT = 'holds a NUL or half of a character'
/** Nothing that anybody sends is nested deeper; what is would end the checks after this one. */
const MOST_DEEP = 30
/** Nor has anything more members: what has goes as a file. */
const MOST_MEMBERS = 10_000

interface Refused {
  readonly path: string
  readonly problem: string
}

/**
 * Refuses what nobody sends in good faith, wherever it comes in, with the name of its field: text that no database holds (a NUL, or half of
 * a surrogate pair), what is nested without an end, lists without a bound.
 */
export function requireText(app: FastifyInstance): void {
  app.addHook('preValidation', (request, _reply, done) => {
    const parts = [request.params, request.query, request.body]
    const [refused] = parts.flatMap((part) => refusedIn(part, '', 0) ?? [])
    done(refused && new Problem('AXION_BAD_REQUEST', { ...refused }))
  })
}

/** The first that is wrong in a value; null where nothing is. */
function refusedIn(value: unknown, path: string, depth: number): Refused | null {
  if (typeof value === 'string') return isText(value) ? null : { path, problem: NO_TEXT }
  if (typeof value !== 'object' || value === null || Buffer.isBuffer(value)) return null
  if (depth === MOST_DEEP) return { path, problem: 'is nested too deep' }
  if (Array.isArray(value) && value.length > MOST_MEMBERS)
    return { path, problem: `has ${value.length} members of at most ${MOST_MEMBERS}` }
  for (const [key, part] of Object.entries(value)) {
    const found = isText(key)
      ? refusedIn(part, path === '' ? key : `${path}.${key}`, depth + 1)
      : { path, problem: NO_TEXT }
    if (found !== null) return found
  }
  return null
}

function isText(text: string): boolean {
  return !text.includes('\u0000') && text.isWellFormed()
}
