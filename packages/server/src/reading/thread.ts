import {
  decodeCommitted,
  decodeDocument,
  type Committed,
  KINDS_OF,
  Page,
  problemOfEntry,
  RESOURCES,
  say,
  type BankLine,
  type Change,
  type JournalEntry,
  type Location,
  type Resource,
  type Settlement,
  type SourceDocument,
  type SystemRole,
} from '@axion/contract'
import { Fault, parseAmount, tradingDayOf } from '@axion/core'
import { printable, readable, type UnreadValue } from '../documents/unread.ts'
import { disorderOf } from './order.ts'

/** What the threads do, away from everything that waits: what comes from outside is made sense of here. Nothing is kept between two calls. */

/** By what values are read: as which resource of which system, into books of which currency. */
export interface ReadAs {
  readonly role: SystemRole
  readonly resource: Resource
  readonly booksCurrency: string
  /** The system's outlets by its ids: a sale's trading day is by the clock of where it was. */
  readonly places: ReadonlyMap<string, Location>
  /** Why nothing is read of any value, where that took too much before; each is said to be so. */
  readonly spoilt: string | null
}

/** A change as it is staged: a row of `staged_object`, its key aside. */
export interface StagedRow {
  readonly object_id: string
  readonly sequence: string
  readonly revision: string
  readonly removed: boolean
  /** As the contract shapes it, in exact amounts; null where it is gone, or cannot be read. */
  readonly value: unknown
  /** Why it cannot be read, and what can be read of it all the same. */
  readonly problem: string | null
  readonly readable: UnreadValue | null
  /** The day that it counts for by its outlet's clock, or its processor's. */
  readonly day: string | null
}

/** Rows as one text in JSON: whoever hands them on to the database looks into none of them. */
export interface RowsRead {
  readonly rows: string
  readonly count: number
}
export type PageRead =
  (RowsRead & { readonly next: string; readonly more: boolean }) | { readonly problem: string }

export interface PageToRead {
  /** As it was sent, in bytes of UTF-8. */
  readonly bytes: Uint8Array
  readonly after: string
  readonly limit: number
  /** Of one object alone, whatever else the page has. */
  readonly only: string | null
  readonly as: ReadAs
}

export function page({ bytes, after, limit, only, as }: PageToRead): PageRead {
  let value: unknown
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch (error) {
    return { problem: error instanceof SyntaxError ? 'it is no JSON' : 'it is not in UTF-8' }
  }
  const read = Page.safeParse(value)
  if (!read.success) {
    const [issue] = read.error.issues
    return { problem: `${issue?.path.join('.')} ${issue?.message}` }
  }
  const disorder = disorderOf(read.data, BigInt(after), limit)
  if (disorder !== null) return { problem: disorder }
  const { items, next, more } = read.data
  return {
    ...changes({ changes: only === null ? items : items.filter(({ id }) => id === only), as }),
    next,
    more,
  }
}

export interface ChangesToRead {
  readonly changes: readonly Change[]
  readonly as: ReadAs
}

/** Changes as they are staged, of an object its last: a bad one is told with where it is wrong. */
export function changes({ changes: all, as }: ChangesToRead): RowsRead {
  const last = new Map(all.map((change) => [change.id, change]))
  return { rows: JSON.stringify([...last.values()].map((change) => staged(change, as))), count: last.size }
}

function staged({ id, sequence, revision, removed, value }: Change, as: ReadAs): StagedRow {
  const row = { object_id: id, sequence, revision, removed, problem: null, readable: null, day: null }
  if (removed) return { ...row, value: null }
  const read = as.spoilt === null ? readValue(as, value) : { problem: as.spoilt }
  if ('problem' in read)
    return { ...row, value: null, problem: printable(read.problem), readable: readable(value) }
  return { ...row, value: read.value, day: dayOf(as, read.value) }
}

type ValueRead = { readonly value: unknown } | { readonly problem: string }

function readValue({ role, resource, booksCurrency }: ReadAs, value: unknown): ValueRead {
  const read = RESOURCES[resource].safeParse(value)
  if (!read.success) {
    const [issue] = read.error.issues
    return { problem: `${issue?.path.join('.') || 'it'} ${issue?.message ?? ''}` }
  }
  try {
    if (resource === 'documents') {
      const document = read.data as SourceDocument
      if (!KINDS_OF[role].includes(document.kind))
        return { problem: `kind "${document.kind}" is none that a ${role} system has` }
      decodeDocument(document)
    }
    if (resource === 'committed') decodeCommitted(read.data as Committed)
    if (resource === 'settlements')
      for (const text of [(read.data as Settlement).amount, (read.data as Settlement).fee])
        parseAmount(text, (read.data as Settlement).currency)
    if (resource === 'bank-lines')
      parseAmount((read.data as BankLine).amount, (read.data as BankLine).currency)
    if (resource === 'journal-entries') {
      const problem = problemOfEntry(read.data as JournalEntry, booksCurrency)
      if (problem !== null) return { problem }
    }
    return { value: read.data }
  } catch (error) {
    if (error instanceof Fault) return { problem: say(error.code, error.facts).says.replace(/\.$/, '') }
    throw error
  }
}

/** The trading day of a sale is worked out once, when it is read: by its outlet's clock and cut-off where it names one. */
function dayOf({ resource, places }: ReadAs, value: unknown): string | null {
  if (resource === 'documents') {
    const { soldAt, locationId, documentDate } = value as SourceDocument
    const place = locationId === null ? undefined : places.get(locationId)
    return soldAt === null || !place
      ? documentDate
      : tradingDayOf(soldAt, place.timeZone, place.cutOff).tradingDay
  }
  if (resource === 'bank-lines') return (value as BankLine).bookedOn
  // A processor's instant carries its own offset: the day is the one that stood on its clock.
  if (resource === 'settlements') return (value as Settlement).at.slice(0, 10)
  return null
}
