import type { FindingCode, FindingKind, LinkKind, SetUpTaken } from '@axion/contract'
import type { SeenThing } from '../baseline/authority.ts'
import type { Revised } from '../baseline/revise.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'

/** What was taken from another legal entity's baseline: a digest of each object as it was there. */
export interface Copied {
  readonly follows: boolean
  readonly things: Readonly<Record<string, string>>
  readonly person: string
  /** When, as the database writes it. */
  readonly at: string
}

/** One thing that was done, with what takes it back. */
export type Step =
  | {
      readonly did: 'linked'
      readonly systemId: string
      readonly kind: LinkKind
      readonly objectId: string
      readonly before: string | null
      readonly after: string | null
    }
  | {
      readonly did: 'left'
      readonly kind: FindingKind
      readonly rowId: string
      readonly code: FindingCode
      readonly systemId: string
      readonly before: string | null
      readonly after: string | null
    }
  | ({ readonly did: 'revised' } & Revised)
  | {
      readonly did: 'sent'
      readonly systemId: string
      readonly resource: SetUpTaken
      readonly objectId: string
      readonly object: string
      readonly before: object
      readonly revision: string
      readonly back?: true
    }
  /** Spreadsheets taken into the baseline, known by the instant that they were recorded at. */
  | { readonly did: 'imported'; readonly at: string }
  /** On whose word rates and rules stand since, each with what stood there before. */
  | { readonly did: 'seen'; readonly things: readonly SeenThing[] }
  /** What is known of another legal entity's baseline since, and what was known before. */
  | {
      readonly did: 'copied'
      readonly source: string
      readonly after: Copied
      readonly before: Copied | null
    }
  | { readonly did: 'created'; readonly systemId: string; readonly object: string }

/** Keeps together what was done at once, so that it can be taken back at once. */
export async function recordBatch(
  { trx, entityId }: Books,
  { person, action, says }: { readonly person: string; readonly action: string; readonly says: string },
  steps: readonly Step[],
): Promise<void> {
  if (steps.length === 0) return
  await trx('align_batch').insert({
    entity_id: entityId,
    action,
    says,
    person,
    steps: json(steps),
    size: steps.length,
  })
}

/** The same for what a run does one by one: each step is kept as soon as it is done. */
export async function addToBatch(
  { trx, entityId }: Books,
  runId: string,
  { person, action, says }: { readonly person: string; readonly action: string; readonly says: string },
  steps: readonly Step[],
): Promise<void> {
  await trx.raw(
    `insert into align_batch (entity_id, run_id, action, says, person, steps, size) values (:entity, :run, :action, :says, :person, :steps::jsonb, :size)
     on conflict (entity_id, run_id) do update set steps = align_batch.steps || excluded.steps, size = align_batch.size + excluded.size`,
    { entity: entityId, run: runId, action, says, person, steps: json(steps), size: steps.length },
  )
}

/** What a run has done so far; nothing where it has not begun. */
export async function stepsOfRun({ trx, entityId }: Books, runId: string): Promise<readonly Step[] | null> {
  return (
    (
      (await trx('align_batch').where({ entity_id: entityId, run_id: runId }).first('steps')) as
        { steps: Step[] } | undefined
    )?.steps ?? null
  )
}
