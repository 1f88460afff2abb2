import { dayBefore, periodOf, type IsoDate } from '../baseline/dates.ts'

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
  const parts = new Map(
    new Intl.DateTimeFormat('en-GB', {
      timeZone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      hourCycle: 'h23',
    })
      .formatToParts(new Date(instant))
      .map(({ type, value }) => [type, value]),
  )
  const of = (type: Intl.DateTimeFormatPartTypes): string => parts.get(type) ?? ''
  return { day: `${of('year')}-${of('month')}-${of('day')}`, time: `${of('hour')}:${of('minute')}` }
}

/** A sale as a source dated it. */
export interface DatedSale {
  readonly number: string
  readonly soldAt: string
  readonly timeZone: string
  readonly date: IsoDate
}

/** When the day of a source ends, as its own sales show (K17): after `after`, and at `until` at the latest; null where no sale tells. */
export interface LearntCutOff {
  readonly after: string | null
  readonly until: string | null
  /** Sales that no cut-off dates so, by number. */
  readonly odd: readonly string[]
}

/**
 * Every cut-off that dates all sales as their source did, as one span of times. A sale dated to the day before is before the cut-off, one
 * dated to its own day is not. Where no cut-off fits all, the span is that of the fewest exceptions, and these are named.
 */
export function learnCutOff(sales: readonly DatedSale[]): LearntCutOff {
  const read = sales.map((sale) => {
    const { day, time } = wallClock(sale.soldAt, sale.timeZone)
    return {
      number: sale.number,
      time,
      side:
        sale.date === day
          ? ('own' as const)
          : sale.date === dayBefore(day)
            ? ('before' as const)
            : ('neither' as const),
    }
  })
  const times = [...new Set(read.filter((sale) => sale.side !== 'neither').map((sale) => sale.time))].sort()
  const oddAt = (cutOff: string): string[] =>
    read
      .filter(({ time, side }) => side === 'neither' || (side === 'own') !== time >= cutOff)
      .map((sale) => sale.number)
  // Between two readings every cut-off does the same: the start of the day, and just after each reading.
  const candidates = [null, ...times].map((after, at) => ({ after, until: times[at] ?? null }))
  const tried = candidates.map((span) => ({ ...span, odd: oddAt(span.until ?? '24:00') }))
  return tried.reduce(
    (least, one) => (one.odd.length < least.odd.length ? one : least),
    tried[0] as LearntCutOff,
  )
}

/** Whether a cut-off, or midnight where it is null, lies within a span. */
export function fitsCutOff(
  cutOff: string | null,
  { after, until }: Pick<LearntCutOff, 'after' | 'until'>,
): boolean {
  const at = cutOff ?? '00:00'
  return (after === null || at > after) && (until === null || at <= until)
}
