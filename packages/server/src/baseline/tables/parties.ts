import type { Address } from '@axion/core'
import type { Columns } from '../../database/row.ts'
import { ALWAYS, validOf, type BaselineTable, type Held, type Stated } from './table.ts'

type PartyRow = Columns<'party', 'name' | 'claims' | 'catch_all'> & { readonly address: Address | null }

export const PARTY: BaselineTable<PartyRow, Stated<'parties'>, Held<'parties'>> = {
  table: 'party',
  toRow: ({ code, name, claims, catchAll, address }) => ({
    objectId: code,
    ...ALWAYS,
    values: { name, claims, catch_all: catchAll, address },
  }),
  toStated: ({ object_id: code, name, claims, catch_all: catchAll, address }) => ({
    code,
    name,
    claims,
    catchAll,
    address,
  }),
  toHeld: ({ object_id: id, name, claims, catch_all: catchAll, address }) => ({
    id,
    name,
    claims,
    catchAll,
    address,
  }),
}

type CertificateRow = Columns<'certificate', 'number' | 'party' | 'reason'> & { readonly regions: string[] }

export const CERTIFICATE: BaselineTable<CertificateRow, Stated<'certificates'>, Held<'certificates'>> = {
  table: 'certificate',
  toRow: ({ code, from, to, ...values }) => ({ objectId: code, from, to, values }),
  toStated: (row) => ({
    code: row.object_id,
    number: row.number,
    party: row.party,
    reason: row.reason,
    regions: row.regions,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: row.object_id,
    number: row.number,
    partyId: row.party,
    reason: row.reason,
    regionIds: row.regions,
    valid: validOf(row),
  }),
}

/** There is one address of the entity itself. */
export const HOME_ADDRESS: BaselineTable<{ readonly address: Address }, Stated<'homeAddress'>, Address> = {
  table: 'home_address',
  toRow: (address) => ({ objectId: 'home', ...ALWAYS, values: { address } }),
  toStated: ({ address }) => address,
  toHeld: ({ address }) => address,
}
