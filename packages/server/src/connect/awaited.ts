import type { Books } from '../database/connection.ts'
import type { SystemRow } from '../setUp/held.ts'

/** What a proof rests on: what was charged, and what was booked. */
const NEEDED = ['ledger', 'billing'] as const

/** Systems without which nothing can be said to be proved: those of the roles that were never pulled to the end, and a ledger where none is connected. */
export async function awaitedSystems(
  { trx, entityId }: Books,
  systems: readonly SystemRow[],
): Promise<string[]> {
  const pulled = new Set(
    (
      await trx('pull').where({ entity_id: entityId, ended: true }).whereNull('problem').distinct('system_id')
    ).map((row) => row.system_id),
  )
  const awaited = systems
    .filter((system) => (NEEDED as readonly string[]).includes(system.role) && !pulled.has(system.system_id))
    .map((system) => system.name)
  return systems.some((system) => system.role === 'ledger') ? awaited : ['A ledger', ...awaited]
}
