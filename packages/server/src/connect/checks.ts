import type { Resource } from '@axion/contract'
import type { Address } from '@axion/core'
import type { EntityOfPerson } from '../access/sessions.ts'
import { loadBaseline } from '../baseline/load.ts'
import { dimensionId } from '../baseline/tables/postings.ts'
import { unseal } from '../bridges/secrets.ts'
import { changing, inEntity, type Books } from '../database/connection.ts'
import { canonical, json } from '../database/json.ts'
import type { Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { connectedSystems, isFiles, loadHeld, type SystemRow } from '../setUp/held.ts'
import { servicesOf } from './computing.ts'
import { lastPulls } from './fresh.ts'
import { CHECKS, checkReadiness, type CheckResult } from './readiness.ts'

/** Reads the facts of every connected system anew and keeps what the checks say. A bridge that is down says so in its facts. */
export async function recheck(
  services: Services,
  entity: Pick<EntityOfPerson, 'id' | 'name' | 'currency'>,
  month: string,
): Promise<void> {
  const systems = await inEntity(services.database, entity.id, (books) => connectedSystems(books))
  for (const system of systems.filter((one) => !isFiles(one))) {
    const bridge = services.bridges.open(
      system.name,
      system.address,
      unseal(system.token_sealed, services.settings.AXION_SECRET_KEY),
    )
    const about = await bridge.about()
    const settings = await bridge.settings()
    await changing(services.database, entity.id, async (books) => {
      await books
        .trx('system')
        .where({ entity_id: entity.id, system_id: system.system_id })
        .update({ about: json(about), settings: json(settings) })
      // What new items start with, and what others stand on by default, is read by the grids.
      if (system.settings === null || canonical(system.settings) !== canonical(settings))
        await noteSetUp(books)
    })
  }
  await changing(services.database, entity.id, async (books) => {
    const { trx } = books
    const held = await loadHeld(books, ALL_PLACED)
    const baseline = await loadBaseline(books)
    const taxAccounts = baseline.baseline.postingRules
      .filter((rule) => rule.kind === 'tax')
      .map((rule) => rule.account)
    const serving = await servicesOf(books)
    for (const { row, rates, accounts, dimensions, locations } of held) {
      const [others] = (await trx('tie_unit')
        .where({ entity_id: entity.id, period: month, headline: 'orphan', system_id: row.system_id })
        .count('* as n')) as [{ n: string }]
      const results = checkReadiness({
        system: row,
        about: row.about,
        settings: row.settings as NonNullable<SystemRow['settings']>,
        entity,
        baseline,
        rates: rates.length,
        accountNumbers: new Set(accounts.map((a) => a.value.number)),
        dimensions: new Set(
          dimensions.filter((d) => d.value.active).map((d) => dimensionId(d.value.dimension, d.value.code)),
        ),
        places: [
          ...locations.map((l) => ({ name: l.value.name, address: l.value.address })),
          ...(await shipFromOf(books, row.system_id)),
        ],
        entriesOfOthers: taxAccounts.length === 0 ? 0 : Number(others.n),
        pulled: (await lastPulls(books, row.system_id)).good !== null,
        month,
        others: held
          .filter((h) => h.row.system_id !== row.system_id)
          .map((h) => ({
            name: h.row.name,
            role: h.row.role,
            settings: h.row.settings,
            served: serving(h.row.system_id).length > 0,
          })),
        servedBy: serving(row.system_id),
      })
      for (const { code, state, fact } of results) {
        await trx('readiness')
          .insert({
            entity_id: entity.id,
            period: month,
            system_id: row.system_id,
            check_code: code,
            state,
            facts: json({ fact }),
            checked_at: trx.fn.now(),
          })
          .onConflict(['entity_id', 'period', 'system_id', 'check_code'])
          .merge()
      }
    }
  })
}

const ALL_PLACED: readonly Resource[] = ['agencies', 'tax-rates', 'accounts', 'locations', 'dimensions']
const MOST_PLACES = 200

/** The addresses that a system's documents were sent from, each once. */
async function shipFromOf(
  { trx, entityId }: Books,
  systemId: string,
): Promise<{ readonly name: string; readonly address: Address }[]> {
  const { rows } = (await trx.raw(
    `select distinct address from (select value->'shipFrom' as address from document where entity_id = :e and system_id = :s and status <> 'void') a
     where jsonb_typeof(address) = 'object' limit :most`,
    { e: entityId, s: systemId, most: MOST_PLACES },
  )) as { rows: { address: Address }[] }
  return rows.map(({ address }) => ({ name: 'ship-from', address }))
}

/** What holds posting of a month up: failing checks as their questions, and a month that nobody looked at. */
export interface Blocking {
  readonly says: readonly string[]
  /** Nobody has checked the systems for the month yet. */
  readonly unchecked: boolean
}

export async function blockingChecks(services: Services, entityId: string, month: string): Promise<Blocking> {
  const { rows, closed } = await inEntity(services.database, entityId, async (books) => ({
    rows: await books
      .trx('readiness')
      .where({ entity_id: entityId, period: month })
      .select('check_code', 'state'),
    closed: (await connectedSystems(books))
      .filter((system) => system.role === 'ledger' && !system.goesOut)
      .map((system) => `Its scope sends nothing to ${system.name}.`),
  }))
  const unchecked = rows.length === 0
  return {
    unchecked,
    says: [
      ...closed,
      ...(unchecked ? ['Nobody has checked the systems for this month yet.'] : []),
      ...CHECKS.filter(
        (check) => check.blocks && rows.some((row) => row.check_code === check.code && row.state === 'fails'),
      ).map((check) => check.question),
    ],
  }
}

export type { CheckResult }
