import type { FastifyInstance } from 'fastify'
import { Problem } from './problem.ts'

const NO_TEXT = 'holds a NUL or half of a character'
/** Nothing that anybody sends is nested deeper; what is would end the checks after this one. */
const MOST_DEEP = 30

interface Refused {
  readonly path: string
  readonly problem: string
}

/** Refuses text that no database holds, wherever it comes in, with the name of its field: a NUL, or half of a surrogate pair. */
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
