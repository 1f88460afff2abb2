import { createHash } from 'node:crypto'
import type { BulkPreview, BulkRequest } from '@axion/contract'
import { groupBy } from '@axion/core'
import { changing, inEntity, type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { noteRun, readRun, type RunRow } from '../jobs/runs.ts'
import { proveChanged } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { noteFacts, noteSetUp } from '../setUp/clock.ts'
import { addToBatch, stepsOfRun, type Step } from '../setUp/steps.ts'
import type { AlignedSystem } from './kinds/index.ts'
import { putLeft } from './left.ts'
import { linkAll } from './links.ts'
import { act, changeBaseline } from './remedies.ts'
import { gather, inWordsOf, type Gathered, type RowTask } from './bulkRows.ts'

type BulkRun = RunRow<'bulk'>

/** What became of many rows at once. */
export interface BulkDone {
  readonly cancelled: boolean
  /** Systems that were sent something, and are to be pulled. */
  readonly sentTo: readonly string[]
  readonly problems: readonly { readonly what: string; readonly says: string; readonly mend: string }[]
}

const SHOWN = 200
/** What would be done to the rows, and what would not, and why. Nothing is changed. */
export async function previewBulk(books: Books, month: string, request: BulkRequest): Promise<BulkPreview> {
  const { does, skips } = await gather(books, month, request)
  return {
    action: request.action,
    revision: revisionOf(does),
    total: does.length,
    skipped: skips.length,
    skips: skips.slice(0, SHOWN),
    does: does.slice(0, SHOWN).map(({ row, system, changes }) => ({ row, system, changes })),
  }
}

/**
 * Does what was previewed. What lies here is done in one transaction, all or nothing; what goes to systems one by one, each kept as it
 * is done, so that a worker that takes over sends nothing twice and all of it can be taken back.
 */
export async function bulk(services: Services, entityId: string, run: BulkRun): Promise<BulkDone> {
  const { database } = services
  const { month, request, revision } = run.payload
  const begun = await inEntity(database, entityId, (books) => stepsOfRun(books, run.run_id))
  const gathered = await inEntity(database, entityId, (books) => gather(books, month, request))
  if (begun === null && revisionOf(gathered.does) !== revision)
    throw new Problem('AXION_STALE', { what: 'What was previewed' })
  if (request.action === 'send' || request.action === 'create')
    return sendAll(services, entityId, run, { does: gathered.does, begun: begun ?? [] })
  if (begun === null) await changing(database, entityId, (books) => doHere(books, run, gathered))
  return request.action === 'open'
    ? openLacking(services, entityId, run)
    : { cancelled: false, sentTo: [], problems: [] }
}

/** Makes the accounts that the ledger lacks of those that rules were just made for. Whoever takes over goes by the rules, and asks under the same keys. */
async function openLacking(services: Services, entityId: string, run: BulkRun): Promise<BulkDone> {
  const { does, steps } = await inEntity(services.database, entityId, async (books) => {
    const kept = (await stepsOfRun(books, run.run_id)) ?? []
    const ids = kept.flatMap((step) => (step.did === 'revised' ? [step.objectId] : []))
    const request = { ...run.payload.request, action: 'create' as const, rows: { ids } }
    const found = ids.length === 0 ? null : await gather(books, run.payload.month, request)
    return { does: found?.does ?? [], steps: kept }
  })
  return sendAll(services, entityId, run, { does, begun: steps })
}

async function doHere(books: Books, run: BulkRun, { basis, does }: Gathered): Promise<void> {
  const { month, request } = run.payload
  const person = run.started_by
  const steps: Step[] = []
  const links = does.flatMap((task) =>
    'link' in task.todo ? [{ systemId: task.systemId, ...task.todo }] : [],
  )
  for (const [systemId, of] of groupBy(links, (one) => one.systemId)) {
    const aligned = basis.systems.find(({ held }) => held.row.system_id === systemId) as AlignedSystem
    steps.push(
      ...(await linkAll(books, person, aligned, {
        kind: (of[0] as (typeof of)[number]).kind,
        matched: of.map(({ link }) => link),
      })),
    )
  }
  for (const task of does) {
    if ('leave' in task.todo)
      steps.push(
        (
          await putLeft(books, month, person, {
            kind: request.kind,
            ...task.todo.leave,
            systemId: task.systemId || null,
            reason: request.reason,
          } as Parameters<typeof putLeft>[3])
        ).step,
      )
    if ('plan' in task.todo)
      steps.push(...(await changeBaseline(books, task.todo.plan, task.todo.remedy.kind, person)))
  }
  await addToBatch(books, run.run_id, { person, action: request.action, says: saysOf(does) }, steps)
  await books
    .trx('run')
    .where({ entity_id: books.entityId, run_id: run.run_id })
    .update({ total: does.length, done: does.length })
  if (request.action === 'leave') return noteFacts(books)
  await noteSetUp(books)
  await proveChanged(books, month)
}

async function sendAll(
  services: Services,
  entityId: string,
  run: BulkRun,
  { does, begun }: { readonly does: readonly RowTask[]; readonly begun: readonly Step[] },
): Promise<BulkDone> {
  const { database } = services
  const problems: { what: string; says: string; mend: string }[] = []
  const batch = { person: run.started_by, action: run.payload.request.action, says: saysOf(does) }
  const sent = new Set(
    begun.flatMap((step) => (step.did === 'sent' ? [`${step.systemId} ${step.objectId}`] : [])),
  )
  let done = 0
  let cancelled = false
  await noteRun(database, entityId, run.run_id, { step: 'sending', total: does.length })
  for (const task of does) {
    if ((await readRun(database, entityId, run.run_id))?.cancel_requested) {
      cancelled = true
      break
    }
    const { todo } = task
    if (
      'plan' in todo &&
      !('objectId' in todo.remedy && sent.has(`${task.systemId} ${todo.remedy.objectId}`))
    ) {
      try {
        const steps = await act(services, entityId, {
          plan: todo.plan,
          remedy: todo.remedy,
          person: run.started_by,
        })
        // What was made there is nothing that is taken back: rules that were made for it here are.
        if (batch.action !== 'open')
          await changing(database, entityId, (books) => addToBatch(books, run.run_id, batch, steps))
      } catch (error) {
        problems.push({ what: `${task.row}, ${task.system}`, ...inWordsOf(error) })
      }
    }
    done++
    await noteRun(database, entityId, run.run_id, { done: done - problems.length, failed: problems.length })
  }
  return {
    cancelled,
    sentTo: [...new Set(does.map((task) => task.systemId))],
    problems: problems.slice(0, SHOWN),
  }
}

function saysOf(does: readonly RowTask[]): string {
  return does.length === 1
    ? `${does[0]?.row ?? ''}${does[0]?.system ? `, ${does[0].system}` : ''}`
    : `${does.length} rows`
}

function revisionOf(does: readonly RowTask[]): string {
  return createHash('sha256')
    .update(
      json(
        does.map(({ systemId, row, todo }) => [
          row,
          systemId,
          'plan' in todo
            ? todo.plan.revision
            : 'link' in todo
              ? [todo.link.objectId, todo.link.proposal]
              : todo.leave,
        ]),
      ),
    )
    .digest('base64url')
}
