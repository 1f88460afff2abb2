import { periodOf, type IsoDate } from '../baseline/dates.ts'

/** When a sale counts (K5): the day on the outlet's calendar, and the day that it is traded under. */
export interface TradingDay {
  readonly calendarDay: IsoDate
  readonly tradingDay: IsoDate
  /** The two stand in different months: a return by the one differs from a return by the other. */
  readonly acrossMonths: boolean
}

/**
 * The outlet's wall clock decides: before the cut-off it is still the day before. A cut-off in an hour that the clocks skip falls
 * on the jump, since nobody reads a time in it; in an hour that comes twice the reading decides, both times.
 * @param soldAt an ISO 8601 instant with its offset
 * @param timeZone the outlet's IANA zone
 * @param cutOff a time of day, `HH:MM`; null where the day ends at midnight
 */
export function tradingDayOf(soldAt: string, timeZone: string, cutOff: string | null): TradingDay {
  const { day: calendarDay, time } = wallClock(soldAt, timeZone)
  const tradingDay = cutOff !== null && time < cutOff ? dayBefore(calendarDay) : calendarDay
  return { calendarDay, tradingDay, acrossMonths: periodOf(calendarDay) !== periodOf(tradingDay) }
}

function wallClock(instant: string, timeZone: string): { readonly day: IsoDate; readonly time: string } {
  const parts = new Map(new Intl.DateTimeFormat('en-GB', { timeZone, year: 'numeric', month: '2-digit', day: '2-digit', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })
    .formatToParts(new Date(instant)).map(({ type, value }) => [type, value]))
  const of = (type: Intl.DateTimeFormatPartTypes): string => parts.get(type) ?? ''
  return { day: `${of('year')}-${of('month')}-${of('day')}`, time: `${of('hour')}:${of('minute')}` }
}

function dayBefore(day: IsoDate): IsoDate {
  const date = new Date(`${day}T00:00:00Z`)
  date.setUTCDate(date.getUTCDate() - 1)
  return date.toISOString().slice(0, 10)
}
