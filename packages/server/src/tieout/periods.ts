/** The last day of a calendar month, "2026-09" to "2026-09-30". */
export function lastDayOf(period: string): string {
  const [year = 0, month = 0] = period.split('-').map(Number)
  return new Date(Date.UTC(year, month, 0)).toISOString().slice(0, 10)
}

/** The day after a date. */
export function dayAfter(date: string): string {
  const [year = 0, month = 1, day = 1] = date.split('-').map(Number)
  return new Date(Date.UTC(year, month - 1, day + 1)).toISOString().slice(0, 10)
}

export const PERIOD = /^\d{4}-(0[1-9]|1[0-2])$/

/** A text to be found anywhere, for SQL's LIKE: its own wildcards stand for themselves. */
export function likePattern(text: string): string {
  return `%${text.replace(/[\\%_]/g, '\\$&')}%`
}
