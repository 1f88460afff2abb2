import type { FastifyInstance } from 'fastify'
import { Problem } from './problem.ts'

/** Refuses text that no database holds, wherever it comes in, with the name of its field: a NUL, or half of a surrogate pair. */
export function requireText(app: FastifyInstance): void {
  app.addHook('preValidation', (request, _reply, done) => {
    const found = [request.params, request.query, request.body].flatMap((part) => badText(part) ?? [])[0]
    done(
      found === undefined
        ? undefined
        : new Problem('AXION_BAD_REQUEST', {
            path: found,
            problem: 'holds a NUL or half of a character',
          }),
    )
  })
}

/** Where the first bad text in a value stands; null where there is none. Bodies are bounded, and so is this. */
function badText(value: unknown, path = ''): string | null {
  if (typeof value === 'string') return isText(value) ? null : path
  if (typeof value !== 'object' || value === null || Buffer.isBuffer(value)) return null
  for (const [key, part] of Object.entries(value)) {
    const here = path === '' ? key : `${path}.${key}`
    const found = isText(key) ? badText(part, here) : path
    if (found !== null) return found
  }
  return null
}

function isText(text: string): boolean {
  return !text.includes('\u0000') && text.isWellFormed()
}
