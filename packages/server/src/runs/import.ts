import { Fault } from '@axion/core'
import { changing, inEntity } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { ImportRow } from '../files/imports.ts'
import { Cancelled } from '../jobs/ending.ts'
import { noteRun, readRun } from '../jobs/runs.ts'
import type { Services } from '../services/services.ts'
import { apply } from './imports/apply.ts'
import { read } from './imports/check.ts'
import { open } from './imports/open.ts'
import type { ImportRun, Phase } from './imports/phase.ts'

/**
 * One phase of an import: opening the file, reading its rows by the mapping, or taking them. Each is one transaction; a cancel in
 * the middle undoes the phase and leaves nothing of it.
 */
export async function importFile(
  services: Services,
  entityId: string,
  run: ImportRun,
): Promise<'finished' | 'cancelled'> {
  const { database } = services
  const { importId, phase } = run.payload
  const key = { entity_id: entityId, import_id: importId }
  const checkpoint = async (done: number, total?: number): Promise<void> => {
    if ((await readRun(database, entityId, run.run_id))?.cancel_requested) throw new Cancelled()
    await noteRun(database, entityId, run.run_id, { done, ...(total === undefined ? {} : { total }) })
  }
  try {
    await noteRun(database, entityId, run.run_id, { step: PHASE_WORDS[phase] })
    const within = phase === 'apply' ? changing : inEntity
    await within(database, entityId, async (books) => {
      const row = (await books.trx('file_import').where(key).forUpdate().first()) as ImportRow | undefined
      if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such import' })
      await PHASES[phase]({ services, books, run, row, checkpoint })
    })
    return 'finished'
  } catch (error) {
    const cancelled = error instanceof Cancelled
    if (!cancelled && !(error instanceof Problem) && !(error instanceof Fault)) throw error
    // What failed or was cancelled while it was opened is of no use; later phases can be begun again.
    await inEntity(database, entityId, async ({ trx }) => {
      await trx('file_import')
        .where(key)
        .update(
          phase === 'open'
            ? { state: cancelled ? 'cancelled' : 'failed', content: null }
            : { state: phase === 'read' ? 'mapping' : 'read' },
        )
    })
    if (cancelled) return 'cancelled'
    throw error
  }
}

const PHASE_WORDS = { open: 'opening the file', read: 'checking its rows', apply: 'taking its rows' } as const

const PHASES: Readonly<Record<ImportRun['payload']['phase'], (phase: Phase) => Promise<void>>> = {
  open,
  read,
  apply,
}
