import type { Place } from '../shared/sale.ts'
import { CAIRNMOUTH, LENNOX, MERROW, QUILLBY } from './places.ts'

/** How Larkspur is paid and pays: code, name, kind, and the account that it is cleared in. */
export const METHODS = [
  ['CASH', 'Cash', 'cash', '1060'],
  ['CARD', 'Card', 'card', '1071'],
  ['GIFT', 'Gift card', 'gift-card', '2400'],
  ['WEB-CARD', 'Card on the web', 'card', '1072'],
  ['MARKET', 'Commonfair balance', 'other', '1073'],
  ['TRANSFER', 'Bank transfer', 'transfer', '1000'],
  ['YARD-CARD', 'Company card, yard', 'card', '2450'],
] as const

export interface Outlet {
  readonly code: string
  /** What the tills know it by. */
  readonly till: string | null
  readonly name: string
  readonly place: Place
  readonly cutOff: string | null
}
/** Three outlets in three jurisdictions, one of them open past midnight, and the warehouse that the web shop sends from. */
export const OUTLETS: readonly Outlet[] = [
  { code: 'YARD', till: 'loc_quillby', name: 'Quillby yard', place: QUILLBY, cutOff: null },
  { code: 'QUAY', till: 'loc_quay', name: 'Port Lennox quay', place: LENNOX, cutOff: '03:00' },
  { code: 'MARKET', till: 'loc_merrow', name: 'Merrow market', place: MERROW, cutOff: null },
  { code: 'WH', till: null, name: 'Quillby warehouse', place: QUILLBY, cutOff: null },
]
/** Where Larkspur stands for a week in October. The baseline was never told in which region that is. */
export const FAIR = {
  code: 'FAIR',
  till: 'loc_fair',
  name: 'Cairnmouth autumn fair',
  place: CAIRNMOUTH,
} as const
/** What was linked to the yard's card, and has been taken out of purchasing since. */
export const OLD_CARD = {
  id: 'pm_card_old',
  name: 'Yard card, old number',
  kind: 'card',
  maskedNumber: '****3308',
  stoodFor: 'YARD-CARD',
} as const
export const DEPARTMENTS = [
  ['YARD', 'Yard and outlets'],
  ['WEB', 'Web shop'],
  ['INSP', 'Inspections'],
] as const
