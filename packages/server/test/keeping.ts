import { billingData, type OtherSystem, type SystemData } from '@axion/demo'
import type { Committed, SourceDocument } from '@axion/contract'
import { MONTH, type World } from './world.ts'

/** A tax service with the agencies and rates of a billing system, which was told of nothing yet. */
export function reckoner(
  { settings, objects }: SystemData = billingData(11, 'http://127.0.0.1:1/desk'),
): OtherSystem {
  const setUp = objects.filter(({ resource }) => ['agencies', 'tax-rates'].includes(resource))
  return { id: 'reckoner', role: 'tax-service', name: 'Reckoner', data: { settings, objects: setUp } }
}

/** What a service keeps of a document that it was told of as it is. */
export function committed(documentId: string, value: SourceDocument): Committed {
  const { number, kind, documentDate, currency, exchangeRate, taxes } = value
  return {
    number,
    kind,
    documentId,
    status: 'committed',
    documentDate,
    currency,
    exchangeRate,
    taxes,
    webAddress: null,
  }
}

/** What the service keeps, as somebody there changed it; nothing more where it is null. It is not pulled. */
export async function keepThere(
  world: World,
  rows: readonly (readonly [id: string, value: Committed | null])[],
): Promise<void> {
  for (const [id, value] of rows)
    await world.standinSql(
      'reckoner',
      `insert into object (resource, id, sequence, revision, removed, value) values ('committed', $id$${id}$id$, nextval('change_sequence'), 1, ${value === null}, $v$${JSON.stringify(value)}$v$::jsonb)
       on conflict (resource, id) do update set sequence = nextval('change_sequence'), revision = object.revision + 1, removed = excluded.removed, value = excluded.value`,
    )
}

/** Says for which systems it computes, and proves what that moves. @returns the status */
export async function computesFor(world: World, systems: readonly string[]): Promise<number> {
  const answer = await world.as('administrator', 'PUT', `${MONTH}/systems/reckoner/computes-for`, { systems })
  if (answer.statusCode === 200) await world.finish(answer.json<{ run: string }>().run)
  return answer.statusCode
}
