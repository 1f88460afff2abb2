/** The kinds of set-up that are aligned, each with its rows and how a system's object is held against one. */
import type { AlignKind } from '@axion/contract'
import { ACCOUNTS } from './accounts.ts'
import { AGENCIES } from './agencies.ts'
import { CODES } from './codes.ts'
import { DIMENSIONS } from './dimensions.ts'
import { ITEMS } from './items.ts'
import type { KindOfSetUp } from './kind.ts'
import { LOCATIONS } from './locations.ts'
import { METHODS } from './methods.ts'
import { PARTIES } from './parties.ts'
import { RATES } from './rates.ts'

export const KINDS: Readonly<Record<AlignKind, KindOfSetUp>> = {
  rates: RATES,
  agencies: AGENCIES,
  codes: CODES,
  items: ITEMS,
  parties: PARTIES,
  accounts: ACCOUNTS,
  methods: METHODS,
  locations: LOCATIONS,
  dimensions: DIMENSIONS,
}
export type { Compared, Found, GridBasis, KindOfSetUp, BaselineRow, AlignedSystem } from './kind.ts'
