/** The kinds of set-up that are aligned, each with its rows and how a system's object is held against one. */
import type { AlignKind } from '@axion/contract'
import { ACCOUNTS } from './accounts.ts'
import { AGENCIES } from './agencies.ts'
import { CODES } from './codes.ts'
import { ITEMS } from './items.ts'
import type { KindOfSetUp } from './kind.ts'
import { PARTIES } from './parties.ts'
import { RATES } from './rates.ts'

export const KINDS: Readonly<Record<AlignKind, KindOfSetUp>> = { rates: RATES, agencies: AGENCIES, codes: CODES, items: ITEMS, parties: PARTIES, accounts: ACCOUNTS }
export type { Compared, Found, Ground, KindOfSetUp, Row, Walked } from './kind.ts'
