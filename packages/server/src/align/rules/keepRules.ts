import { createHash } from 'node:crypto'
import type { BaselineImport, RulesRequest, RulesTried } from '@axion/contract'
import { audit } from '../../audit/audit.ts'
import { importTable, recordedAt } from '../../baseline/import.ts'
import { readBaseline } from '../../baseline/read.ts'
import { rowsOf } from '../../baseline/rows.ts'
import { type Books } from '../../database/connection.ts'
import { json } from '../../database/json.ts'
import { Problem } from '../../faults/problem.ts'
import { compareAfter } from '../../post/compareAfter.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { loadHeld } from '../../setUp/held.ts'
import { purposesOf } from '../purposes.ts'
import { checkRules } from './check.ts'
import { tryRules } from './tryRules.ts'

/** A first month that is before every booking. */
const EVER = '0001-01'

/** What names a list of rules as it stands. */
export function standingOf(rules: BaselineImport['rules']): string {
  return createHash('sha256').update(json(rules)).digest('base64url')
}

/** Rules as they would stand: checked, and each with a code. @throws AXION_STALE where they were written from another list than stands by now, and what `checkRules` throws */
async function asWanted(
  books: Books,
  { standing, rules: drafts }: RulesRequest,
): Promise<{ readonly wanted: BaselineImport; readonly now: BaselineImport }> {
  const now = await readBaseline(books)
  if (standingOf(now.rules) !== standing) throw new Problem('AXION_STALE', { what: 'The list of rules' })
  const used = new Set(
    (await books.trx('line_rule').where({ entity_id: books.entityId }).distinct('object_id')).map(
      (row) => row.object_id,
    ),
  )
  const named = drafts.flatMap((draft) => draft.code ?? [])
  const fresh = freeCodes(new Set([...used, ...named]))
  const rules = drafts.map((draft) => ({ ...draft, code: draft.code ?? fresh() }))
  const wanted = { ...now, rules }
  await requireSystems(books, rules)
  checkRules(
    wanted,
    (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger'),
    await purposesOf(books),
  )
  return { wanted, now }
}

/** @throws AXION_NOT_FOUND of a system that was never connected; one that was taken off keeps its rules */
async function requireSystems(
  { trx, entityId }: Books,
  rules: readonly Pick<BaselineImport['rules'][number], 'when'>[],
): Promise<void> {
  const wanted = new Set(rules.flatMap(({ when }) => when.system ?? []))
  if (wanted.size === 0) return
  const known = new Set(
    (await trx('system').where({ entity_id: entityId }).select('system_id')).map((row) => row.system_id),
  )
  for (const system of wanted)
    if (!known.has(system)) throw new Problem('AXION_NOT_FOUND', { what: `system ${system}` })
}

/** Codes that no rule has, or ever had. */
function freeCodes(taken: ReadonlySet<string>): () => string {
  let at = 0
  return () => {
    do at += 1
    while (taken.has(`R${at}`))
    return `R${at}`
  }
}

/** What the list of rules would have changed; the list that stands is not touched. */
export async function previewRules(books: Books, request: RulesRequest): Promise<RulesTried> {
  const { wanted } = await asWanted(books, request)
  return tryRules(books, wanted.rules)
}

/**
 * Keeps the list of rules as it was tried; every month is to be proved anew, and what is booked elsewhere than it would be now is put up again.
 * @throws AXION_STALE where what it does is not what was tried; AXION_BASELINE_OVERLAP where two of one code hold at once
 */
export async function keepRules(
  books: Books,
  { person, atOnce }: { readonly person: string; readonly atOnce: number },
  { revision, ...request }: RulesRequest & { readonly revision: string },
): Promise<void> {
  const { wanted, now } = await asWanted(books, request)
  if ((await tryRules(books, wanted.rules)).revision !== revision)
    throw new Problem('AXION_STALE', { what: 'What these rules would do' })
  await importTable(books, 'line_rule', rowsOf(wanted)['line_rule'] ?? [], { at: await recordedAt(books) })
  await audit(books.trx, 'changed-rules', 'rules', { before: now.rules, after: wanted.rules })
  await noteSetUp(books)
  await compareAfter(books, { from: EVER, startedBy: person }, atOnce)
}
