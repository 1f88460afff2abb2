import { ALSO_OF, RESOURCES_OF, say, type Change, type Resource } from '@axion/contract'
import { parseAmount } from '@axion/core'
import { changing, inEntity, inOrder, insertRows, json } from '../database/connection.ts'
import { unseal } from '../bridges/secrets.ts'
import type { Bridge } from '../bridges/client.ts'
import { Problem } from '../faults/problem.ts'
import { passes } from '../faults/errors.ts'
import { Cancelled, reasonOf } from '../jobs/ending.ts'
import type { Services } from '../services.ts'
import { lastDayOf } from '../tieout/periods.ts'
import type { SystemRow } from './held.ts'
import { pageOf } from './staged.ts'
import { takeResource, type Pulled, type PullCount } from './take.ts'

/**
 * Pulls one system: each resource from where the last pull ended, atomically.
 * An object in a bad shape becomes a finding that names it; the rest is taken. Nothing is sent.
 * @param goesOn asked between pages; throws where somebody cancelled the run
 */
export async function pullSystem(
  services: Services,
  entityId: string,
  runId: string,
  system: SystemRow,
  step: (resource: string) => Promise<void>,
  goesOn: () => Promise<void>,
  month: string,
): Promise<PullCount[]> {
  const bridge = services.bridges.open(
    system.name,
    system.address,
    unseal(system.token_sealed, services.settings.AXION_SECRET_KEY),
    true,
  )
  const pullId = await inEntity(services.database, entityId, async (trx) => {
    const [row] = await trx('pull')
      .insert({ entity_id: entityId, system_id: system.system_id, run_id: runId, counts: '[]' })
      .returning('pull_id')
    return (row as { pull_id: string }).pull_id
  })
  try {
    return await readSystem(services, bridge, entityId, pullId, system, step, goesOn, month)
  } catch (error) {
    if (passes(error)) throw error
    const { code, facts } =
      error instanceof Cancelled
        ? new Problem('AXION_PULL_CANCELLED', { system: system.name })
        : reasonOf(error)
    await inEntity(services.database, entityId, (trx) =>
      trx('pull')
        .where({ entity_id: entityId, pull_id: pullId })
        .update({ problem: json({ code, facts }), ended: true, finished_at: trx.fn.now() }),
    )
    throw error instanceof Cancelled ? error : new Problem(code, facts)
  }
}

/** What the database, or something that nobody foresaw, makes of a resource is told with its name; the log has the rest. */
async function namingIt<T>(system: string, resource: Resource, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Problem || passes(error)) throw error
    const { code, facts } = reasonOf(error)
    throw new Problem('AXION_PULL_BROKE', {
      system,
      resource: resource.replaceAll('-', ' '),
      detail: facts['detail'] ?? say(code, facts).says,
    })
  }
}

async function readSystem(
  services: Services,
  bridge: Bridge,
  entityId: string,
  pullId: string,
  system: SystemRow,
  step: (resource: string) => Promise<void>,
  goesOn: () => Promise<void>,
  month: string,
): Promise<PullCount[]> {
  const about = await bridge.about()
  const settings = await bridge.settings()
  await inEntity(services.database, entityId, (trx) =>
    trx('system')
      .where({ entity_id: entityId, system_id: system.system_id })
      .update({ about: json(about), settings: json(settings) }),
  )
  const counts: PullCount[] = []
  for (const resource of [
    ...RESOURCES_OF[system.role],
    ...ALSO_OF[system.role].filter((one) => about.resources.includes(one)),
  ]) {
    await step(resource)
    const changes = await changesOf(services, bridge, entityId, system.system_id, resource, goesOn)
    counts.push(
      await namingIt(system.name, resource, () =>
        changing(services.database, entityId, (trx) =>
          takeResource(trx, entityId, pullId, system, resource, changes, month),
        ),
      ),
    )
  }
  await inEntity(services.database, entityId, (trx) =>
    trx('pull')
      .where({ entity_id: entityId, pull_id: pullId })
      .update({ counts: json(counts), ended: true, finished_at: trx.fn.now() }),
  )
  return counts
}

async function changesOf(
  services: Services,
  bridge: Bridge,
  entityId: string,
  systemId: string,
  resource: Resource,
  goesOn: () => Promise<void>,
): Promise<Pulled> {
  const cursor = (await inEntity(services.database, entityId, (trx) =>
    trx('pull_cursor')
      .where({ entity_id: entityId, system_id: systemId, resource })
      .first('sequence', 'whole'),
  )) as { sequence: string; whole: boolean } | undefined
  // What could not be read is asked for again: its source may have been mended without a word.
  const items: Change[] = await unreadAgain(services, bridge, entityId, systemId, resource)
  let next = cursor?.sequence ?? '0'
  const staging = { database: services.database, entityId, systemId, resource }
  for (let more = true; more;) {
    await goesOn()
    const after = next
    const page = await pageOf(staging, after, () => bridge.page(resource, after))
    items.push(...page.items)
    ;({ next, more } = page)
  }
  return { items, next, whole: cursor?.whole === true }
}

async function unreadAgain(
  services: Services,
  bridge: Bridge,
  entityId: string,
  systemId: string,
  resource: Resource,
): Promise<Change[]> {
  const unread = (await inEntity(services.database, entityId, (trx) =>
    trx('finding')
      .where({ entity_id: entityId, system_id: systemId, resource })
      .whereNotNull('sequence')
      .orderBy('sequence')
      .limit(MOST_READ_AGAIN)
      .select('object_id', 'sequence'),
  )) as { object_id: string; sequence: string }[]
  const pages = await inOrder(unread, ({ sequence }) =>
    bridge.page(resource, (BigInt(sequence) - 1n).toString(), 1),
  )
  return pages.flatMap(({ items }, at) => items.filter((item) => item.id === unread[at]?.object_id))
}

/** So many objects that could not be read are asked for again in one pull. */
const MOST_READ_AGAIN = 200

/** The ledger's balances at the end of each month. */
export async function pullBalances(
  services: Services,
  entityId: string,
  { system_id: systemId, name, address, token_sealed: token }: SystemRow,
  months: readonly string[],
): Promise<void> {
  const bridge = services.bridges.open(name, address, unseal(token, services.settings.AXION_SECRET_KEY), true)
  for (const period of months) {
    const { items } = await bridge.balances(`${period}-01`, lastDayOf(period))
    await changing(services.database, entityId, async (trx) => {
      const accounts = (await trx('held_object')
        .where({ entity_id: entityId, system_id: systemId, resource: 'accounts', removed: false })
        .select('object_id', trx.raw(`value->>'number' as number`))) as {
        object_id: string
        number: string
      }[]
      await trx('ledger_balance').where({ entity_id: entityId, system_id: systemId, period }).delete()
      await insertRows(
        trx,
        'ledger_balance',
        items.flatMap(({ accountId, currency, opening, closing }) => {
          const account = accounts.find((a) => a.object_id === accountId)?.number
          return account === undefined
            ? []
            : [
                {
                  entity_id: entityId,
                  system_id: systemId,
                  period,
                  account,
                  currency,
                  opening: parseAmount(opening, currency).toString(),
                  closing: parseAmount(closing, currency).toString(),
                },
              ]
        }),
      )
    })
  }
}
