import type { Columns } from '../../database/row.ts'
import {
  ALWAYS,
  amountText,
  minorUnits,
  validOf,
  versionId,
  type BaselineTable,
  type Held,
  type Stated,
} from './table.ts'

export const AGENCY: BaselineTable<Columns<'agency', 'name'>, Stated<'agencies'>, Held<'agencies'>> = {
  table: 'agency',
  toRow: ({ code, name }) => ({ objectId: code, ...ALWAYS, values: { name } }),
  toStated: ({ object_id: code, name }) => ({ code, name }),
  toHeld: ({ object_id: id, name }) => ({ id, code: id, name }),
}

type RegistrationRow = Columns<'registration', 'agency' | 'number'> &
  Readonly<Pick<Stated<'registrations'>, 'basis' | 'frequency'>>

export const REGISTRATION: BaselineTable<RegistrationRow, Stated<'registrations'>, Held<'registrations'>> = {
  table: 'registration',
  toRow: ({ agency, number, basis, frequency, from, to }) => ({
    objectId: agency,
    from,
    to,
    values: { agency, number, basis, frequency },
  }),
  toStated: (row) => ({
    agency: row.agency,
    number: row.number,
    basis: row.basis,
    frequency: row.frequency,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    agencyId: row.agency,
    number: row.number,
    basis: row.basis,
    frequency: row.frequency,
    valid: validOf(row),
  }),
}

type CollectingRow = Columns<'collecting', 'jurisdiction' | 'why'> &
  Readonly<Pick<Stated<'collecting'>, 'answer'>>

export const COLLECTING: BaselineTable<CollectingRow, Stated<'collecting'>, Held<'collecting'>> = {
  table: 'collecting',
  toRow: ({ jurisdiction, answer, why, from, to }) => ({
    objectId: jurisdiction,
    from,
    to,
    values: { jurisdiction, answer, why },
  }),
  toStated: (row) => ({
    jurisdiction: row.jurisdiction,
    answer: row.answer,
    why: row.why,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    jurisdictionId: row.jurisdiction,
    answer: row.answer,
    why: row.why,
    valid: validOf(row),
  }),
}

type ThresholdRow = Columns<'registration_threshold', 'jurisdiction' | 'sales' | 'transactions' | 'currency'>

export const THRESHOLD: BaselineTable<ThresholdRow, Stated<'thresholds'>, Held<'thresholds'>> = {
  table: 'registration_threshold',
  toRow: ({ jurisdiction, sales, transactions, currency, from, to }) => ({
    objectId: jurisdiction,
    from,
    to,
    values: { jurisdiction, sales: minorUnits(sales, currency), transactions, currency },
  }),
  toStated: (row) => ({
    jurisdiction: row.jurisdiction,
    sales: amountText(row.sales, row.currency),
    transactions: row.transactions,
    currency: row.currency,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    jurisdictionId: row.jurisdiction,
    sales: row.sales === null ? null : BigInt(row.sales),
    transactions: row.transactions,
    currency: row.currency,
    valid: validOf(row),
  }),
}
