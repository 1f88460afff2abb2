import { decodeCommitted, exchangeOf, saying, type Committed } from '@axion/contract'
import { absolute, amountInBase, sum } from '@axion/core'
import { insertRows } from '../database/insert.ts'
import { COMMITTED_OF, SERVED_BY } from '../documents/committed.ts'
import type { Flaw } from './flaws.ts'
import type { Proving } from './gather.ts'
import type { Grounds } from './grounds.ts'
import { matterKey } from './matter.ts'

/** The kind of a unit that is what a tax service keeps, and nobody's document. */
export const KEPT_ALONE = 'kept-alone'

interface AloneRow {
  readonly service: string
  readonly name: string
  readonly id: string
  readonly number: string
  readonly date: string
  readonly value: Committed
}

/** What tax services keep of a month that no document of the systems they compute for stands behind: its tax is proved by nobody. */
export async function writeCommittedAlone(
  { trx, entityId, currency }: Grounds,
  period: string,
  { determined, number }: Proving,
): Promise<void> {
  await trx('tie_unit').where({ entity_id: entityId, period, kind: KEPT_ALONE }).delete()
  const { rows } = (await trx.raw(
    `with served as (${SERVED_BY})
     select c.system_id as service, s.name, c.committed_id as id, c.number, c.document_date::text as date, c.value
     from committed_document c join system s on s.entity_id = c.entity_id and s.system_id = c.system_id
     where c.entity_id = :e and c.period = :p and c.status = 'committed' and not c.removed and c.system_id in (select service_id from served)
       and not exists (select from served f join document d on d.entity_id = :e and d.system_id = f.source_id and d.document_id = c.source_document where f.service_id = c.system_id and ${COMMITTED_OF})
       and not exists (select from served f join document d on d.entity_id = :e and d.system_id = f.source_id and d.number = c.number where f.service_id = c.system_id and c.source_document is null and ${COMMITTED_OF})
     order by 1, 3`,
    { e: entityId, p: period },
  )) as { rows: AloneRow[] }
  const units = rows.map((row) => unitOf(row, { period, currency, number: number() }))
  await insertRows(
    trx,
    'unit',
    units.map(({ unit }) => ({ entity_id: entityId, ...determined, ...unit })),
  )
  await insertRows(
    trx,
    'unproved_share',
    units
      .filter(({ tax }) => tax !== 0n)
      .map(({ unit, tax }) => ({
        entity_id: entityId,
        unit_id: unit.unit_id,
        place: 0,
        agency: null,
        account: null,
        currency,
        period,
        tax: tax.toString(),
      })),
  )
}

function unitOf(
  { service, name, id, number, date, value }: AloneRow,
  of: { readonly period: string; readonly currency: string; readonly number: string },
) {
  const exchange = exchangeOf(value, of.currency)
  const tax = absolute(amountInBase(sum(decodeCommitted(value).map((one) => one.tax)), exchange))
  const flaw: Flaw = {
    ...saying('AXION_COMMITTED_NOBODYS', { document: number, system: name }),
    facet: 'amount',
  }
  const matter = { kind: 'flawed', code: flaw.code, facts: flaw.facts } as const
  return {
    tax,
    unit: {
      ...{ posted: true, rests_on: '{}', members_agree: true, expected_complete: true },
      ...{ bookings: 0, edited: false, voided: false },
      unit_id: of.number,
      period: of.period,
      system_id: service,
      document_id: null,
      entry_id: id,
      kind: KEPT_ALONE,
      number,
      party: '',
      document_date: date,
      currency: value.currency,
      unproved: tax.toString(),
      flaws: [flaw],
      matter,
      headline: 'amount',
      facets: ['amount'],
      odd: ['committed'],
      cause: matterKey(matter),
    },
  }
}
