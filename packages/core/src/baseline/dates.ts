import { fault } from '../faults.ts'

/** A calendar date, ISO 8601 "2026-09-17". Dates compare as strings. */
export type IsoDate = string
/** A calendar month, "2026-09". */
export type Period = string

/** A span of dates of which both ends count; an open end is null. */
export interface DateRange {
  readonly from: IsoDate
  readonly to: IsoDate | null
}

export function covers(range: DateRange, date: IsoDate): boolean {
  return range.from <= date && (range.to === null || date <= range.to)
}

/** Whether a day lies in both. */
export function overlap(a: DateRange, b: DateRange): boolean {
  return (b.to === null || a.from <= b.to) && (a.to === null || b.from <= a.to)
}

export function periodOf(date: IsoDate): Period {
  return date.slice(0, 7)
}

/** Whether the text is a date that the calendar has: "2026-02-30" is none. */
export function isDate(text: string): boolean {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text)
  if (!match) return false
  const instant = new Date(`${text}T00:00:00Z`)
  return !Number.isNaN(instant.getTime()) && instant.toISOString().startsWith(text)
}

/** @throws AXION_NOT_A_DATE */
export function requireDate(text: string): IsoDate {
  if (!isDate(text)) throw fault('AXION_NOT_A_DATE', { text })
  return text
}

/** The calendar month before that of a date or month. @example monthBefore('2026-01-15') // '2025-12' */
export function monthBefore(date: IsoDate | Period): Period {
  const [year = 0, month = 1] = date.split('-').map(Number)
  return month === 1 ? named(year - 1, 12) : named(year, month - 1)
}

/** The calendar month after that of a date or month. */
export function monthAfter(date: IsoDate | Period): Period {
  const [year = 0, month = 1] = date.split('-').map(Number)
  return month === 12 ? named(year + 1, 1) : named(year, month + 1)
}

function named(year: number, month: number): Period {
  return `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}`
}
