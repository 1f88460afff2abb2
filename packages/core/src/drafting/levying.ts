import type { Agencies } from './agencies.ts'
import type { Choices } from './decision.ts'
import type { Given } from './given.ts'
import type { Places } from './places.ts'
import type { Rates } from './rates.ts'
import type { RegionSeen } from './standards.ts'
import type { CodeSeen } from './treatments.ts'

/** What decisions about who is owed what, and where, are read from. */
export interface Levying {
  readonly given: Given
  readonly agencies: Agencies
  readonly rates: Rates
  readonly regions: readonly RegionSeen[]
  readonly places: Places
  readonly codes: readonly CodeSeen[]
  readonly choices: Choices
}
