import type { Columns } from '../database/row.ts'
import {
  LINK_KIND_OF,
  say,
  type AlignRemedy,
  type BulkAction,
  type BulkRequest,
  type Code,
  type GridCell,
  type GridRow,
  type LinkKind,
} from '@axion/contract'
import type { MatchedObject } from '../setUp/crosswalk.ts'
import type { Plan } from './plans/plan.ts'
import type { GridBasis } from './kinds/kind.ts'
import { type Books, type Transaction } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { ensureAligned, basisOf } from './build.ts'
import { narrowed } from './grid/narrowed.ts'
import { clearOf } from './links.ts'
import { openings } from './openings.ts'
import { planOf } from './remedies.ts'
import { Fault, groupBy } from '@axion/core'

/** One thing to be done to one row, in or about one system. */
export interface RowTask {
  readonly row: string
  readonly system: string
  readonly systemId: string
  readonly changes: Plan['changes']
  readonly todo:
    | { readonly link: MatchedObject; readonly kind: LinkKind }
    | { readonly remedy: AlignRemedy; readonly plan: Plan }
    | { readonly leave: { readonly rowId: string; readonly code: string } }
}

interface Skipped {
  readonly row: string
  readonly system: string
  readonly why: string
}

export interface Gathered {
  readonly basis: GridBasis
  readonly does: readonly RowTask[]
  readonly skips: readonly Skipped[]
}

const MOST_ROWS = 5000
const REMEDY_OF: Readonly<Partial<Record<BulkAction, AlignRemedy['kind']>>> = {
  send: 'send',
  create: 'create',
  adopt: 'adopt',
  'take-in': 'take-in',
}

interface StoredRow extends Columns<'align_row', 'row_id' | 'name' | 'extra' | 'cells'> {
  readonly extra: GridRow['extra']
  readonly cells: readonly GridCell[]
}

export async function gather(books: Books, month: string, request: BulkRequest): Promise<Gathered> {
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
  const basis = await basisOf(books, month)
  const names = new Map(basis.systems.map(({ held }) => [held.row.system_id, held.row.name]))
  const does: RowTask[] = []
  const skips: Skipped[] = []
  const concerns = (systemId: string): boolean => request.systemId === null || request.systemId === systemId
  if (request.action === 'leave') does.push(...(await leaving(trx, here, { rows, names, concerns })))
  else if (request.action === 'open') {
    const found = opening({ basis, month }, rows, concerns)
    does.push(...found.does)
    skips.push(...found.skips)
  } else
    for (const row of rows) {
      for (const cell of row.cells.filter((one) => concerns(one.systemId))) {
        const of = {
          row: row.name,
          system: names.get(cell.systemId) ?? cell.systemId,
          systemId: cell.systemId,
        }
        const placed = { basis, month, row, cell, of }
        const found = request.action === 'link' ? linking(placed, request) : remedying(placed, request.action)
        does.push(...found.does)
        skips.push(...found.skips)
      }
    }
  return { basis, ...withoutConflicts(does, skips) }
}

export async function leaving(
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
): Promise<RowTask[]> {
  const found = await trx('align_finding')
    .where(here)
    .whereNull('left_because')
    .whereRaw('row_id = any(?)', [rows.map((row) => row.row_id)])
    .orderBy(['row_id', 'place'])
    .select('row_id', 'code', 'system_id')
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
  readonly basis: GridBasis
  readonly month: string
  readonly row: StoredRow
  readonly cell: GridCell
  readonly of: Omit<RowTask, 'changes' | 'todo'>
}

interface Sorted {
  readonly does: readonly RowTask[]
  readonly skips: readonly Skipped[]
}

/** Only what is clear is accepted in bulk: one candidate, by more than a near name, that nothing else of the system claims. */
function linking({ basis, row, cell, of }: Placed, { kind: align }: BulkRequest): Sorted {
  const does: RowTask[] = []
  const skips: Skipped[] = []
  const kind = LINK_KIND_OF[align]
  const aligned = basis.systems.find(({ held }) => held.row.system_id === cell.systemId)
  if (kind === null || !aligned) return { does, skips }
  const clear = new Map(clearOf(aligned, kind).map((match) => [match.objectId, match]))
  for (const object of cell.objects.filter((one) => !one.linked)) {
    const match = row.extra ? undefined : clear.get(object.id)
    if (match)
      does.push({
        ...of,
        changes: [{ field: 'Link', from: '', to: object.name }],
        todo: { link: match, kind },
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
  { basis, month, cell, of }: Placed,
  action: Exclude<BulkAction, 'link' | 'leave' | 'open'>,
): Sorted {
  const does: RowTask[] = []
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
      const plan = planOf(basis, month, remedy)
      does.push({ ...of, changes: plan.changes, todo: { remedy, plan } })
    } catch (error) {
      skips.push({ row: of.row, system: of.system, why: inWordsOf(error).says })
    }
  }
  return { does, skips }
}

/** Kinds of amount that no rule sends anywhere: each to the account that is proposed for it, which the ledger is asked to make where it lacks it. */
function opening(
  { basis, month }: Pick<Placed, 'basis' | 'month'>,
  rows: readonly StoredRow[],
  concerns: (systemId: string) => boolean,
): Sorted {
  const does: RowTask[] = []
  const skips: Skipped[] = []
  const ledger = basis.systems.find(({ held }) => held.row.role === 'ledger')?.held
  if (!ledger || !concerns(ledger.row.system_id)) return { does, skips }
  const proposed = openings(basis, ledger)
  const { system_id: systemId, name: system } = ledger.row
  for (const { row_id: ruleId, name: row } of rows) {
    const found = proposed.get(ruleId)
    if (!found) {
      const why =
        found === undefined
          ? 'a rule sends it to an account already'
          : `${system} lets nobody else make an account, or numbers them otherwise: choose one for it`
      skips.push({ row, system, why })
      continue
    }
    const { account, opens } = found
    const remedy = {
      ...{ kind: 'post-to' as const, systemId, ruleId, account: account.number },
      ...(opens ? { opens: true as const } : {}),
    }
    const plan = planOf(basis, month, remedy)
    const made = {
      field: 'Made there',
      from: '',
      to: `${account.name}, ${account.type.replaceAll('-', ' ')}`,
    }
    does.push({
      row,
      system,
      systemId,
      changes: [...plan.changes, ...(opens ? [made] : [])],
      todo: { remedy, plan },
    })
  }
  return { does, skips }
}

/** Two systems that would have the baseline differently cannot both be right: neither is taken. Where they agree, the first is enough. */
function withoutConflicts(
  does: readonly RowTask[],
  skips: readonly Skipped[],
): { does: RowTask[]; skips: Skipped[] } {
  const claims = groupBy(
    does.flatMap((task) =>
      'plan' in task.todo && task.todo.plan.act.to === 'baseline'
        ? task.todo.plan.act.revisions.map((revision) => ({
            task,
            key: `${revision.table} ${revision.objectId}`,
            value: json([revision.values, revision.from]),
          }))
        : [],
    ),
    (claim) => claim.key,
  )
  const against = new Set<RowTask>()
  const again = new Set<RowTask>()
  for (const [, of] of claims) {
    if (new Set(of.map((claim) => claim.value)).size > 1) for (const { task } of of) against.add(task)
    else for (const { task } of of.slice(1)) again.add(task)
  }
  const skip = (task: RowTask, why: string): Skipped => ({ row: task.row, system: task.system, why })
  return {
    does: does.filter((task) => !against.has(task) && !again.has(task)),
    skips: [
      ...skips,
      ...[...against].map((task) => skip(task, 'systems would have it differently: choose one')),
      ...[...again]
        .filter((task) => !against.has(task))
        .map((task) => skip(task, 'another row takes the same over')),
    ],
  }
}

export function inWordsOf(error: unknown): { readonly says: string; readonly mend: string } {
  if (!(error instanceof Problem) && !(error instanceof Fault)) throw error
  return say(error.code as Code, error.facts)
}
