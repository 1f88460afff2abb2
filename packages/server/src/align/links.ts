import { groupBy, type BaselineIndex } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { loadBaseline } from '../baseline/load.ts'
import { LINK_KIND_OF, type AlignKind, type LinkKind } from '@axion/contract'
import { ALL_SET_UP, loadHeld } from '../connect/held.ts'
import { insertRows, json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { lastDayOf } from '../tieout/periods.ts'
import { crosswalk, evidenceOf, isClear, standsFor } from './crosswalk.ts'

export interface LinkRequest {
  readonly systemId: string
  readonly kind: LinkKind
  readonly objectId: string
  readonly baselineId: string
}

/** Links a system's object to the baseline's. Nothing in either is changed by it. */
export async function link(trx: Transaction, entityId: string, month: string, person: string, { systemId, kind, objectId, baselineId }: LinkRequest): Promise<void> {
  const index = await loadBaseline(trx, entityId)
  const held = (await loadHeld(trx, entityId, ALL_SET_UP)).find((s) => s.row.system_id === systemId)
  const standing = held && crosswalk(held, index, lastDayOf(month)).find(kind, objectId)
  if (!standing || !isKnown(index, kind, baselineId)) throw new Problem('AXION_NOT_FOUND', { what: 'such object to link' })
  await trx('link').insert({ entity_id: entityId, system_id: systemId, kind, object_id: objectId, baseline_id: baselineId, linked_by: person, evidence: json(evidenceOf(standing)) })
    .onConflict(['entity_id', 'system_id', 'kind', 'object_id']).merge()
  await audit(trx, entityId, person, 'linked', `${held?.row.name}: ${standing.name}`, { baseline: standing.linkedTo }, { baseline: baselineId })
}

function isKnown(index: BaselineIndex, kind: LinkKind, id: string): boolean {
  switch (kind) {
    case 'agency': return index.agency(id) !== undefined
    case 'combined-rate': return index.combinedRate(id) !== undefined
    case 'item-tax-code': return index.baseline.itemTaxCodes.some((code) => code.id === id)
    case 'item': return index.itemTaxCodeOf(id) !== undefined
    case 'party': return index.party(id) !== undefined
  }
}

export async function unlink(trx: Transaction, entityId: string, person: string, { systemId, kind, objectId }: Omit<LinkRequest, 'baselineId'>): Promise<void> {
  const removed = (await trx('link').where({ entity_id: entityId, system_id: systemId, kind, object_id: objectId }).delete('baseline_id')) as unknown as { baseline_id: string }[]
  if (removed.length === 0) throw new Problem('AXION_NOT_FOUND', { what: 'such link' })
  await audit(trx, entityId, person, 'unlinked', `${systemId}: ${objectId}`, { baseline: removed[0]?.baseline_id }, null)
}

/** Accepts every clear proposal: one candidate, with more than a near name, that no other object of the system claims as well. */
export async function linkClear(trx: Transaction, entityId: string, month: string, person: string, kinds: readonly AlignKind[]): Promise<number> {
  const index = await loadBaseline(trx, entityId)
  let linked = 0
  for (const kind of kinds.flatMap((k) => LINK_KIND_OF[k] ?? [])) {
    for (const held of await loadHeld(trx, entityId, ALL_SET_UP)) {
      const standings = crosswalk(held, index, lastDayOf(month)).of(kind)
      const claims = groupBy(standings.filter((s) => s.linkedTo !== null || isClear(s)), (s) => standsFor(s) ?? '')
      const clear = standings.filter((s) => isClear(s) && claims.get(standsFor(s) ?? '')?.length === 1)
      await insertRows(trx, 'link', clear.map((s) => ({ entity_id: entityId, system_id: held.row.system_id, kind, object_id: s.objectId, baseline_id: standsFor(s), linked_by: person, linked_at: new Date(), evidence: evidenceOf(s) })))
      await insertRows(trx, 'audit_entry', clear.map((s) => ({ entity_id: entityId, at: new Date(), person, action: 'linked', object: `${held.row.name}: ${s.name}`, after: { baseline: standsFor(s) } })))
      linked += clear.length
    }
  }
  return linked
}
