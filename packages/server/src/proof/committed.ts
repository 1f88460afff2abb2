import { decodeCommitted, saying, type Code, type Committed } from '@axion/contract'
import {
  agree,
  committedVoice,
  groupBy,
  periodOf,
  sum,
  type Facet,
  type StatedTax,
  type VoiceFacts,
} from '@axion/core'
import type { Books } from '../database/connection.ts'
import type { Columns } from '../database/row.ts'
import { SERVED_BY } from '../documents/committed.ts'
import type { SourceUnit, StoredDocument } from '../documents/units.ts'
import type { UnreadValue } from '../documents/unread.ts'
import type { HeldSystem } from '../setUp/held.ts'
import type { Flaw } from './flaws.ts'

/** What a tax service keeps of a document, with its value as JSON. */
export interface CommittedRow extends Columns<'committed_document', 'system_id' | 'committed_id' | 'kind'> {
  readonly number: string
  readonly source_document: string | null
  readonly status: 'committed' | 'cancelled'
  readonly value: string
}

/** What stands behind documents in tax services: who computes for which system, and what they keep. */
export interface ServedBehind {
  readonly services: readonly (Columns<'computes_for', 'service_id' | 'source_id'> & {
    /** A service that computes for several is not believed by the number alone. */
    readonly alone: boolean
  })[]
  readonly rows: readonly CommittedRow[]
  /** Of what could not be read, by the service: its number where that much could be. */
  readonly unread: readonly (Columns<'finding', 'system_id'> & {
    readonly facts: { readonly problem: string }
    readonly value: UnreadValue | null
  })[]
}
const NONE: ServedBehind = { services: [], rows: [], unread: [] }

export async function readCommitted(
  { trx, entityId }: Books,
  documents: readonly (Pick<StoredDocument, 'document_id'> & { readonly number: string })[],
): Promise<ServedBehind> {
  const { rows: services } = (await trx.raw(SERVED_BY, { e: entityId })) as {
    rows: ServedBehind['services']
  }
  if (services.length === 0 || documents.length === 0) return NONE
  const ids = [...new Set(services.map(({ service_id: id }) => id))]
  const { rows } = (await trx.raw(
    `select system_id, committed_id, kind, number, source_document, status, value::text as value from committed_document
     where entity_id = :e and system_id = any(:services) and not removed and source_document = any(:ids)
     union all select system_id, committed_id, kind, number, source_document, status, value::text from committed_document
     where entity_id = :e and system_id = any(:services) and not removed and source_document is null and number = any(:numbers) order by 1, 2`,
    {
      e: entityId,
      services: ids,
      ids: documents.map((d) => d.document_id),
      numbers: documents.map(({ number }) => number),
    } as never,
  )) as { rows: CommittedRow[] }
  const unread = (await trx('finding')
    .where({ entity_id: entityId, resource: 'committed' })
    .whereIn('system_id', ids)
    .select('system_id', 'facts', 'value')) as ServedBehind['unread']
  return { services, rows, unread }
}

export interface Kept {
  /** Null where no service computes for the document's system. */
  readonly voice: VoiceFacts | null
  readonly flaws: readonly Flaw[]
}
const NOBODYS: Kept = { voice: null, flaws: [] }

/**
 * What tax services keep of each document, and how it stands to what its source states: a second voice of what was stated. A draft is told to
 * nobody, and what is left out is looked at by nobody.
 */
export function committedIn(
  { services, rows, unread }: ServedBehind,
  systems: readonly HeldSystem[],
): (stored: StoredDocument, source: SourceUnit) => Kept {
  if (services.length === 0) return () => NOBODYS
  const byId = groupBy(rows, (row) => `${row.system_id}/${row.kind}/${row.source_document ?? ''}`)
  const byNumber = groupBy(
    rows.filter((row) => row.source_document === null),
    (row) => `${row.system_id}/${row.kind}/${row.number}`,
  )
  return (stored, source) => {
    if (stored.status === 'draft' || stored.not_taken !== null) return NOBODYS
    const kept = services
      .filter(({ source_id: of }) => of === stored.system_id)
      .flatMap(({ service_id: id, alone }): Kept[] => {
        const service = systems.find(({ row }) => row.system_id === id)
        if (!service) return []
        const own = [
          ...(byId.get(`${id}/${stored.kind}/${stored.document_id}`) ?? []),
          ...(alone ? (byNumber.get(`${id}/${stored.kind}/${stored.value.number}`) ?? []) : []),
        ]
        const problem = unread.find(
          (one) => one.system_id === id && one.value?.number === stored.value.number,
        )?.facts.problem
        return [
          keptBy(
            { service, from: systems.find(({ row }) => row.system_id === stored.system_id) },
            { own, problem },
            { stored, source },
          ),
        ]
      })
    const first = kept.find(({ flaws }) => flaws.length > 0) ?? kept[0]
    return first === undefined ? NOBODYS : { voice: first.voice, flaws: kept.flatMap(({ flaws }) => flaws) }
  }
}

function keptBy(
  { service, from }: { readonly service: HeldSystem; readonly from: HeldSystem | undefined },
  { own, problem }: { readonly own: readonly CommittedRow[]; readonly problem: string | undefined },
  { stored, source }: { readonly stored: StoredDocument; readonly source: SourceUnit },
): Kept {
  const standing = own.filter(({ status }) => status === 'committed')
  const values = standing.map(({ value }) => JSON.parse(value) as Committed)
  const voices = values.map((value) =>
    committedVoice(taxesOf(value, service), {
      currency: value.currency,
      period: periodOf(value.documentDate),
    }),
  )
  const voice = { facts: voices.flatMap(({ facts }) => facts), nets: [], netUnknown: true }
  const flaw = (code: CommittedCode, facet: Facet): Kept => ({
    voice,
    flaws: [{ ...saying(code, factsOf(stored, service, from)), facet }],
  })
  if (problem !== undefined)
    return {
      voice: null,
      flaws: [
        {
          ...saying('AXION_NEVER_READ', { document: stored.value.number, system: service.row.name, problem }),
          facet: 'amount',
        },
      ],
    }
  if (stored.status === 'void')
    return standing.length === 0 ? NOBODYS : flaw('AXION_COMMITTED_STILL', 'amount')
  if (standing.length === 0) {
    if (own.length > 0) return flaw('AXION_CANCELLED_THERE', 'amount')
    // Of what bears no tax nobody has to be told.
    const isTaxed = [...source.stated.facts, ...source.expected.facts].some(({ tax }) => tax !== 0n)
    return isTaxed ? flaw('AXION_NOT_COMMITTED', 'amount') : NOBODYS
  }
  if (standing.length > 1) return flaw('AXION_COMMITTED_TWICE', 'amount')
  if (agree(source.stated, voice)) return { voice, flaws: [] }
  return flaw('AXION_COMMITTED_DIFFERS', facetOf(source.stated, voice))
}

type CommittedCode = Extract<
  Code,
  | 'AXION_COMMITTED_DIFFERS'
  | 'AXION_NOT_COMMITTED'
  | 'AXION_CANCELLED_THERE'
  | 'AXION_COMMITTED_STILL'
  | 'AXION_COMMITTED_TWICE'
>

function factsOf(stored: StoredDocument, service: HeldSystem, from: HeldSystem | undefined) {
  return {
    document: stored.value.number,
    system: service.row.name,
    source: from?.row.name ?? stored.system_id,
  }
}

/** Its taxes by the baseline's agencies, as far as the service's own are linked. */
function taxesOf(value: Committed, service: HeldSystem): readonly StatedTax[] {
  return decodeCommitted(value).flatMap(
    ({ taxRateId: rateId, base, tax, components }): readonly StatedTax[] =>
      components?.map((part) => ({
        rateId,
        agency: service.agencyOf(part.agencyId),
        base,
        tax: part.tax,
      })) ?? [{ rateId, agency: null, base, tax }],
  )
}

/** Whether the whole is the same, and only its month or its parts are others. */
function facetOf(stated: VoiceFacts, kept: VoiceFacts): Facet {
  const of = ({ facts }: VoiceFacts): bigint => sum(facts.map(({ tax }) => tax))
  if (of(stated) !== of(kept)) return 'amount'
  const month = ({ facts }: VoiceFacts): string => facts.find(({ tax }) => tax !== 0n)?.period ?? ''
  return month(stated) === month(kept) ? 'agency' : 'period'
}
