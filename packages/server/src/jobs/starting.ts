import type { FastifyRequest } from 'fastify'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { changing, type Database } from '../database/connection.ts'
import { startRun, type RunKind, type RunPayloads } from './runs.ts'

/**
 * Starts a run for whoever asks for it, of the entity that they ask about, as the answer of a route.
 * @throws AXION_UNDER_WAY where the same is under way already
 */
export function startFor<K extends RunKind>(
  database: Database,
  request: FastifyRequest,
  kind: K,
  payload: RunPayloads[K],
): Promise<{ readonly run: string }> {
  return changing(database, requireRole(request).id, async (books) => ({
    run: await startRun(books, { kind, payload, startedBy: requirePerson(request).name }),
  }))
}
