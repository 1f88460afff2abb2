import type { Columns } from '../database/row.ts'
import type { BookingState } from '@axion/contract'
import { groupBy, together, type MissingWhy, type VoiceFacts } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { familiesIn, familyRows } from '../documents/families.ts'
import { externalStem, isCorrection, isMain, isReversal, stemOf } from '../documents/ids.ts'
import { standing as standingOf } from '../documents/standing.ts'
import {
  bookedUnit,
  sourceUnit,
  type SourceUnit,
  type StoredDocument,
  type StoredEntry,
} from '../documents/units.ts'
import type { HeldSystem } from '../setUp/held.ts'
import type { Grounds, SetUp } from './grounds.ts'
import { Asking, type Question } from './asking.ts'
import { committedIn, readCommitted, type ServedBehind } from './committed.ts'
import { readUnread, strangersIn, unreadIn, type Flaw, type Unread } from './flaws.ts'

/** A tie unit as it stands: a source document with its bookings, or a booking that no source has. */
export interface Unit {
  readonly source: SourceUnit | null
  readonly entries: readonly StoredEntry[]
  readonly period: string
  readonly expected: VoiceFacts
  readonly stated: VoiceFacts | null
  /** What a tax service keeps of it; null where none computes for its system. */
  readonly committed: VoiceFacts | null
  /** Each booking that stands, corrections with the first; a voided one says nothing. */
  readonly booked: readonly VoiceFacts[]
  readonly voided: { readonly source: boolean; readonly ledger: boolean }
  readonly edited: boolean
  /** What bars a proof though the amounts may agree. */
  readonly flaws: readonly Flaw[]
  readonly why: MissingWhy
  /** What was asked of the set-up to work it out. */
  readonly asked: Set<Question>
}

interface HeldBooking extends Columns<
  'booking',
  'external_id' | 'ledger_booking_id' | 'ledger_revision' | 'accepted_revision'
> {
  readonly state: BookingState
}

export interface Proving {
  /** When units are determined, as the entity records time, and by which version of core: columns of a unit. */
  readonly determined: { readonly determined_at: string; readonly core_version: number }
  /** The next unit's number. */
  readonly number: () => string
}

/** Which documents and entries changed since they were last worked out; all of them where the baseline, a link or a set-up did. */
export type Touched =
  'all' | { readonly documents: ReadonlySet<string>; readonly entries: ReadonlySet<string> }

const WHY: Readonly<Partial<Record<BookingState, MissingWhy>>> = {
  waiting: 'waiting',
  sending: 'sending',
  sent: 'sent',
  booked: 'sent',
  failed: 'failed',
  'in-doubt': 'in-doubt',
  withdrawn: 'withdrawn',
}

export function missingWhy(
  { status, not_taken: notTaken }: Pick<StoredDocument, 'status' | 'not_taken'>,
  bookingState: BookingState | undefined,
): MissingWhy {
  const why = (bookingState && WHY[bookingState]) ?? 'waiting'
  if (status === 'draft') return 'draft'
  // What is on its way there goes on; what only waits is left out with its scope.
  return notTaken !== null && ['waiting', 'failed', 'withdrawn'].includes(why) && bookingState !== 'waiting'
    ? notTaken
    : why
}

/** A row with its value as JSON: it is read where it is needed. */
type Raw<T> = Omit<T, 'value'> & { readonly value: string }

const read = <T extends StoredDocument | StoredEntry>(row: Raw<T>): T =>
  ({ ...row, value: JSON.parse(row.value) as T['value'] }) as T

/** Documents with all that stands behind them, as it is stored: nothing else is needed to work them out, but the set-up. */
export interface Behind {
  /** As system/document, with a unit or without. */
  readonly keys: readonly string[]
  readonly documents: readonly Raw<StoredDocument>[]
  readonly entries: readonly Raw<StoredEntry>[]
  readonly bookings: readonly HeldBooking[]
  /** What they credit, with all that credits it. */
  readonly families: readonly Raw<StoredDocument>[]
  readonly unread: readonly Unread[]
  readonly served: ServedBehind
}

/** Documents of a month, slice by slice. */
export async function* behindIn(
  grounds: Grounds,
  period: string,
  keys: readonly string[],
  slice: number,
): AsyncGenerator<Behind> {
  for (let from = 0; from < keys.length; from += slice)
    yield readBehind(grounds, period, keys.slice(from, from + slice))
}

/** The month's documents, or those of them that were touched, as system/document, in their order. */
export async function documentsOf(
  { trx, entityId }: Books,
  period: string,
  touched: Touched,
): Promise<string[]> {
  const rows = (await trx('document')
    .where({ entity_id: entityId, period })
    .modify((q) => void (touched === 'all' || q.whereRaw('named = any(?)', [[...touched.documents]])))
    .orderBy(['document_date', 'number', 'document_id'])
    .select('named')) as { named: string }[]
  return rows.map(({ named }) => named)
}

async function readBehind(grounds: Grounds, period: string, keys: readonly string[]): Promise<Behind> {
  const { trx, entityId } = grounds
  const text = trx.raw('value::text as value')
  const columns = [
    'system_id',
    'document_id',
    'revision',
    'status',
    'kind',
    'not_taken',
    'posted',
    text,
  ] as const
  const documents = (await trx('document')
    .where({ entity_id: entityId, period })
    .whereRaw('named = any(?)', [[...keys]])
    .orderBy(['document_date', 'number', 'document_id'])
    .select(...columns, 'credits_document', 'number')) as (Raw<StoredDocument> & {
    readonly credits_document: string | null
    readonly number: string
  })[]
  const credited = documents.flatMap(({ credits_document: of }) => of ?? [])
  return {
    keys,
    documents,
    entries: await entriesBehind(grounds, documents),
    bookings: await trx('booking')
      .where({ entity_id: entityId })
      .whereRaw('named = any(?)', [[...keys]])
      .select('external_id', 'state', 'ledger_booking_id', 'ledger_revision', 'accepted_revision'),
    families:
      credited.length === 0
        ? []
        : ((await familyRows(grounds, credited).select(...columns)) as Raw<StoredDocument>[]),
    unread: await readUnread(grounds, documents),
    served: await readCommitted(grounds, documents),
  }
}

/** The units of documents, worked out one after the other as they are asked for. */
export function* unitsOf(
  setUp: SetUp,
  period: string,
  behind: Behind,
  asking = new Asking(),
): Generator<Unit> {
  const { entityId, systems } = setUp
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const entries = groupBy(behind.entries.map(read<StoredEntry>), (entry) => stemOf(entry.external_id ?? ''))
  const bookings = groupBy(behind.bookings, (booking) => stemOf(booking.external_id))
  const families = familiesIn(behind.families.map(read<StoredDocument>))
  const unread = unreadIn(entityId, behind.unread, behind.entries)
  const committed = committedIn(behind.served, systems)
  for (const stored of behind.documents.map(read<StoredDocument>)) {
    const system = systems.find((s) => s.row.system_id === stored.system_id)
    // What is not posted so far has a unit once it is neither draft nor void.
    if (!system || (!stored.posted && ['draft', 'void'].includes(stored.status))) continue
    const stem = externalStem(entityId, stored.system_id, stored.document_id)
    const own = stored.posted ? (entries.get(stem) ?? []) : []
    const asked = new Set<Question>()
    yield* asking.noting(asked, () => {
      const source = sourceUnit(stored, system, setUp, families(stored))
      const kept = committed(stored, source)
      const flaws = [...unread(stored), ...strangersIn(stored, system, own, ledger), ...kept.flaws]
      const behindIt = { stored, source, own, states: bookings.get(stem) ?? [] }
      return unitOf(setUp, period, { ...behindIt, committed: kept.voice, flaws, asked })
    })
  }
}

const ENTRY = [
  'system_id',
  'entry_id',
  'external_id',
  'booking_id',
  'booking_revision',
  'posting_date',
  'period',
  'voided',
  'changed_by',
] as const

/** The entries that stand behind documents, in whatever month they were posted. */
async function entriesBehind(
  { trx, entityId, systems }: Grounds,
  documents: readonly Pick<StoredDocument, 'system_id' | 'document_id'>[],
): Promise<Raw<StoredEntry>[]> {
  const ledger = systems.find((s) => s.row.role === 'ledger')
  if (!ledger) return []
  const stems = documents.map((d) => externalStem(entityId, d.system_id, d.document_id))
  return (await trx('ledger_entry')
    .where({ entity_id: entityId, system_id: ledger.row.system_id })
    .whereRaw('stem = any(?)', [stems])
    .orderBy('entry_id')
    .select(...ENTRY, trx.raw('value::text as value'))) as Raw<StoredEntry>[]
}

function unitOf(
  setUp: SetUp,
  period: string,
  {
    stored,
    source,
    own,
    states,
    committed,
    flaws,
    asked,
  }: {
    readonly stored: StoredDocument
    readonly source: SourceUnit
    readonly own: readonly StoredEntry[]
    readonly states: readonly HeldBooking[]
    readonly committed: VoiceFacts | null
    readonly flaws: readonly Flaw[]
    readonly asked: Set<Question>
  },
): Unit[] {
  const ledger = setUp.systems.find((s) => s.row.role === 'ledger')
  const main = states.find((b) => isMain(b.external_id))
  const standing = standingOf(own)
  const reversed = standing.some((entry) => isReversal(entry.external_id))
  const isVoid = stored.status === 'void'
  const isGone = isVoid && (standing.length === 0 || reversed)
  // What is void and nowhere booked is of nobody's concern, but for whoever keeps its tax.
  if (isGone && (committed === null || flaws.length === 0)) return []
  const withdrawn = main?.state === 'withdrawn' && (standing.length === 0 || reversed)
  return [
    {
      source,
      entries: own,
      period,
      stated: source.stated,
      expected: source.expected,
      committed,
      booked:
        !ledger || own.length === 0 || withdrawn
          ? []
          : bookingsOf({ standing, reversed }, ledger, setUp, source.expected),
      voided: { source: isVoid, ledger: reversed || (own.length > 0 && standing.length === 0) },
      edited: standing.some((entry) => isEdited(entry, states)),
      flaws,
      why: missingWhy(stored, main?.state),
      asked,
    },
  ]
}

function bookingsOf(
  { standing, reversed }: { readonly standing: readonly StoredEntry[]; readonly reversed: boolean },
  ledger: HeldSystem,
  setUp: SetUp,
  expected: VoiceFacts,
): VoiceFacts[] {
  const accounts = setUp.accounts()
  const read = (entries: readonly StoredEntry[]): VoiceFacts =>
    bookedUnit(entries, ledger, accounts, expected)
  if (reversed) return [read(standing)]
  const corrections = standing.filter((entry) => isCorrection(entry.external_id))
  const main = standing.filter((entry) => !isCorrection(entry.external_id))
  return main.length <= 1
    ? [read(standing)]
    : main.map((entry, at) => (at === 0 ? together([read([entry]), read(corrections)]) : read([entry])))
}

/** The ledger's revision of our own booking moved after we booked, and nobody has accepted it; a double is not our booking. */
function isEdited(entry: StoredEntry, states: readonly HeldBooking[]): boolean {
  const ours = states.find(
    (b) => b.external_id === entry.external_id && b.ledger_booking_id === entry.booking_id,
  )
  return (
    ours?.ledger_revision != null &&
    entry.booking_revision !== ours.ledger_revision &&
    entry.booking_revision !== ours.accepted_revision
  )
}
