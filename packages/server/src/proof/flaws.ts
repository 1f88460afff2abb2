import type { Columns } from '../database/row.ts'
import { saying, type Code } from '@axion/contract'
import { groupBy, type Facet, type Finding } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'
import { documentStemSql, externalStem, stemOf, stemSql } from '../documents/ids.ts'
import { type StoredDocument, type StoredEntry } from '../documents/units.ts'
import type { UnreadValue } from '../documents/unread.ts'
import type { HeldSystem } from '../setUp/held.ts'
import type { Grounds } from './grounds.ts'
import type { Proving, Touched } from './gather.ts'
import { matterKey, type Matter } from './matter.ts'

/** What bars a proof though the amounts may agree, with the facet that it shows as. */
export interface Flaw {
  readonly code: Code
  readonly facts: Finding['facts']
  readonly facet: Facet
}

export interface Unread extends Columns<
  'finding',
  'system_id' | 'object_id' | 'facts' | 'value' | 'resource'
> {
  readonly facts: { readonly system: string; readonly problem: string; readonly label?: string }
  readonly value: UnreadValue | null
  readonly resource: 'documents' | 'journal-entries'
}

/** What of documents, or of any entry, could not be read. */
export async function readUnread(
  { trx, entityId }: Books,
  documents: readonly Pick<StoredDocument, 'document_id'>[],
): Promise<readonly Unread[]> {
  return (await trx('finding')
    .where({ entity_id: entityId })
    .where(
      (q) =>
        void q
          .where((own) =>
            own
              .where({ resource: 'documents' })
              .whereRaw('object_id = any(?)', [documents.map((d) => d.document_id)]),
          )
          .orWhere((own) => own.where({ resource: 'journal-entries' })),
    )
    .select('system_id', 'object_id', 'facts', 'value', 'resource')) as Unread[]
}

/** For each document what of it, or of the entries behind it, could not be read: the version that is known is older than its source. */
export function unreadIn(
  entityId: string,
  rows: readonly Unread[],
  entries: readonly Pick<StoredEntry, 'entry_id' | 'external_id'>[],
): (stored: StoredDocument) => Flaw[] {
  if (rows.length === 0) return () => []
  const own = new Map(
    rows.filter((r) => r.resource === 'documents').map((r) => [`${r.system_id}/${r.object_id}`, r]),
  )
  const stems = new Map(entries.map((entry) => [entry.entry_id, stemOf(entry.external_id ?? '')]))
  const behind = groupBy(
    rows.filter((row) => row.resource === 'journal-entries'),
    (row) => stems.get(row.object_id) ?? stemOf(row.value?.externalId ?? ''),
  )
  return (stored) => {
    const unread = own.get(`${stored.system_id}/${stored.document_id}`)
    const itself: Flaw[] = unread ? [{ ...older(stored.value.number, unread), facet: 'amount' }] : []
    const stem = externalStem(entityId, stored.system_id, stored.document_id)
    const booked = (behind.get(stem) ?? []).map((row): Flaw => ({
      ...saying('AXION_ENTRY_UNREADABLE', {
        document: stored.value.number,
        system: row.facts.system,
        problem: row.facts.problem,
      }),
      facet: 'amount',
    }))
    return [...itself, ...booked]
  }
}

/** What bars trust in a document that is analysed and not booked: its system has changed it, and the change could not be read. */
export async function olderRecord(
  { trx, entityId }: Books,
  record: { readonly system_id: string; readonly document_id: string | null; readonly number: string },
): Promise<Extract<Matter, { kind: 'flawed' }> | null> {
  if (record.document_id === null) return null
  const unread = (await trx('finding')
    .where({
      entity_id: entityId,
      system_id: record.system_id,
      resource: 'documents',
      object_id: record.document_id,
    })
    .first()) as Unread | undefined
  return unread ? { kind: 'flawed', ...older(record.number, unread) } : null
}

function older(number: string, { facts: { system, problem } }: Unread): Pick<Flaw, 'code' | 'facts'> {
  return saying('AXION_OLDER_THAN_SOURCE', { document: number, system, problem })
}

/** A component, or a tax line, of an agency that its system does not have: nobody can say whom it is owed. */
export function strangersIn(
  stored: StoredDocument,
  from: HeldSystem,
  entries: readonly StoredEntry[],
  ledger: HeldSystem | undefined,
): Flaw[] {
  const flaw = (agency: string, system: string): Flaw => ({
    ...saying('AXION_AGENCY_NOT_THERE', { document: stored.value.number, agency, system }),
    facet: 'agency',
  })
  const [stated, booked] = [new Set<string>(), new Set<string>()]
  if (stored.status !== 'void')
    for (const { components } of stored.value.taxes)
      for (const { agencyId } of components ?? []) if (!from.hasAgency(agencyId)) stated.add(agencyId)
  if (ledger)
    for (const { voided, value } of entries)
      for (const { agencyId } of voided ? [] : value.lines)
        if (agencyId !== null && !ledger.hasAgency(agencyId)) booked.add(agencyId)
  return [
    ...[...stated].map((id) => flaw(id, from.row.name)),
    ...[...booked].map((id) => flaw(id, ledger?.row.name ?? '')),
  ]
}

/**
 * What was never readable is there all the same: a document, or an entry that names none, with what could be read of it, no amounts,
 * and no proof.
 */
export async function writeUnread(
  { trx, entityId, currency }: Grounds,
  period: string,
  touched: Touched,
  { determined, number }: Proving,
): Promise<void> {
  await trx('tie_unit')
    .where({ entity_id: entityId, period })
    .whereRaw(`kind in ('unread', 'unread-entry')`)
    .delete()
  const { rows } = (await trx.raw(
    `select f.* from finding f where f.entity_id = :e and f.period = :p and f.sequence is not null and (
       f.resource = 'documents' and exists (select from system s where s.entity_id = f.entity_id and s.system_id = f.system_id and s.role = 'billing')
         and not exists (select from source_document d where d.entity_id = f.entity_id and d.system_id = f.system_id and d.document_id = f.object_id)
       or f.resource = 'journal-entries' and not exists (select from ledger_entry l where l.entity_id = f.entity_id and l.system_id = f.system_id and l.entry_id = f.object_id)
         and not exists (select from source_document d where d.entity_id = :e and ${documentStemSql(':e::text', 'd')} = ${stemSql("f.value->>'externalId'")}))
     order by f.system_id, f.object_id`,
    { e: entityId, p: period },
  )) as { rows: Unread[] }
  if (touched !== 'all' && rows.length === 0) return
  await insertRows(
    trx,
    'unit',
    rows.map(({ system_id: systemId, object_id: objectId, facts, value, resource }) => {
      const isEntry = resource === 'journal-entries'
      const flaw: Flaw = {
        ...saying('AXION_NEVER_READ', {
          document: facts.label ?? objectId,
          system: facts.system,
          problem: facts.problem,
        }),
        facet: 'amount',
      }
      const matter = { kind: 'flawed', code: flaw.code, facts: flaw.facts } as const
      return {
        entity_id: entityId,
        ...determined,
        posted: true,
        rests_on: '{}',
        unit_id: number(),
        period,
        system_id: systemId,
        document_id: isEntry ? null : objectId,
        entry_id: isEntry ? objectId : null,
        members_agree: true,
        kind: isEntry ? 'unread-entry' : 'unread',
        number: value?.number ?? objectId,
        party: value?.party ?? '',
        document_date: value?.date ?? `${period}-01`,
        currency,
        expected_complete: false,
        bookings: 0,
        edited: false,
        voided: false,
        flaws: [flaw],
        matter,
        headline: 'amount',
        facets: ['amount'],
        odd: [isEntry ? 'booked' : 'stated'],
        cause: matterKey(matter),
      }
    }),
  )
}
