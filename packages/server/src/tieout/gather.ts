import { groupBy, together, type BaselineIndex, type MissingWhy, type VoiceFacts } from '@axion/core'
import type { HeldSystem } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { familiesOf } from './families.ts'
import { bookedAccounts, bookedUnit, externalStem, isCorrection, NOTHING, sourceUnit, stemOf, type SourceUnit, type StoredDocument, type StoredEntry } from './units.ts'

/** A tie unit as it stands: a source document with its bookings, or a booking that no source has. */
export interface Unit {
  readonly unitId: string
  readonly source: SourceUnit | null
  readonly entries: readonly StoredEntry[]
  readonly period: string
  readonly expected: VoiceFacts
  readonly stated: VoiceFacts | null
  /** Each booking that stands, corrections with the first; a voided one says nothing. */
  readonly booked: readonly VoiceFacts[]
  readonly voided: { readonly source: boolean; readonly ledger: boolean }
  readonly edited: boolean
  readonly why: MissingWhy
}

interface BookingState {
  readonly external_id: string
  readonly state: string
  readonly ledger_booking_id: string | null
  readonly ledger_revision: string | null
  readonly accepted_revision: string | null
}

/** What units are worked out from. */
export interface Grounds {
  readonly entityId: string
  readonly baseCurrency: string
  readonly index: BaselineIndex
  readonly systems: readonly HeldSystem[]
}

/** Which documents and entries changed since they were last worked out; all of them where the baseline, a link or a set-up did. */
export type Touched = 'all' | { readonly documents: ReadonlySet<string>; readonly entries: ReadonlySet<string> }

const WHY: Readonly<Record<string, MissingWhy>> = { waiting: 'waiting', sending: 'sending', sent: 'sent', booked: 'sent', failed: 'failed', 'in-doubt': 'in-doubt', withdrawn: 'withdrawn' }

export function missingWhy(documentStatus: string, bookingState: string | undefined): MissingWhy {
  return documentStatus === 'draft' ? 'draft' : (WHY[bookingState ?? ''] ?? 'waiting')
}

/** The units of a month, or those of them that were touched. */
export async function gatherUnits(trx: Transaction, grounds: Grounds, period: string, touched: Touched): Promise<Unit[]> {
  const { entityId, systems } = grounds
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const documents = (await trx('source_document').where({ entity_id: entityId, period })
    .modify((q) => void (touched === 'all' || q.whereIn(trx.raw(`system_id || '/' || document_id`) as never, [...touched.documents]))).orderBy(['document_date', 'number'])) as StoredDocument[]
  const entries = ledger ? await entriesOf(trx, entityId, ledger.row.system_id, period, documents, touched) : []
  const byStem = groupBy(entries, (entry) => (entry.external_id === null ? '' : stemOf(entry.external_id)))
  const bookings = groupBy((await trx('booking').where({ entity_id: entityId }).modify((q) => void (touched === 'all' || q.whereIn('document_id', documents.map((d) => d.document_id))))
    .select('external_id', 'state', 'ledger_booking_id', 'ledger_revision', 'accepted_revision')) as BookingState[], (b) => stemOf(b.external_id))
  const families = await familiesOf(trx, entityId, documents)

  const sourced = documents.flatMap((stored): Unit[] => {
    const system = systems.find((s) => s.row.system_id === stored.system_id)
    if (!system) return []
    const stem = externalStem(entityId, stored.system_id, stored.document_id)
    const source = sourceUnit(stored, system, grounds.index, grounds.baseCurrency, families(stored))
    return unitOf(grounds, period, stored, source, byStem.get(stem) ?? [], bookings.get(stem) ?? [])
  })
  return [...sourced, ...(await orphansAmong(trx, grounds, entries.filter((e) => e.period === period && !e.voided), bookings))]
}

async function entriesOf(trx: Transaction, entityId: string, systemId: string, period: string, documents: readonly StoredDocument[], touched: Touched): Promise<StoredEntry[]> {
  const stems = documents.map((d) => externalStem(entityId, d.system_id, d.document_id))
  return trx('ledger_entry').where({ entity_id: entityId, system_id: systemId })
    .where((q) => void q.whereRaw(`regexp_replace(external_id, '[^/]*$', '') = any(?)`, [stems]).orWhere((own) => void own.where({ period }).modify((o) => void (touched === 'all' || o.whereIn('entry_id', [...touched.entries])))))
    .orderBy('entry_id') as unknown as Promise<StoredEntry[]>
}

function unitOf(grounds: Grounds, period: string, stored: StoredDocument, source: SourceUnit, own: readonly StoredEntry[], states: readonly BookingState[]): Unit[] {
  const ledger = grounds.systems.find((s) => s.row.role === 'ledger')
  const main = states.find((b) => !isCorrection(b.external_id) && !b.external_id.endsWith('/void'))
  const standing = own.filter((entry) => !entry.voided)
  const reversed = standing.some((entry) => entry.external_id?.endsWith('/void'))
  const isVoid = stored.status === 'void'
  if (isVoid && (standing.length === 0 || reversed)) return []
  const withdrawn = main?.state === 'withdrawn' && (standing.length === 0 || reversed)
  return [{
    unitId: `doc:${stored.system_id}:${stored.document_id}`, source, entries: own, period, stated: source.stated, expected: source.expected,
    booked: !ledger || own.length === 0 || withdrawn ? [] : bookingsOf(standing, reversed, ledger, grounds, source.expected),
    voided: { source: isVoid, ledger: reversed || (own.length > 0 && standing.length === 0) },
    edited: standing.some((entry) => isEdited(entry, states)),
    why: missingWhy(stored.status, main?.state),
  }]
}

function bookingsOf(standing: readonly StoredEntry[], reversed: boolean, ledger: HeldSystem, { index }: Grounds, expected: VoiceFacts): VoiceFacts[] {
  const accounts = bookedAccounts(index)
  const read = (entries: readonly StoredEntry[]): VoiceFacts => bookedUnit(entries, ledger, accounts, expected)
  if (reversed) return [read(standing)]
  const corrections = standing.filter((entry) => isCorrection(entry.external_id))
  const main = standing.filter((entry) => !isCorrection(entry.external_id))
  return main.length <= 1 ? [read(standing)] : main.map((entry, at) => (at === 0 ? together([read([entry]), read(corrections)]) : read([entry])))
}

/** The ledger's revision of our own booking moved after we booked, and nobody has accepted it; a double is not our booking. */
function isEdited(entry: StoredEntry, states: readonly BookingState[]): boolean {
  const ours = states.find((b) => b.external_id === entry.external_id && b.ledger_booking_id === entry.booking_id)
  return ours?.ledger_revision != null && entry.booking_revision !== ours.ledger_revision && entry.booking_revision !== ours.accepted_revision
}

/** Entries with tax, or on tax accounts, that no source document of any month stands behind. */
async function orphansAmong(trx: Transaction, grounds: Grounds, entries: readonly StoredEntry[], bookings: ReadonlyMap<string, unknown>): Promise<Unit[]> {
  const ledger = grounds.systems.find((s) => s.row.role === 'ledger')
  if (!ledger) return []
  const stems = [...new Set(entries.flatMap((e) => (e.external_id === null ? [] : [stemOf(e.external_id)])))]
  const { rows } = (await trx.raw(`select entity_id || '/' || system_id || '/' || document_id || '/' as stem from source_document where entity_id = ? and entity_id || '/' || system_id || '/' || document_id || '/' = any(?)`, [grounds.entityId, stems])) as { rows: { stem: string }[] }
  const known = new Set([...rows.map((r) => r.stem), ...bookings.keys()])
  const accounts = bookedAccounts(grounds.index)
  return entries.filter((e) => e.external_id === null || !known.has(stemOf(e.external_id))).flatMap((entry): Unit[] => {
    const booked = bookedUnit([entry], ledger, accounts, NOTHING)
    if (booked.facts.length === 0) return []
    return [{ unitId: `entry:${entry.system_id}:${entry.entry_id}`, source: null, entries: [entry], period: entry.period, stated: null, expected: NOTHING, booked: [booked], voided: { source: false, ledger: false }, edited: false, why: 'waiting' }]
  })
}
