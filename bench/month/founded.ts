import { BaselineImport } from '@axion/contract'
import { baseline, billingData, ledgerData, otherSystems, SEED } from '@axion/demo'
import { importBaseline, recordedAt } from '../../packages/server/src/baseline/import.ts'
import { seal } from '../../packages/server/src/bridges/secrets.ts'
import { changing, connect, type Database } from '../../packages/server/src/database/connection.ts'
import { connectSystem, foundEntity, setUpOf } from '../entity.ts'
import type { Business } from './pages.ts'

export const ENTITY = 'bench'

/** Larkspur's systems without what moves in them. */
export function businesses(): Business[] {
  return [
    { system: 'ledger', role: 'ledger', data: setUpOf(ledgerData()) },
    { system: 'billing', role: 'billing', data: setUpOf(billingData(SEED, 'http://127.0.0.1:1/desk')) },
    ...otherSystems(SEED)
      .filter(({ role }) => ['pos', 'commerce', 'purchasing'].includes(role))
      .map(({ id, role, data }) => ({ system: id, role, data: setUpOf(data) })),
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
  await foundEntity(databases.owner, ENTITY)
  const database = connect(databases.app, 4)
  await changing(database, ENTITY, async (books) => {
    await importBaseline(books, BaselineImport.parse(baseline()), await recordedAt(books))
    for (const one of businesses())
      await connectSystem(books, {
        ...one,
        address: `${address}/${one.system}`,
        sealed: seal(token, secretKey),
      })
  })
  return database
}
