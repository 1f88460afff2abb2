import { setTimeout as pause } from 'node:timers/promises'
import { unseal } from '../bridges/secrets.ts'
import { changing, inEntity } from '../database/connection.ts'
import { move } from '../documents/states.ts'
import { Problem } from '../faults/problem.ts'
import { noteRun, readRun } from '../jobs/runs.ts'
import type { Services } from '../services/services.ts'
import { connectedSystems } from '../setUp/held.ts'
import { circuitOf, noteAnswer } from './circuit.ts'
import { backlog, BATCH, claim, holds, settle, type Settled } from './outbox.ts'
import { sinceRestored } from './restored.ts'
import { attempt } from './send.ts'
import { Uncertain } from './uncertain.ts'

const LONGEST_PAUSE_MS = 500

/** What this process knows to be uncertain, over its slices. */
const uncertain = new Uncertain()

/**
 * Sends what a run has in the outbox, for one slice of time. What one worker leaves, in the middle or at the end of a slice,
 * another goes on with.
 * @returns whether anything of the run still waits
 */
export async function sendOutbox(
  services: Services,
  entityId: string,
  runId: string,
): Promise<'finished' | 'waiting' | 'cancelled'> {
  const { database, settings } = services
  const { waits } = settings
  const system = (await inEntity(database, entityId, (books) => connectedSystems(books))).find(
    (s) => s.role === 'ledger',
  )
  if (!system) throw new Problem('AXION_NO_LEDGER')
  const bridge = services.bridges.open(
    system.name,
    system.address,
    unseal(system.token_sealed, settings.AXION_SECRET_KEY),
  )
  const about = await bridge.about()
  const endOfSlice = performance.now() + settings.AXION_SLICE * 1000

  while (performance.now() < endOfSlice) {
    const run = await readRun(database, entityId, runId)
    if (run?.cancel_requested) {
      await changing(database, entityId, (books) =>
        move(books, 'cancelled', {
          to: 'rehearsed',
          set: 'run_id = null',
          where: 'b.run_id = :run and b.uncertain_since is null',
          bindings: { run: runId },
        }),
      )
    }
    const restoredAt = await inEntity(database, entityId, sinceRestored)
    const circuit = await circuitOf(database, entityId, system.system_id, waits.circuit)
    const leased =
      circuit.state === 'open'
        ? []
        : await claim(database, entityId, runId, {
            leaseSeconds: settings.AXION_LEASE,
            most: circuit.state === 'half-open' ? 1 : BATCH,
            restoredAt,
          })
    for (const booking of leased) {
      // Those before it may have taken long: a booking that another worker took over meanwhile is that worker's.
      if (!(await holds(database, entityId, booking, settings.AXION_LEASE))) continue
      const settled = await attempt(bridge, about, booking, {
        quietForSeconds: uncertain.quietForSeconds(entityId, booking, settings.AXION_BRIDGE_TIMEOUT),
        mostAttempts: settings.AXION_ATTEMPTS,
        pauses: waits.attempts,
      })
      await settle(database, entityId, booking, settled)
      if (settled.state !== 'waiting' || !settled.uncertain) uncertain.forget(entityId, booking)
      else if (settled.unanswered) uncertain.unanswered(entityId, booking)
      await noteAnswer(database, entityId, system.system_id, {
        answered: isAnswer(settled),
        waits: waits.circuit,
      })
    }
    const left = await inEntity(database, entityId, (books) => backlog(books, runId))
    await noteRun(database, entityId, runId, {
      done: left.done,
      failed: left.failed,
      total: left.done + left.failed + left.waiting,
      step:
        circuit.state === 'open'
          ? `${system.name} does not answer; next try in ${Math.ceil(circuit.secondsLeft)} s`
          : 'sending',
    })
    if (left.waiting === 0) return run?.cancel_requested ? 'cancelled' : 'finished'
    if (leased.length === 0)
      await pause(
        Math.min(Math.max(left.nextInSeconds ?? 0, circuit.secondsLeft) * 1000 + 20, LONGEST_PAUSE_MS),
      )
  }
  return 'waiting'
}

/** Whether the ledger said something, be it no. */
function isAnswer(settled: Settled): boolean {
  if (settled.state === 'waiting') return settled.answered === true
  return !(settled.state === 'failed' && settled.code === 'AXION_LEDGER_BUSY')
}
