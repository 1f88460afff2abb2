import type { AgreedKind, AgreedView } from '@axion/contract'

/** Kinds of the baseline as somebody looks for them. */
export const KIND_GROUPS: readonly { readonly title: string; readonly kinds: readonly AgreedKind[] }[] = [
  {
    title: 'Where, and how much',
    kinds: ['jurisdictions', 'rateVersions', 'combinedRates', 'roundings', 'regionRules'],
  },
  { title: 'Whose tax it is', kinds: ['agencies', 'registrations', 'collecting', 'thresholds'] },
  { title: 'What is sold', kinds: ['itemTaxCodes', 'codeRules', 'items'] },
  { title: 'To whom', kinds: ['parties', 'certificates'] },
  { title: 'In the books', kinds: ['postingRules', 'paymentMethods', 'locations', 'dimensions'] },
]

/** One of a kind, and many of it, in words. */
export const KIND_NAMES: Readonly<Record<AgreedKind, readonly [one: string, many: string]>> = {
  jurisdictions: ['jurisdiction', 'jurisdictions'],
  rateVersions: ['rate', 'rates'],
  combinedRates: ['combined rate', 'combined rates'],
  roundings: ['rounding place', 'rounding places'],
  regionRules: ['region rule', 'region rules'],
  agencies: ['agency', 'agencies'],
  registrations: ['registration', 'registrations'],
  collecting: ['answer on who collects', 'answers on who collects'],
  thresholds: ['threshold', 'thresholds'],
  itemTaxCodes: ['item tax code', 'item tax codes'],
  codeRules: ['code rule', 'code rules'],
  items: ['item', 'items'],
  parties: ['party', 'parties'],
  certificates: ['certificate', 'certificates'],
  postingRules: ['posting rule', 'posting rules'],
  paymentMethods: ['payment method', 'payment methods'],
  locations: ['outlet', 'outlets'],
  dimensions: ['dimension value', 'dimension values'],
}

export type Field = AgreedView['fields'][number]
type Cells = Readonly<Record<string, string>>

/** A cell as it is read: places by their narrowest part, words without their hyphens. */
export function cellText({ type, words }: Field, cell: string): string {
  if (type === 'covers') return placesText(cell)
  if (type === 'list')
    return cell
      .split(';')
      .map((part) => part.trim())
      .filter(Boolean)
      .join(', ')
  return words === null ? cell : cell.replaceAll('-', ' ')
}

/** "XA/XA-WN//30417; XA/XA-WN//30418" as "30417, 30418". */
function placesText(cell: string): string {
  const places = placesOf(cell)
  return places
    .map(({ country, region, city, postalCode, plus4 }) => {
      const narrow = postalCode ? [postalCode, plus4].filter(Boolean).join(' ') : city
      return narrow || region || country
    })
    .join(', ')
}

/** One place of a jurisdiction's bounds, as it is typed. */
export interface PlaceDraft {
  country: string
  region: string
  city: string
  postalCode: string
  /** Of a postal code: the further digits, "0000-0499". */
  plus4: string
}

const PARTS = ['country', 'region', 'city', 'postalCode', 'plus4'] as const
const SIGNS = /[%/;]/g

/** A cell of places, place by place. */
export function placesOf(cell: string): PlaceDraft[] {
  return cell
    .split(';')
    .filter((text) => text.trim() !== '')
    .map((text) => {
      const parts = text.split('/').map((part) => decodeSigns(part.trim()))
      return Object.fromEntries(PARTS.map((name, at) => [name, parts[at] ?? ''])) as unknown as PlaceDraft
    })
}

/** The same back as a cell. */
export function cellOfPlaces(places: readonly PlaceDraft[]): string {
  return places
    .map((place) =>
      PARTS.map((name) => place[name].trim().replace(SIGNS, encodeURIComponent))
        .join('/')
        .replace(/\/+$/, ''),
    )
    .filter(Boolean)
    .join('; ')
}

const decodeSigns = (text: string): string =>
  text.replace(/%(25|2F|3B)/gi, (signs) => decodeURIComponent(signs))

/** Fields that any of the rows fills, so that no column stands empty. */
export function filledIn(fields: readonly Field[], rows: readonly { readonly cells: Cells }[]): Field[] {
  return fields.filter(({ path }) => rows.some(({ cells }) => (cells[path] ?? '') !== ''))
}

/** Columns that are figures: they stand under each other by their last digit. */
const FIGURES: ReadonlySet<string> = new Set([
  ...['percent', 'perUnit', 'threshold.limit', 'cap', 'recoverable', 'sales', 'transactions'],
])
export const isFigure = ({ path }: Field): boolean => FIGURES.has(path)

export const STATE_MARKS = {
  holds: { state: 'holds', word: 'holds' },
  coming: { state: 'open', word: 'begins later' },
  ended: { state: 'open', word: 'ended' },
} as const
