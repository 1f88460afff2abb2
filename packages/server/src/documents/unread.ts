import type { Columns } from '../database/row.ts'
import { saying, date as keptDate, type Resource } from '@axion/contract'

/** An object that could not be read: why, what could be read of it, and where it stands in its system's sequence. */
export interface UnreadRow extends Columns<
  'finding',
  'resource' | 'code' | 'facts' | 'sequence' | 'value' | 'period' | 'found_at'
> {
  readonly resource: Resource
  readonly code: 'AXION_BAD_OBJECT'
  readonly facts: Readonly<Record<string, string>>
  readonly sequence: string
  readonly value: UnreadValue
  /** The month that it shows in: its own where its date could be read, else the one that was worked in. */
  readonly period: string
}

/** What could be read of an object; null where it could not. */
export interface UnreadValue {
  readonly number: string | null
  readonly party: string | null
  readonly date: string | null
  readonly externalId: string | null
}

const MOST = 100

/** What is known of an object that could not be read. */
export interface UnreadObject {
  readonly id: string
  readonly sequence: string
  readonly problem: string
  readonly value: UnreadValue
}

/** @param month that it shows in, where its own date could not be read */
export function unreadRow(
  system: string,
  resource: Resource,
  { id, sequence, problem, value, month }: UnreadObject & { readonly month: string },
): UnreadRow {
  const label = value.number ?? id
  return {
    ...saying('AXION_BAD_OBJECT', {
      system,
      object: `${resource.replaceAll('-', ' ')} ${label}`.trim(),
      label,
      problem: printable(problem, 400),
    }),
    resource,
    sequence,
    value,
    period: value.date === null ? month : value.date.slice(0, 7),
    found_at: new Date(),
  }
}

/** What can be read of an object, whatever shape it has. */
export function readable(value: unknown): UnreadValue {
  const of = (typeof value === 'object' && value !== null ? value : {}) as Record<string, unknown>
  const text = (one: unknown): string | null =>
    typeof one === 'string' && one !== '' ? printable(one, MOST) : null
  const date = text(of['documentDate']) ?? text(of['postingDate'])
  const party = of['party']
  return {
    number: text(of['number']) ?? text(of['name']),
    party: typeof party === 'object' && party !== null ? text((party as { name?: unknown }).name) : null,
    date: keptDate.safeParse(date).success ? date : null,
    externalId: text(of['externalId']),
  }
}

/** PostgreSQL takes neither NUL nor a lone surrogate, of which a cut may leave one. */
export function printable(text: string, most = Infinity): string {
  return text.replaceAll('\u0000', '').slice(0, most).toWellFormed()
}
