import { createHash } from 'node:crypto'
import {
  LINK_KIND_OF,
  say,
  type AlignRemedy,
  type BulkAction,
  type BulkPreview,
  type BulkRequest,
  type Code,
  type GridCell,
  type GridRow,
  type LinkKind,
} from '@axion/contract'
import { Fault, groupBy } from '@axion/core'
import { changing, inEntity, json, type Books, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { noteRun, readRun, type RunRow } from '../jobs/runs.ts'
import { proveAll } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { noteFacts, noteSetUp } from '../setUp/clock.ts'
import type { Standing } from '../setUp/crosswalk.ts'
import { type Step, addToBatch, stepsOfRun } from '../setUp/steps.ts'
import { ensureAligned, groundOf } from './build.ts'
import { narrowed } from './grid.ts'
import type { Ground, Walked } from './kinds/index.ts'
import { putLeft } from './left.ts'
import { clearOf, linkAll } from './links.ts'
import type { Plan } from './plans/plan.ts'
import { act, changeBaseline, planOf } from './remedies.ts'

/** One thing to be done to one row, in or about one system. */
interface Piece {
  readonly row: string
  readonly system: string
  readonly systemId: string
  readonly changes: Plan['changes']
  readonly todo:
    | { readonly link: Standing; readonly kind: LinkKind }
    | { readonly remedy: AlignRemedy; readonly plan: Plan }
    | { readonly leave: { readonly rowId: string; readonly code: string } }
}
interface Skipped {
  readonly row: string
  readonly system: string
  readonly why: string
}
interface Gathered {
  readonly ground: Ground
  readonly does: readonly Piece[]
  readonly skips: readonly Skipped[]
}
type BulkRun = RunRow<'bulk'>

/** What became of many rows at once. */
export interface BulkDone {
  readonly cancelled: boolean
  /** Systems that were sent something, and are to be pulled. */
  readonly sentTo: readonly string[]
  readonly problems: readonly { readonly what: string; readonly says: string; readonly mend: string }[]
}

const MOST_ROWS = 5000
const SHOWN = 200
const REMEDY_OF: Readonly<Partial<Record<BulkAction, AlignRemedy['kind']>>> = {
  send: 'send',
  create: 'create',
  adopt: 'adopt',
  'take-in': 'take-in',
}

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
  return { cancelled: false, sentTo: [], problems: [] }
}

async function doHere(books: Books, run: BulkRun, { ground, does }: Gathered): Promise<void> {
  const { month, request } = run.payload
  const person = run.started_by
  const steps: Step[] = []
  const links = does.flatMap((piece) =>
    'link' in piece.todo ? [{ systemId: piece.systemId, ...piece.todo }] : [],
  )
  for (const [systemId, of] of groupBy(links, (one) => one.systemId)) {
    const walked = ground.systems.find(({ held }) => held.row.system_id === systemId) as Walked
    steps.push(
      ...(await linkAll(books, person, walked, {
        kind: (of[0] as (typeof of)[number]).kind,
        standings: of.map(({ link }) => link),
      })),
    )
  }
  for (const piece of does) {
    if ('leave' in piece.todo)
      steps.push(
        (
          await putLeft(books, month, person, {
            kind: request.kind,
            ...piece.todo.leave,
            systemId: piece.systemId || null,
            reason: request.reason,
          } as Parameters<typeof putLeft>[3])
        ).step,
      )
    if ('plan' in piece.todo)
      steps.push(...(await changeBaseline(books, piece.todo.plan, piece.todo.remedy.kind, person)))
  }
  await addToBatch(books, run.run_id, { person, action: request.action, says: saysOf(does) }, steps)
  await books
    .trx('run')
    .where({ entity_id: books.entityId, run_id: run.run_id })
    .update({ total: does.length, done: does.length })
  if (request.action === 'leave') return noteFacts(books)
  await noteSetUp(books)
  await proveAll(books, month)
}

async function sendAll(
  services: Services,
  entityId: string,
  run: BulkRun,
  { does, begun }: { readonly does: readonly Piece[]; readonly begun: readonly Step[] },
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
  for (const piece of does) {
    if ((await readRun(database, entityId, run.run_id))?.cancel_requested) {
      cancelled = true
      break
    }
    const { todo } = piece
    if (
      'plan' in todo &&
      !('objectId' in todo.remedy && sent.has(`${piece.systemId} ${todo.remedy.objectId}`))
    ) {
      try {
        const steps = await act(services, entityId, {
          plan: todo.plan,
          remedy: todo.remedy,
          person: run.started_by,
        })
        await changing(database, entityId, (books) => addToBatch(books, run.run_id, batch, steps))
      } catch (error) {
        problems.push({ what: `${piece.row}, ${piece.system}`, ...inWordsOf(error) })
      }
    }
    done++
    await noteRun(database, entityId, run.run_id, { done: done - problems.length, failed: problems.length })
  }
  return {
    cancelled,
    sentTo: [...new Set(does.map((piece) => piece.systemId))],
    problems: problems.slice(0, SHOWN),
  }
}

function saysOf(does: readonly Piece[]): string {
  return does.length === 1
    ? `${does[0]?.row ?? ''}${does[0]?.system ? `, ${does[0].system}` : ''}`
    : `${does.length} rows`
}

function revisionOf(does: readonly Piece[]): string {
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

interface StoredRow {
  readonly row_id: string
  readonly name: string
  readonly extra: GridRow['extra']
  readonly cells: readonly GridCell[]
}

async function gather(books: Books, month: string, request: BulkRequest): Promise<Gathered> {
  const { trx, entityId } = books
  await ensureAligned(books, month)
  const here = { entity_id: entityId, period: month, kind: request.kind }
  const { rows: wanted } = request
  const query = trx('align_row')
    .where(here)
    .orderBy('place')
    .limit(MOST_ROWS + 1)
    .select('row_id', 'name', 'extra', 'cells')
  const rows = (await ('ids' in wanted
    ? query.whereRaw('row_id = any(?)', [[...wanted.ids]])
    : query.modify(
        (q) => void narrowed(q, { ...wanted.filter, sort: 'name', offset: 0, limit: 1 }, here),
      ))) as StoredRow[]
  if (rows.length > MOST_ROWS)
    throw new Problem('AXION_BAD_REQUEST', {
      path: 'rows',
      problem: `are more than ${MOST_ROWS}: filter them first`,
    })
  const ground = await groundOf(books, month)
  const names = new Map(ground.systems.map(({ held }) => [held.row.system_id, held.row.name]))
  const does: Piece[] = []
  const skips: Skipped[] = []
  const concerns = (systemId: string): boolean => request.systemId === null || request.systemId === systemId
  if (request.action === 'leave') does.push(...(await leaving(trx, here, { rows, names, concerns })))
  else
    for (const row of rows) {
      for (const cell of row.cells.filter((one) => concerns(one.systemId))) {
        const of = {
          row: row.name,
          system: names.get(cell.systemId) ?? cell.systemId,
          systemId: cell.systemId,
        }
        const placed = { ground, month, row, cell, of }
        const found = request.action === 'link' ? linking(placed, request) : remedying(placed, request.action)
        does.push(...found.does)
        skips.push(...found.skips)
      }
    }
  return { ground, ...withoutConflicts(does, skips) }
}

async function leaving(
  trx: Transaction,
  here: object,
  {
    rows,
    names,
    concerns,
  }: {
    readonly rows: readonly StoredRow[]
    readonly names: ReadonlyMap<string, string>
    readonly concerns: (systemId: string) => boolean
  },
): Promise<Piece[]> {
  const found = (await trx('align_finding')
    .where(here)
    .whereNull('left_because')
    .whereRaw('row_id = any(?)', [rows.map((row) => row.row_id)])
    .orderBy(['row_id', 'place'])
    .select('row_id', 'code', 'system_id')) as { row_id: string; code: string; system_id: string | null }[]
  const byId = new Map(rows.map((row) => [row.row_id, row.name]))
  return found
    .filter((f) => concerns(f.system_id ?? ''))
    .map((f) => ({
      row: byId.get(f.row_id) ?? f.row_id,
      system: names.get(f.system_id ?? '') ?? '',
      systemId: f.system_id ?? '',
      changes: [],
      todo: { leave: { rowId: f.row_id, code: f.code } },
    }))
}

/** One cell of a chosen row, and where it stands. */
interface Placed {
  readonly ground: Ground
  readonly month: string
  readonly row: StoredRow
  readonly cell: GridCell
  readonly of: Omit<Piece, 'changes' | 'todo'>
}

interface Sorted {
  readonly does: readonly Piece[]
  readonly skips: readonly Skipped[]
}

/** Only what is clear is accepted in bulk: one candidate, by more than a near name, that nothing else of the system claims. */
function linking({ ground, row, cell, of }: Placed, { kind: align }: BulkRequest): Sorted {
  const does: Piece[] = []
  const skips: Skipped[] = []
  const kind = LINK_KIND_OF[align]
  const walked = ground.systems.find(({ held }) => held.row.system_id === cell.systemId)
  if (kind === null || !walked) return { does, skips }
  const clear = new Map(clearOf(walked, kind).map((standing) => [standing.objectId, standing]))
  for (const object of cell.objects.filter((one) => !one.linked)) {
    const standing = row.extra ? undefined : clear.get(object.id)
    if (standing)
      does.push({
        ...of,
        changes: [{ field: 'Link', from: '', to: object.name }],
        todo: { link: standing, kind },
      })
    else
      skips.push({
        row: of.row,
        system: of.system,
        why: row.extra
          ? row.extra.candidates.length > 1
            ? 'several candidates are equal: choose one'
            : 'nothing in the baseline looks like it'
          : object.evidence.includes('near-name') && object.evidence.length === 1
            ? 'its name nearly matches, and nothing more: look at it'
            : 'something else there claims the same',
      })
  }
  return { does, skips }
}

function remedying(
  { ground, month, cell, of }: Placed,
  action: Exclude<BulkAction, 'link' | 'leave'>,
): Sorted {
  const does: Piece[] = []
  const skips: Skipped[] = []
  const remedies = cell.remedies.filter((remedy): remedy is AlignRemedy => remedy.kind === REMEDY_OF[action])
  if (remedies.length === 0 && (cell.state === 'differs' || cell.state === 'absent'))
    skips.push({
      row: of.row,
      system: of.system,
      why:
        action === 'send'
          ? 'nothing of it can be sent there'
          : action === 'create'
            ? 'it cannot be made there'
            : 'there is nothing to take from it',
    })
  for (const remedy of remedies) {
    try {
      const plan = planOf(ground, month, remedy)
      does.push({ ...of, changes: plan.changes, todo: { remedy, plan } })
    } catch (error) {
      skips.push({ row: of.row, system: of.system, why: inWordsOf(error).says })
    }
  }
  return { does, skips }
}

/** Two systems that would have the baseline differently cannot both be right: neither is taken. Where they agree, the first is enough. */
function withoutConflicts(
  does: readonly Piece[],
  skips: readonly Skipped[],
): { does: Piece[]; skips: Skipped[] } {
  const claims = groupBy(
    does.flatMap((piece) =>
      'plan' in piece.todo && piece.todo.plan.act.to === 'baseline'
        ? piece.todo.plan.act.revisions.map((revision) => ({
            piece,
            key: `${revision.table} ${revision.objectId}`,
            value: json([revision.values, revision.from]),
          }))
        : [],
    ),
    (claim) => claim.key,
  )
  const against = new Set<Piece>()
  const again = new Set<Piece>()
  for (const [, of] of claims) {
    if (new Set(of.map((claim) => claim.value)).size > 1) for (const { piece } of of) against.add(piece)
    else for (const { piece } of of.slice(1)) again.add(piece)
  }
  const skip = (piece: Piece, why: string): Skipped => ({ row: piece.row, system: piece.system, why })
  return {
    does: does.filter((piece) => !against.has(piece) && !again.has(piece)),
    skips: [
      ...skips,
      ...[...against].map((piece) => skip(piece, 'systems would have it differently: choose one')),
      ...[...again]
        .filter((piece) => !against.has(piece))
        .map((piece) => skip(piece, 'another row takes the same over')),
    ],
  }
}

function inWordsOf(error: unknown): { readonly says: string; readonly mend: string } {
  if (!(error instanceof Problem) && !(error instanceof Fault)) throw error
  return say(error.code as Code, error.facts)
}
