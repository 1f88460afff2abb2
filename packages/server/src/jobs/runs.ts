import { inEntity, type Books, type Database } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'

/** What a run of each kind is asked to do. */
export interface RunPayloads {
  readonly pull: { readonly month: string; readonly systemIds: readonly string[] | null }
  readonly rehearse: { readonly month: string }
  readonly prove: { readonly month: string }
  readonly 'full-proof': { readonly month: string }
  /** The first month whose bookings are compared. */
  readonly compare: { readonly from: string }
  readonly post: { readonly month: string }
  readonly withdraw: { readonly month: string }
  readonly bulk: {
    readonly month: string
    readonly request: import('@axion/contract').BulkRequest
    readonly revision: string
  }
  readonly undo: { readonly month: string; readonly batchId: string }
  readonly import: {
    readonly month: string
    readonly importId: string
    readonly phase: 'open' | 'read' | 'apply'
    readonly mappings?: Readonly<Record<string, import('@axion/contract').Mapping>>
    readonly mode?: 'whole' | 'part'
    readonly goodOnly?: boolean
    /** The day from which holds what would rewrite the past; null where it is to; absent where nobody was asked. */
    readonly changesFrom?: string | null | undefined
  }
  readonly mend: {
    readonly month: string
    readonly remedy: import('@axion/contract').Remedy
    readonly revision: string
  }
}
export type RunKind = keyof RunPayloads

export interface RunRow<K extends RunKind = RunKind> {
  readonly run_id: string
  readonly kind: K
  readonly state: 'queued' | 'running' | 'done' | 'failed' | 'cancelled'
  readonly total: number
  readonly done: number
  readonly failed: number
  readonly step: string
  readonly payload: RunPayloads[K]
  readonly report: Record<string, unknown>
  readonly cancel_requested: boolean
  readonly started_by: string
}

/** Bookings of one posting are none of another's, and what is due while a proof or a comparison is under way is due again; of everything else, what is under way already is not begun again. */
const ASIDE: readonly RunKind[] = ['post', 'withdraw', 'prove', 'compare']

interface Wanted<K extends RunKind> {
  readonly kind: K
  readonly payload: RunPayloads[K]
  /** By whom, as a person is named. */
  readonly startedBy: string
  /** How many things it does, where that is known. */
  readonly total?: number
}

/**
 * Records a run, which workers take from there; in a transaction that changes the books, where two ask at once.
 * @throws AXION_UNDER_WAY where the same is under way already
 */
export async function startRun<K extends RunKind>(
  { trx, entityId }: Books,
  { kind, payload, startedBy, total = 0 }: Wanted<K>,
): Promise<string> {
  const same = ASIDE.includes(kind)
    ? undefined
    : await trx('run')
        .where({ entity_id: entityId, kind })
        .whereIn('state', ['queued', 'running'])
        .whereRaw('payload = ?::jsonb', [json(payload)])
        .first('started_by')
  if (same) throw new Problem('AXION_UNDER_WAY', { person: same.started_by })
  const [row] = await trx('run')
    .insert({ entity_id: entityId, kind, payload: json(payload), started_by: startedBy, total })
    .returning('run_id')
  return row?.run_id ?? ''
}

export function readRun(database: Database, entityId: string, runId: string): Promise<RunRow | undefined> {
  return inEntity(
    database,
    entityId,
    ({ trx }) =>
      trx('run').where({ entity_id: entityId, run_id: runId }).first() as Promise<RunRow | undefined>,
  )
}

type RunNotes = Partial<Pick<RunRow, 'state' | 'step' | 'done' | 'failed' | 'total'>> & {
  readonly report?: unknown
}

export function noteRun(
  database: Database,
  entityId: string,
  runId: string,
  fields: RunNotes,
): Promise<void> {
  return inEntity(database, entityId, (books) => noteRunIn(books, runId, fields))
}

/** The same in a transaction that is open. */
export async function noteRunIn(
  { trx, entityId }: Books,
  runId: string,
  { report, ...rest }: RunNotes,
): Promise<void> {
  await trx('run')
    .where({ entity_id: entityId, run_id: runId })
    .update({
      ...rest,
      ...(report === undefined ? {} : { report: json(report) }),
      updated_at: trx.fn.now(),
    })
}
