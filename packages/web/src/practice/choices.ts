import { iso31661 } from 'iso-3166'

/** What a legal entity is founded with, as there is to choose from: countries by ISO 3166, currencies by ISO 4217, zones by the IANA. */
export interface Choice {
  readonly code: string
  readonly name: string
}

const named = (codes: readonly string[], type: 'region' | 'currency'): Choice[] => {
  const names = new Intl.DisplayNames('en', { type })
  return codes
    .map((code) => ({ code, name: names.of(code) ?? code }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en'))
}

export const COUNTRIES: readonly Choice[] = named(
  iso31661.map(({ alpha2 }) => alpha2),
  'region',
)
export const CURRENCIES: readonly Choice[] = named(Intl.supportedValuesOf('currency'), 'currency')
export const TIME_ZONES: readonly string[] = Intl.supportedValuesOf('timeZone')

/** Ways of writing figures and dates to begin from; any BCP 47 tag may be written instead. */
export const LOCALES: readonly string[] = [
  ...['en-US', 'en-GB', 'en-CA', 'en-AU', 'en-IE', 'en-NZ', 'en-ZA', 'en-IN'],
  ...['de-DE', 'de-AT', 'de-CH', 'fr-FR', 'fr-CA', 'fr-CH', 'es-ES', 'es-MX', 'pt-BR', 'pt-PT', 'it-IT'],
  ...['nl-NL', 'sv-SE', 'da-DK', 'nb-NO', 'fi-FI', 'pl-PL', 'cs-CZ', 'ja-JP', 'ko-KR', 'zh-CN'],
]

export const MONTHS: readonly Choice[] = Array.from({ length: 12 }, (_, at) => ({
  code: String(at + 1),
  name: new Intl.DateTimeFormat('en', { month: 'long', timeZone: 'UTC' }).format(
    new Date(Date.UTC(2026, at)),
  ),
}))

/** A figure and a day as a locale writes them; null where it is none. */
export function sampleOf(locale: string): string | null {
  try {
    const figure = new Intl.NumberFormat(locale, { minimumFractionDigits: 2 }).format('-1284.16')
    const day = new Intl.DateTimeFormat(locale, { dateStyle: 'long', timeZone: 'UTC' }).format(
      new Date('2026-09-30T00:00:00Z'),
    )
    return `${figure.replace('-', '−')} · ${day}`
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}
