import { RunView, say, type Code, type PulledView } from '@axion/contract'
import { z } from 'zod'
import { requireRole } from '../access/sessions.ts'
import { inEntity, type Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { App, Services } from '../services/services.ts'
import type { RunRow } from './runs.ts'

const runParams = z.object({ entity: z.string(), run: z.uuid() })

/** How runs are getting on: a page that is loaded anew finds them where they are. */
export function runRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/runs/:run',
    { config: { role: 'viewer' }, schema: { params: runParams, response: { 200: RunView } } },
    async (request) => {
      const entity = requireRole(request)
      const run = await inEntity(
        database,
        entity.id,
        ({ trx }) =>
          trx('run').where({ entity_id: entity.id, run_id: request.params.run }).first() as Promise<
            RunRow | undefined
          >,
      )
      if (!run) throw new Problem('AXION_NOT_FOUND', { what: 'such run' })
      return viewOfRun(run)
    },
  )

  app.post(
    '/api/entities/:entity/runs/:run/cancel',
    {
      config: { role: 'preparer' },
      schema: { params: runParams, response: { 200: z.object({ cancelling: z.boolean() }) } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, async ({ trx }) => {
        const asked = await trx('run')
          .where({ entity_id: entity.id, run_id: request.params.run })
          .whereIn('state', ['queued', 'running'])
          .update({ cancel_requested: true })
        if (asked === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'cancel' })
        return { cancelling: true }
      })
    },
  )
}

/** The entity's newest run, for as long as it matters: under way, or just ended. */
export async function currentRun({ trx, entityId }: Books): Promise<RunView | null> {
  const run = (await trx('run')
    .where({ entity_id: entityId })
    .whereIn('state', ['queued', 'running'])
    .orderBy('created_at', 'desc')
    .first()) as RunRow | undefined
  return run ? viewOfRun(run) : null
}

export function viewOfRun(run: RunRow): RunView {
  const report = run.report as {
    problem?: { says: string; mend: string }
    problems?: RunView['problems']
    pulled?: {
      system: string
      counts: PulledView['counts']
      problem: { code: Code; facts: Record<string, string> } | null
    }[]
  }
  return {
    id: run.run_id,
    kind: run.kind,
    state: run.state,
    step: run.step,
    total: run.total,
    done: run.done,
    failed: run.failed,
    startedBy: run.started_by,
    problem: report.problem ?? null,
    problems: report.problems ?? [],
    pulled: (report.pulled ?? []).map(({ system, counts, problem }) => ({
      system,
      counts,
      problem: problem && say(problem.code, problem.facts),
    })),
  }
}
