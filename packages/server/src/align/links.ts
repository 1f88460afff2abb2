import { LINK_KIND_OF, type AlignKind, type LinkKind } from '@axion/contract'
import { groupBy, type BaselineIndex } from '@axion/core'
import { audit, auditAll } from '../audit/audit.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { insertRows } from '../database/insert.ts'
import { Problem } from '../faults/problem.ts'
import { evidenceOf, isClear, standsFor, type MatchedObject } from '../setUp/crosswalk.ts'
import { type Step, recordBatch } from '../setUp/steps.ts'
import { basisOf } from './build.ts'
import type { Moved } from './moved.ts'
import type { AlignedSystem } from './kinds/index.ts'

export interface LinkRequest {
  readonly systemId: string
  readonly kind: LinkKind
  readonly objectId: string
  readonly baselineId: string
}

/** Links a system's object to the baseline's. Nothing in either is changed by it. */
export async function link(
  books: Books,
  month: string,
  person: string,
  request: LinkRequest,
): Promise<Moved> {
  const { systemId, kind, objectId, baselineId } = request
  const basis = await basisOf(books, month)
  const aligned = basis.systems.find(({ held }) => held.row.system_id === systemId)
  const match = aligned?.crosswalk.find(kind, objectId)
  if (!aligned || !match || !isKnown(basis.index, kind, baselineId))
    throw new Problem('AXION_NOT_FOUND', { what: 'such object to link' })
  const step = await putLink(books, person, request, { match, system: aligned.held.row.name })
  await recordBatch(books, { person, action: 'linked', says: `${match.name}, ${aligned.held.row.name}` }, [
    step,
  ])
  return movedBy(step)
}

function movedBy({ kind, systemId, objectId, before, after }: Linked): Moved {
  return { kind, systemId, objectId, stoodFor: [before, after].filter((one) => one !== null) }
}

type Linked = Extract<Step, { readonly did: 'linked' }>

/** Keeps a link, whatever it was before. */
export async function putLink(
  { trx, entityId }: Books,
  person: string,
  { systemId, kind, objectId, baselineId }: LinkRequest,
  of: { readonly match: MatchedObject; readonly system: string } | null = null,
): Promise<Linked> {
  const key = { entity_id: entityId, system_id: systemId, kind, object_id: objectId }
  const before = (await trx('link').where(key).first('baseline_id'))?.baseline_id ?? null
  await trx('link')
    .insert({
      ...key,
      baseline_id: baselineId,
      linked_by: person,
      evidence: json(of ? evidenceOf(of.match) : []),
    })
    .onConflict(['entity_id', 'system_id', 'kind', 'object_id'])
    .merge()
  await audit(trx, 'linked', `${of?.system ?? systemId}: ${of?.match.name ?? objectId}`, {
    before: { baseline: before },
    after: { baseline: baselineId },
  })
  return { did: 'linked', systemId, kind, objectId, before, after: baselineId }
}

function isKnown(index: BaselineIndex, kind: LinkKind, id: string): boolean {
  switch (kind) {
    case 'agency':
      return index.agency(id) !== undefined
    case 'combined-rate':
      return index.combinedRate(id) !== undefined
    case 'item-tax-code':
      return index.baseline.itemTaxCodes.some((code) => code.id === id)
    case 'item':
      return index.itemTaxCodeOf(id) !== undefined
    case 'party':
      return index.party(id) !== undefined
    case 'payment-method':
      return index.baseline.paymentMethods.some((method) => method.id === id)
    case 'location':
      return index.baseline.locations.some((location) => location.id === id)
    case 'dimension':
      return index.baseline.dimensions.some((value) => value.id === id)
  }
}

export async function unlink(
  books: Books,
  person: string,
  { systemId, kind, objectId }: Omit<LinkRequest, 'baselineId'>,
): Promise<Moved> {
  const { trx, entityId } = books
  const removed = (await trx('link')
    .where({ entity_id: entityId, system_id: systemId, kind, object_id: objectId })
    .delete('baseline_id')) as { baseline_id: string }[]
  const before = removed[0]?.baseline_id
  if (before === undefined) throw new Problem('AXION_NOT_FOUND', { what: 'such link' })
  await audit(trx, 'unlinked', `${systemId}: ${objectId}`, { before: { baseline: before } })
  const step: Linked = { did: 'linked', systemId, kind, objectId, before, after: null }
  await recordBatch(books, { person, action: 'unlinked', says: `${objectId}, ${systemId}` }, [step])
  return movedBy(step)
}

/** The clear proposals of one system: one candidate, with more than a near name, that no other object of the system claims as well. */
export function clearOf({ crosswalk }: AlignedSystem, kind: LinkKind): MatchedObject[] {
  const matched = crosswalk.of(kind)
  const claims = groupBy(
    matched.filter((s) => s.linkedTo !== null || isClear(s)),
    (s) => standsFor(s) ?? '',
  )
  return matched.filter((s) => isClear(s) && claims.get(standsFor(s) ?? '')?.length === 1)
}

/** Accepts every clear proposal. */
export async function linkClear(
  books: Books,
  month: string,
  person: string,
  kinds: readonly AlignKind[],
): Promise<number> {
  let linked = 0
  for (const align of kinds) {
    const kind = LINK_KIND_OF[align]
    if (kind === null) continue
    // Agencies that were just linked give rates their evidence: the basis is read anew for each kind.
    const basis = await basisOf(books, month)
    const steps: Step[] = []
    for (const aligned of basis.systems)
      steps.push(...(await linkAll(books, person, aligned, { kind, matched: clearOf(aligned, kind) })))
    await recordBatch(
      books,
      { person, action: 'linked', says: `${steps.length} clear ${steps.length === 1 ? 'link' : 'links'}` },
      steps,
    )
    linked += steps.length
  }
  return linked
}

/** Many links of one system that has none of these yet, in one statement. */
export async function linkAll(
  { trx, entityId }: Books,
  person: string,
  { held }: AlignedSystem,
  { kind, matched }: { readonly kind: LinkKind; readonly matched: readonly MatchedObject[] },
): Promise<Step[]> {
  const {
    row: { system_id: systemId, name },
  } = held
  await insertRows(
    trx,
    'link',
    matched.map((s) => ({
      entity_id: entityId,
      system_id: systemId,
      kind,
      object_id: s.objectId,
      baseline_id: standsFor(s),
      linked_by: person,
      linked_at: new Date(),
      evidence: evidenceOf(s),
    })),
  )
  await auditAll(
    trx,
    matched.map((s) => ({
      action: 'linked',
      object: `${name}: ${s.name}`,
      after: { baseline: standsFor(s) },
    })),
  )
  return matched.map((s): Step => ({
    did: 'linked',
    systemId,
    kind,
    objectId: s.objectId,
    before: null,
    after: standsFor(s),
  }))
}
