import { isMoving, RESOURCES, type SystemRole } from '@axion/contract'
import type { SystemData } from '@axion/demo'
import { connect, type Books } from '../packages/server/src/database/connection.ts'
import { json } from '../packages/server/src/database/json.ts'
import { insertRows } from '../packages/server/src/database/insert.ts'

/** A legal entity in dollars, where there is none of that name yet. */
export async function foundEntity(owner: string, entityId: string): Promise<void> {
  const database = connect(owner, 1)
  await database('legal_entity')
    .insert({
      entity_id: entityId,
      name: 'Bench',
      country: 'XA',
      base_currency: 'USD',
      time_zone: 'UTC',
      locale: 'en-US',
    })
    .onConflict('entity_id')
    .ignore()
  await database.destroy()
}

/** Has the planner look at all there is. */
export async function analyzed(owner: string): Promise<void> {
  const database = connect(owner, 1)
  await database.raw('analyze')
  await database.destroy()
}

/** What stands still in a system. */
export function setUpOf({ settings, objects }: SystemData): SystemData {
  return { settings, objects: objects.filter(({ resource }) => resource in RESOURCES && !isMoving(resource)) }
}

/** One of Larkspur's systems, with what it holds, its agencies and rates linked by their names. */
export async function connectSystem(
  { trx, entityId }: Books,
  {
    system,
    role,
    data,
    address = 'http://127.0.0.1:1',
    sealed = Buffer.from('none'),
  }: {
    readonly system: string
    readonly role: SystemRole
    readonly data: SystemData
    readonly address?: string
    readonly sealed?: Buffer
  },
): Promise<void> {
  const here = { entity_id: entityId, system_id: system }
  const { objects } = setUpOf(data)
  await trx('system').insert({
    ...here,
    role,
    name: system,
    address,
    token_sealed: sealed,
    about: json({ voids: true, taxComputation: role === 'ledger' ? 'by-rate' : null }),
    settings: json({ lockedThrough: null, defaultItemTaxCode: null }),
  })
  await insertRows(
    trx,
    'held_object',
    objects.map(({ resource, id, value }) => ({
      ...here,
      resource,
      object_id: id,
      revision: '1',
      value,
      removed: false,
    })),
  )
  await insertRows(
    trx,
    'link',
    objects
      .filter(({ resource, id }) => ['agencies', 'tax-rates'].includes(resource) && id !== 'rate_typed')
      .map(({ resource, id }) => ({
        ...here,
        kind: resource === 'agencies' ? 'agency' : 'combined-rate',
        object_id: id,
        baseline_id: id.replace(/^(agency|auth|tax|rate|till|web|buy)_(agency_)?/, ''),
        linked_by: 'bench',
      })),
  )
}
