import type { MinorUnits } from '../money/currency.ts'
import type { Baseline } from './baseline.ts'
import { covers, type IsoDate } from './dates.ts'
import type { CollectingAnswer } from './registering.ts'

/** What a month shows of a country or region, whoever said what of it. */
export interface Shown {
  /** Documents that were sold there by the entity itself, and by a marketplace that collects for it. */
  readonly own: number
  readonly marketplace: number
  /** Tax that the entity's own documents charged for what lies in it. */
  readonly charged: MinorUnits
  readonly registered: boolean
}

/**
 * Whether what was said of a place agrees with what is seen there: `agrees`; `unsaid` where something is sold, and nobody said or
 * registered; `quiet` where nothing is.
 * `not-registered`: the entity collects, and holds no registration. `charged`: tax was charged where it does not collect. `registered`: it is registered where nobody
 * has to. `own-sales`: somebody else collects, and it sold by itself.
 */
export type CollectingStanding =
  'agrees' | 'unsaid' | 'quiet' | 'not-registered' | 'charged' | 'registered' | 'own-sales'

export function collectingStanding(
  answer: CollectingAnswer | null,
  { own, marketplace, charged, registered }: Shown,
): CollectingStanding {
  // Whoever registered says that they collect.
  if (answer === null && !registered) return own + marketplace > 0 ? 'unsaid' : 'quiet'
  if (answer === null || answer === 'we') return registered ? 'agrees' : 'not-registered'
  if (charged !== 0n) return 'charged'
  if (answer === 'nobody') return registered ? 'registered' : 'agrees'
  return own > 0 ? 'own-sales' : 'agrees'
}

/** What was said of a place on a day: of itself, else of what it lies in; null where nobody said. */
export function answerOn(
  { jurisdictions, collecting }: Pick<Baseline, 'jurisdictions' | 'collecting'>,
  jurisdictionId: string,
  day: IsoDate,
): { readonly answer: CollectingAnswer; readonly of: string } | null {
  const parents = new Map(jurisdictions.map(({ id, parentId }) => [id, parentId]))
  const seen = new Set<string>()
  for (let at: string | null = jurisdictionId; at !== null && !seen.has(at);) {
    seen.add(at)
    const place: string = at
    const said = collecting.find((one) => one.jurisdictionId === place && covers(one.valid, day))
    if (said) return { answer: said.answer, of: place }
    at = parents.get(place) ?? null
  }
  return null
}
