import type { MinorUnits } from '../money/currency.ts'
import type { DateRange } from './dates.ts'

/** With whom the entity is registered, from how much on a region wants it, and who collects there. */
export interface Registration {
  readonly id: string
  readonly agencyId: string
  readonly number: string
  /** Accrual or cash; null where nobody said. */
  readonly basis: 'accrual' | 'cash' | null
  readonly frequency: 'month' | 'quarter' | 'half-year' | 'year' | null
  readonly valid: DateRange
}

/** From how much, or how many, a region wants registration (K16): either alone suffices. */
export interface RegistrationThreshold {
  readonly id: string
  readonly jurisdictionId: string
  /** Sales in twelve months, in minor units; null where only their number counts. */
  readonly sales: MinorUnits | null
  readonly transactions: number | null
  readonly currency: string | null
  readonly valid: DateRange
}

/** Who collects tax where the entity sells: itself; somebody else, as a marketplace; or nobody has to yet. */
export const COLLECTING_ANSWERS = ['we', 'another', 'nobody'] as const
export type CollectingAnswer = (typeof COLLECTING_ANSWERS)[number]

/** What was said of a country or region. It decides no tax: registrations do. */
export interface Collecting {
  readonly id: string
  readonly jurisdictionId: string
  readonly answer: CollectingAnswer
  readonly why: string | null
  readonly valid: DateRange
}
