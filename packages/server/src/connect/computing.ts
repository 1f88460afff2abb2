import { kindsWith, DOCUMENT } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { noteDue } from '../proof/due.ts'
import { connectedSystems, isFiles } from '../setUp/held.ts'

/** Roles whose documents a tax service may compute for: what they sell is taxed. */
const SELLING: ReadonlySet<string> = new Set(
  kindsWith(({ purchase }) => !purchase).map((kind) => DOCUMENT[kind].role),
)

/** For each tax service that has a bridge, the systems that it is said to compute for, and those that it may. */
export async function computingFor(
  books: Books,
): Promise<
  ReadonlyMap<string, readonly { readonly id: string; readonly name: string; readonly said: boolean }[]>
> {
  const systems = await connectedSystems(books)
  const said = new Set(
    (
      await books.trx('computes_for').where({ entity_id: books.entityId }).select('service_id', 'source_id')
    ).map((row) => `${row.service_id}/${row.source_id}`),
  )
  const sources = systems.filter(({ role }) => SELLING.has(role))
  return new Map(
    systems
      .filter((one) => one.role === 'tax-service' && !isFiles(one))
      .map(({ system_id: service }) => [
        service,
        sources.map(({ system_id: id, name }) => ({ id, name, said: said.has(`${service}/${id}`) })),
      ]),
  )
}

/** The names of the tax services that are said to compute for each system. */
export async function servicesOf(books: Books): Promise<(systemId: string) => readonly string[]> {
  const { rows } = (await books.trx.raw(
    `select f.source_id as source, s.name from computes_for f join system s on s.entity_id = f.entity_id and s.system_id = f.service_id and s.disconnected_at is null where f.entity_id = ? order by s.name`,
    [books.entityId],
  )) as { rows: { source: string; name: string }[] }
  return (systemId) => rows.filter(({ source }) => source === systemId).map(({ name }) => name)
}

/**
 * Keeps for which systems a tax service computes: their documents are held against what it keeps of them. All is proved anew.
 * @throws AXION_NOT_FOUND of a service, or of a system that sells; AXION_NOTHING_TO_DO
 */
export async function setComputing(
  books: Books,
  { serviceId, systems }: { readonly serviceId: string; readonly systems: readonly string[] },
  person: string,
): Promise<void> {
  const { trx, entityId } = books
  const offered = (await computingFor(books)).get(serviceId)
  if (!offered) throw new Problem('AXION_NOT_FOUND', { what: 'such tax service' })
  if (systems.some((id) => !offered.some((one) => one.id === id)))
    throw new Problem('AXION_NOT_FOUND', { what: 'such system that sells' })
  const before = offered.filter(({ said }) => said)
  const after = offered.filter(({ id }) => systems.includes(id))
  const names = (of: typeof offered): string => of.map(({ name }) => name).join(', ')
  if (names(before) === names(after))
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'change: it computes for just these' })
  await trx('computes_for').where({ entity_id: entityId, service_id: serviceId }).delete()
  if (after.length > 0)
    await trx('computes_for').insert(
      after.map(({ id }) => ({
        entity_id: entityId,
        service_id: serviceId,
        source_id: id,
        said_by: person,
      })),
    )
  await audit(trx, 'said-computes', serviceId, {
    before: { for: names(before) },
    after: { for: names(after) },
  })
  await noteDue(books, 'all')
}
