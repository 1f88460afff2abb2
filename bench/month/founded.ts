import { BaselineImport, RESOURCES, type SystemRole } from '@axion/contract'
import { baseline, billingData, ledgerData, otherSystems, SEED } from '@axion/demo'
import { importBaseline, recordedAt } from '../../packages/server/src/baseline/import.ts'
import { seal } from '../../packages/server/src/bridges/secrets.ts'
import { changing, connect, json, type Database } from '../../packages/server/src/database/connection.ts'
import { insertRows } from '../../packages/server/src/database/insert.ts'
import type { Business } from './pages.ts'

export const ENTITY = 'bench'

/** Larkspur's systems without what moves in them. */
export function businesses(): Business[] {
  const still = (system: string, role: SystemRole, data: Business['data']): Business => ({
    system,
    role,
    data: {
      settings: data.settings,
      objects: data.objects.filter(
        (one) => one.resource in RESOURCES && !['documents', 'journal-entries'].includes(one.resource),
      ),
    },
  })
  return [
    still('ledger', 'ledger', ledgerData()),
    still('billing', 'billing', billingData(SEED, 'http://127.0.0.1:1/desk')),
    ...otherSystems(SEED)
      .filter(({ role }) => ['pos', 'commerce', 'purchasing'].includes(role))
      .map(({ id, role, data }) => still(id, role, data)),
  ]
}

/** A legal entity with Larkspur's baseline, and its systems linked: what is left to do is to pull. */
export async function found(
  databases: { readonly owner: string; readonly app: string },
  {
    address,
    token,
    secretKey,
  }: { readonly address: string; readonly token: string; readonly secretKey: string },
): Promise<Database> {
  const owner = connect(databases.owner, 2)
  await owner('legal_entity').insert({
    entity_id: ENTITY,
    name: 'Bench',
    country: 'XA',
    base_currency: 'USD',
    time_zone: 'UTC',
    locale: 'en-US',
  })
  await owner.destroy()
  const database = connect(databases.app, 4)
  await changing(database, ENTITY, async (books) => {
    const { trx } = books
    await importBaseline(books, BaselineImport.parse(baseline()), await recordedAt(books))
    for (const { system, role, data } of businesses()) {
      const here = { entity_id: ENTITY, system_id: system }
      await trx('system').insert({
        ...here,
        role,
        name: system,
        address: `${address}/${system}`,
        token_sealed: seal(token, secretKey),
        about: json({ voids: true }),
        settings: json({ lockedThrough: null, defaultItemTaxCode: null }),
      })
      await insertRows(
        trx,
        'held_object',
        data.objects.map(({ resource, id, value }) => ({
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
        data.objects
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
  })
  return database
}
