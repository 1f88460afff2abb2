import { computed } from 'vue'
import { useMonth } from '../shell/month.ts'

const NIL = /^-?0*\.?0*$/

/** How this entity writes amounts, dates and instants. Amounts stay text: they are never read into a float. */
export function useFormat() {
  const { entity } = useMonth()
  return computed(() => {
    const { locale, timeZone } = entity.value
    const amounts = new Map<number, Intl.NumberFormat>()
    const formatOf = (digits: number): Intl.NumberFormat => {
      const known =
        amounts.get(digits) ??
        new Intl.NumberFormat(locale, { minimumFractionDigits: digits, maximumFractionDigits: digits })
      amounts.set(digits, known)
      return known
    }
    const day = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', timeZone: 'UTC' })
    const longDay = new Intl.DateTimeFormat(locale, {
      day: 'numeric',
      month: 'long',
      year: 'numeric',
      timeZone: 'UTC',
    })
    const month = new Intl.DateTimeFormat(locale, { month: 'long', year: 'numeric', timeZone: 'UTC' })
    const instant = new Intl.DateTimeFormat(locale, {
      day: 'numeric',
      month: 'short',
      hour: 'numeric',
      minute: '2-digit',
      timeZone,
    })
    const amount = (text: string): string =>
      formatOf(text.split('.')[1]?.length ?? 0)
        .format(text as Intl.StringNumericLiteral)
        .replace('-', '−')
    return {
      /** "1284.16" as the locale writes it, with one minus style. */
      amount,
      /** The same, and a dash where nobody says. */
      figure: (text: string | null): string => (text === null ? '–' : amount(text)),
      signed: (text: string): string => `${text.startsWith('-') ? '' : '+'}${amount(text)}`,
      day: (iso: string): string => day.format(new Date(`${iso}T00:00:00Z`)),
      longDay: (iso: string): string => longDay.format(new Date(`${iso}T00:00:00Z`)),
      month: (iso: string): string => month.format(new Date(`${iso}-01T00:00:00Z`)),
      instant: (iso: string): string => instant.format(new Date(iso)),
    }
  })
}

export function isNil(text: string): boolean {
  return NIL.test(text)
}

/** "1 document", "2 documents". */
export function count(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString('en-US')} ${n === 1 ? one : many}`
}

/** The first few of many names, and how many more there are. */
export function fewOf(names: readonly string[], most: number): string {
  const more = names.length - most
  return `${names.slice(0, most).join(', ')}${more > 0 ? ` and ${more.toLocaleString('en-US')} more` : ''}`
}

/** Of a month in which nothing is open: what is kept or given back is not proved, nor is what is not posted yet; both are named beside it. */
export function provedWord({
  apart,
  notYet,
  resting,
}: {
  readonly apart: number
  readonly notYet: number
  readonly resting: boolean
}): string {
  const n = (of: number): string => of.toLocaleString('en-US')
  const beside = [apart > 0 ? `${n(apart)} apart` : '', notYet > 0 ? `${n(notYet)} not posted yet` : '']
  return [resting ? 'proved as systems have it' : 'proved', ...beside.filter(Boolean)].join(', ')
}
