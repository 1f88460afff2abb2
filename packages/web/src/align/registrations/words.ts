import type { CollectingView } from '@axion/contract'

type Row = CollectingView['rows'][number]

export const ANSWER_WORDS: Readonly<Record<NonNullable<Row['answer']>, string>> = {
  we: 'we collect',
  another: 'somebody else collects',
  nobody: 'nobody has to yet',
}

/** How what was said of a place stands to what is seen there. */
export const COLLECTING_MARKS: Readonly<
  Record<Row['standing'], { readonly state: 'holds' | 'breaks' | 'open' | 'asks'; readonly word: string }>
> = {
  agrees: { state: 'holds', word: 'agrees' },
  unsaid: { state: 'asks', word: 'nobody said' },
  quiet: { state: 'open', word: 'nothing sold' },
  'not-registered': { state: 'breaks', word: 'not registered' },
  charged: { state: 'breaks', word: 'charged all the same' },
  registered: { state: 'breaks', word: 'registered all the same' },
  'own-sales': { state: 'breaks', word: 'sales of its own' },
}

/** What somebody has to look at. */
export function isApart({ standing }: Row): boolean {
  return COLLECTING_MARKS[standing].state === 'breaks'
}

/** The days of a span, where it has any: what holds since the first day of all says nothing of it. */
export function daysText(
  { from, to }: { readonly from: string; readonly to: string | null },
  day: (iso: string) => string,
): string {
  return [from <= '1900-01-01' ? '' : `from ${day(from)}`, to === null ? '' : `until ${day(to)}`]
    .filter(Boolean)
    .join(' ')
}
