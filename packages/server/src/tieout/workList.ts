import type { WorkList } from '@axion/contract'
import { formatAmount, groupBy } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { loadBaseline } from '../baseline/load.ts'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { loadHeld } from '../setUp/held.ts'

interface WorkRow {
  readonly unit_id: string
  readonly named: string
  readonly number: string
  readonly party: string
  readonly document_date: string
  readonly system_id: string
  readonly address: string | null
  readonly entry_address: string | null
  readonly ticked_by: string | null
  readonly ticked_at: Date | null
}

/**
 * What of a cause is to be corrected elsewhere, document by document: what stands there, what is expected, and the way to it. What
 * somebody ticked off is checked by the next pull: right, it is gone from here; not, it says that it was looked at and is as it was.
 */
export async function workList(books: Books, month: string, cause: string): Promise<WorkList> {
  const { trx, entityId, currency } = books
  const systems = await loadHeld(books)
  const index = await loadBaseline(books)
  const { rows } = (await trx.raw(
    `select u.unit_id, u.named, u.number, u.party, u.document_date, u.system_id, d.value->>'webAddress' as address,
       (select e.value->>'webAddress' from ledger_entry e where e.entity_id = u.entity_id and u.system_id = e.system_id and u.entry_id = e.entry_id limit 1) as entry_address,
       t.person as ticked_by, t.at as ticked_at
     from tie_unit u left join source_document d on d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id
     left join work_tick t on t.entity_id = u.entity_id and t.named = u.named and t.cause = u.cause
     where u.entity_id = ? and u.period = ? and u.cause = ? and not u.proved order by t.at nulls first, u.unproved desc, u.document_date, u.number`,
    [entityId, month, cause],
  )) as { rows: WorkRow[] }
  const members = groupBy(
    (await trx('tie_member')
      .where({ entity_id: entityId })
      .whereRaw('unit_id = any(?)', [rows.map((row) => row.unit_id)])
      .orderBy(['account', 'agency'])) as {
      unit_id: string
      agency: string | null
      account: string | null
      stated: string | null
      expected: string | null
      booked: string | null
    }[],
    (member) => member.unit_id,
  )
  const pulls = (await trx('pull')
    .where({ entity_id: entityId, ended: true })
    .whereNull('problem')
    .groupBy('system_id')
    .select('system_id as id', trx.raw('max(started_at) as at'))) as { id: string; at: Date }[]
  const readSince = (systemId: string, day: Date): boolean =>
    pulls.some(({ id, at }) => id === systemId && at > day)
  const ledger = systems.find(({ row }) => row.role === 'ledger')?.row.system_id
  const text = (units: string | null): string | null =>
    units === null ? null : formatAmount(BigInt(units), currency)
  return {
    currency,
    cause,
    documents: rows.map((row) => {
      const system = systems.find((s) => s.row.system_id === row.system_id)?.row
      return {
        unit: row.named,
        number: row.number,
        party: row.party,
        date: row.document_date,
        system: system?.name ?? row.system_id,
        address: row.address ?? row.entry_address ?? system?.about.webAddress ?? null,
        lines: (members.get(row.unit_id) ?? []).map((member) => ({
          agency: member.agency === null ? null : (index.agency(member.agency)?.name ?? member.agency),
          account: member.account,
          stated: text(member.stated),
          expected: text(member.expected),
          booked: text(member.booked),
        })),
        ticked:
          row.ticked_by === null || row.ticked_at === null
            ? null
            : {
                by: row.ticked_by,
                at: row.ticked_at.toISOString(),
                // It may be corrected on either side: both have to be read since.
                stillWrong:
                  readSince(row.system_id, row.ticked_at) &&
                  (ledger === undefined || readSince(ledger, row.ticked_at)),
              },
      }
    }),
  }
}

/** Ticks a document off, or takes the tick back. @throws AXION_NOT_FOUND where the month has no such document that is not proved */
export async function tick(
  { trx, entityId }: Books,
  month: string,
  { unit, done, person }: { readonly unit: string; readonly done: boolean; readonly person: string },
): Promise<void> {
  const row = (await trx('tie_unit')
    .where({ entity_id: entityId, period: month, named: unit, proved: false })
    .whereNotNull('cause')
    .first('number', 'cause')) as { number: string; cause: string } | undefined
  if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such document to correct' })
  const own = { entity_id: entityId, named: unit, cause: row.cause }
  await trx('work_tick').where(own).delete()
  if (done) await trx('work_tick').insert({ ...own, person })
  await audit(trx, done ? 'corrected-there' : 'not-corrected', row.number, { after: { month } })
}
