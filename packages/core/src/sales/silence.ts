import type { IsoDate } from '../baseline/dates.ts'

/** A stream of documents that stopped: since when nothing came, and how many come on such a day otherwise. */
export interface Silence {
  readonly since: IsoDate
  /** Days without any, up to the last that was looked at. */
  readonly days: number
  /** Documents on the same weekdays before, the fewest and the most. */
  readonly usual: { readonly least: number; readonly most: number }
}

/** So many days are looked back on, and so many of them must have had documents before anything is expected. */
export const WATCHED_DAYS = 56
const KNOWN_AFTER = 5
const DAY = 86_400_000

/** Fewer than every other day, and at no steady pace: its next pause may well be its longest. */
function isNowAndThen(pauses: readonly number[], span: number): boolean {
  const inOrder = [...pauses].sort((a, b) => a - b)
  const middle = inOrder[Math.floor(inOrder.length / 2)] ?? 1
  return (pauses.length + 1) * 2 < span && (inOrder.at(-1) ?? 1) >= 2 * middle
}

/**
 * Whether a stream is silent (A5): the days since its last document are as many as its longest pause in eight weeks, so that the next
 * one comes later than any before. A shop that sells every day is silent after one day; one that opens on Saturdays, after a week; one that sells now and
 * then, after twice its longest pause.
 * @param received documents by day; days without any may be left out
 * @param last the last day that is over
 */
export function silenceOf(received: ReadonlyMap<IsoDate, number>, last: IsoDate): Silence | null {
  const end = Date.parse(last)
  const active = [...received]
    .filter(([day, many]) => many > 0 && Date.parse(day) <= end && Date.parse(day) > end - WATCHED_DAYS * DAY)
    .sort(([a], [b]) => (a < b ? -1 : 1))
  const [since] = active.at(-1) ?? [last]
  if (active.length < KNOWN_AFTER) return null
  const days = active.map(([day]) => Date.parse(day))
  const pauses = days.slice(1).map((day, at) => (day - (days[at] as number)) / DAY)
  const quiet = (end - (days.at(-1) as number)) / DAY
  const longest = Math.max(1, ...pauses)
  if (quiet < (isNowAndThen(pauses, (end - (days[0] as number)) / DAY) ? 2 * longest : longest)) return null
  const weekdays = new Set(
    Array.from({ length: Math.min(7, quiet) }, (_, at) => new Date(end - at * DAY).getUTCDay()),
  )
  const alike = active.filter(([day]) => weekdays.has(new Date(day).getUTCDay())).map(([, many]) => many)
  const usual = alike.length > 0 ? alike : active.map(([, many]) => many)
  return {
    since,
    days: quiet,
    usual: { least: Math.min(...usual), most: Math.max(...usual) },
  }
}
