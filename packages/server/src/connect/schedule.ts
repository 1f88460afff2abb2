import { groupBy } from '@axion/core'
import { inEntity, type Books } from '../database/connection.ts'
import { startRun } from '../jobs/runs.ts'
import type { Services } from '../services/services.ts'

/** Who starts a run that nobody asked for. */
export const BY_SCHEDULE = 'Schedule'

/** Notes when a system is to be pulled next: its wall clock is the entity's, and a time that has passed today is tomorrow's. */
export async function setNextPull({ trx, entityId }: Books, systemId: string): Promise<void> {
  await trx.raw(
    `update system_scope c set next_pull_at = case
       when jsonb_exists(c.scope->'schedule', 'everyMinutes') then now() + make_interval(mins => (c.scope->'schedule'->>'everyMinutes')::int)
       when jsonb_exists(c.scope->'schedule', 'at') then (
         select min(t) from (select ((now() at time zone e.time_zone)::date + d + x::time) at time zone e.time_zone as t from jsonb_array_elements_text(c.scope->'schedule'->'at') x, generate_series(0, 1) d) times where t > now()) end
     from legal_entity e where e.entity_id = c.entity_id and c.entity_id = :e and c.system_id = :s`,
    { e: entityId, s: systemId },
  )
}

/** Starts a pull of every system whose time has come, once for each legal entity; one that is being worked at waits until that is done. */
export async function startDuePulls(services: Starting): Promise<void> {
  const rows = (await services
    .database('pull_due')
    .orderBy('next_pull_at')
    .select('entity_id', 'system_id')) as {
    entity_id: string
    system_id: string
  }[]
  for (const [entityId, due] of groupBy(rows, (row) => row.entity_id))
    await startFor(
      services,
      entityId,
      due.map((row) => row.system_id),
    )
}

type Starting = Pick<Services, 'database' | 'today'>

async function startFor(
  { database, today }: Starting,
  entityId: string,
  due: readonly string[],
): Promise<void> {
  await inEntity(database, entityId, async (books) => {
    const { trx } = books
    // Of several workers one starts it: the others find nothing due.
    const own = await trx('system_scope')
      .where({ entity_id: entityId })
      .whereIn('system_id', [...due])
      .whereRaw('pull_is_due(next_pull_at, scope)')
      .forUpdate()
      .skipLocked()
      .pluck('system_id')
    const [busy] = (await trx('run')
      .where({ entity_id: entityId })
      .whereIn('state', ['queued', 'running'])
      .count('* as n')) as [{ n: string }]
    if (own.length === 0 || Number(busy.n) > 0) return
    const entity = (await trx('legal_entity').where({ entity_id: entityId }).first('time_zone')) as {
      time_zone: string
    }
    await startRun(books, {
      kind: 'pull',
      payload: { month: today(entity.time_zone).slice(0, 7), systemIds: own },
      startedBy: BY_SCHEDULE,
    })
    for (const systemId of own) await setNextPull(books, systemId)
  })
}
