import type { RoundingPlace } from '../../baseline/baseline.ts'
import { assuming, type Cause } from './cause.ts'

/** Rounded at another place. */
export interface OtherRounding {
  readonly kind: 'rounding'
  readonly place: RoundingPlace
}

export const roundingPlace: Cause<OtherRounding, RoundingPlace> = {
  kind: 'rounding',
  rank: () => 14,
  key: ({ place }) => [place.level, place.unit, place.tie],
  candidates: ({ determination: { rounding } }) =>
    rounding ? otherPlaces(rounding).map((place) => ({ kind: 'rounding', place })) : [],
  apply: ({ place }, on) => assuming(on, { rounding: place }),
  facts: ({ place }) => place,
  says: (f) => `${f.system} rounds ${UNIT[f.unit]} by ${LEVEL[f.level]}, ${TIE_WORDS[f.tie]}.`,
}

const LEVEL = { unit: 'single unit', line: 'line', document: 'document' } as const
const UNIT = { component: 'each component', combined: 'the combined rate' } as const

/** How what is over a minor unit is settled, in words. */
export const TIE_WORDS = {
  'half-away': 'halves away from nil',
  'half-even': 'halves to even',
  truncate: 'cut off',
} as const

const keysOf = <K extends string>(words: Readonly<Record<K, string>>): K[] => Object.keys(words) as K[]

/** Every other place of K1: another level or unit, or another tie mode with both as they are. */
export function otherPlaces(own: RoundingPlace): RoundingPlace[] {
  const places = keysOf(LEVEL).flatMap((level) => keysOf(UNIT).map((unit) => ({ level, unit, tie: own.tie })))
  return [...places, ...keysOf(TIE_WORDS).map((tie) => ({ ...own, tie }))].filter(
    (place) => place.level !== own.level || place.unit !== own.unit || place.tie !== own.tie,
  )
}
