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

/** The last day of a calendar month. @example lastDayOf('2024-02') // '2024-02-29' */
export function lastDayOf(period: Period): IsoDate {
  return dayBefore(`${monthAfter(period)}-01`)
}

/** So many days after a date, or before it. @example daysFrom('2026-03-01', -1) // '2026-02-28' */
export function daysFrom(date: IsoDate, days: number): IsoDate {
  return new Date(Date.parse(`${date}T00:00:00Z`) + days * DAY_MS).toISOString().slice(0, 10)
}

export function dayBefore(date: IsoDate): IsoDate {
  return daysFrom(date, -1)
}

export function dayAfter(date: IsoDate): IsoDate {
  return daysFrom(date, 1)
}

const DAY_MS = 86_400_000

function named(year: number, month: number): Period {
  return `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}`
}
