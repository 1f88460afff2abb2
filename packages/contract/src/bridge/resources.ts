import { JournalEntry } from './books.ts'
import { SourceDocument } from './documents.ts'
import type { SystemRole } from './kinds.ts'
import { Committed } from './committed.ts'
import { BankLine, Settlement } from './money.ts'
import {
  Account,
  Agency,
  Dimension,
  Item,
  ItemTaxCodeObject,
  Location,
  Party,
  PaymentMethod,
  TaxRate,
} from './setUp.ts'

/** The resources that a bridge offers, each with the shape of its values. */
export const RESOURCES = {
  agencies: Agency,
  'tax-rates': TaxRate,
  accounts: Account,
  items: Item,
  parties: Party,
  'item-tax-codes': ItemTaxCodeObject,
  'payment-methods': PaymentMethod,
  locations: Location,
  dimensions: Dimension,
  documents: SourceDocument,
  'journal-entries': JournalEntry,
  settlements: Settlement,
  'bank-lines': BankLine,
  committed: Committed,
} as const

export type Resource = keyof typeof RESOURCES

/** What a bridge of a role offers at least. */
export const RESOURCES_OF: Readonly<Record<SystemRole, readonly Resource[]>> = {
  ledger: ['accounts', 'agencies', 'tax-rates', 'journal-entries'],
  billing: ['agencies', 'tax-rates', 'items', 'parties', 'documents'],
  pos: ['agencies', 'tax-rates', 'items', 'payment-methods', 'locations', 'documents'],
  commerce: ['agencies', 'tax-rates', 'items', 'parties', 'payment-methods', 'locations', 'documents'],
  purchasing: ['agencies', 'tax-rates', 'parties', 'payment-methods', 'documents'],
  payments: ['payment-methods', 'settlements'],
  bank: ['bank-lines'],
  'tax-service': ['agencies', 'tax-rates', 'committed'],
}

/** What a bridge of a role may offer beside. */
export const ALSO_OF: Readonly<Record<SystemRole, readonly Resource[]>> = {
  ledger: ['dimensions', 'payment-methods'],
  billing: ['item-tax-codes', 'payment-methods', 'locations', 'dimensions'],
  pos: ['item-tax-codes', 'parties', 'dimensions'],
  commerce: ['item-tax-codes', 'dimensions'],
  purchasing: ['items', 'item-tax-codes', 'locations', 'dimensions'],
  payments: [],
  bank: [],
  'tax-service': ['item-tax-codes', 'items', 'parties'],
}

/** What systems send of the business itself, as it moves; all else that they hold is set-up. */
export const MOVING = [
  'documents',
  'journal-entries',
  'settlements',
  'bank-lines',
  'committed',
] as const satisfies readonly Resource[]

export function isMoving(resource: string): resource is (typeof MOVING)[number] {
  return (MOVING as readonly string[]).includes(resource)
}
