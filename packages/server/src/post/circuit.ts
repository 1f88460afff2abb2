import { inEntity, type Database } from '../database/connection.ts'
import type { Waits } from '../settings/waits.ts'

/** So many attempts in a row without an answer, and nothing more is sent for a while. */
const FAILURES_TO_OPEN = 5

/**
 * A circuit between the outbox and a ledger, shared by all workers: closed, everything is sent; open, nothing is; half open, after
 * its time, one booking tries the way for the others.
 */
export interface Circuit {
  readonly state: 'closed' | 'open' | 'half-open'
  /** Until the next try, where it is open. */
  readonly secondsLeft: number
}

interface CircuitRow {
  readonly circuit_failures: number
  readonly left: number | null
}

export async function circuitOf(
  database: Database,
  entityId: string,
  systemId: string,
  { longest }: Waits['circuit'],
): Promise<Circuit> {
  const row = (await inEntity(database, entityId, ({ trx }) =>
    trx('system')
      .where({ entity_id: entityId, system_id: systemId })
      .first('circuit_failures', trx.raw('extract(epoch from circuit_until - now())::float8 as left')),
  )) as unknown as CircuitRow | undefined
  if (!row || row.circuit_failures < FAILURES_TO_OPEN || row.left === null)
    return { state: 'closed', secondsLeft: 0 }
  // Further away than it is ever put: the database's clock was set back.
  return row.left > 0 && row.left <= longest
    ? { state: 'open', secondsLeft: row.left }
    : { state: 'half-open', secondsLeft: 0 }
}

interface Answer {
  readonly answered: boolean
  readonly waits: Waits['circuit']
  /** Of the jitter. */
  readonly random?: () => number
}

/** Notes whether the ledger answered. One answer closes the circuit; each failure past the limit keeps it open for longer, with jitter. */
export async function noteAnswer(
  database: Database,
  entityId: string,
  systemId: string,
  { answered, waits: { first, longest }, random = Math.random }: Answer,
): Promise<void> {
  await inEntity(database, entityId, async ({ trx }) => {
    const system = trx('system').where({ entity_id: entityId, system_id: systemId })
    if (answered)
      return void (await system
        .where('circuit_failures', '>', 0)
        .update({ circuit_failures: 0, circuit_until: null }))
    await system.update({
      circuit_failures: trx.raw('circuit_failures + 1'),
      circuit_until: trx.raw(
        `case when circuit_failures + 1 >= ? then now() + make_interval(secs => least(?, power(2, circuit_failures + 1 - ?) * ?) * ?) end`,
        [FAILURES_TO_OPEN, longest, FAILURES_TO_OPEN, first, 0.5 + random() / 2],
      ),
    })
  })
}
