import { RESOURCES, type Account, type Agency, type About, type Resource, type TaxRate } from '@axion/contract'
import type { Transaction } from '../database/connection.ts'
import type { z } from 'zod'

export interface SystemRow {
  readonly system_id: string
  readonly role: 'ledger' | 'billing'
  readonly name: string
  readonly address: string
  readonly token_sealed: Buffer
  readonly about: About
  readonly settings: import('@axion/contract').Settings | null
}

/** One object as a system holds it, with the revision it was read at. */
export interface Held<T> {
  readonly id: string
  readonly revision: string
  readonly value: T
}

export type LinkKind = 'agency' | 'combined-rate'
export interface Link {
  readonly systemId: string
  readonly kind: LinkKind
  readonly objectId: string
  readonly baselineId: string
}

/** What one system holds of the set-up, and how it is linked to the baseline. */
export interface HeldSystem {
  readonly row: SystemRow
  readonly agencies: readonly Held<Agency>[]
  readonly rates: readonly Held<TaxRate>[]
  readonly accounts: readonly Held<Account>[]
  /** The baseline agency that the system's is linked to. */
  agencyOf(objectId: string): string | null
  combinedRateOf(objectId: string): string | null
  /** The system's objects linked to a baseline object. */
  linkedTo(kind: LinkKind, baselineId: string): readonly string[]
  accountNumber(accountId: string | null): string | null
  /** An account's number and name, as people call it. */
  accountName(number: string): string
}

export async function connectedSystems(trx: Transaction, entityId: string): Promise<SystemRow[]> {
  return trx('system').where({ entity_id: entityId }).whereNull('disconnected_at').orderByRaw(`role = 'ledger' desc, name`)
}

export async function loadHeld(trx: Transaction, entityId: string): Promise<HeldSystem[]> {
  const systems = await connectedSystems(trx, entityId)
  const links = (await trx('link').where({ entity_id: entityId }).select('system_id as systemId', 'kind', 'object_id as objectId', 'baseline_id as baselineId')) as Link[]
  const objects = (await trx('held_object').where({ entity_id: entityId, removed: false }).orderBy('object_id')
    .select('system_id', 'resource', 'object_id as id', 'revision', 'value')) as (Held<unknown> & { system_id: string; resource: Resource })[]

  return systems.map((row) => {
    const own = links.filter((link) => link.systemId === row.system_id)
    const of = <R extends Resource>(resource: R): Held<z.infer<(typeof RESOURCES)[R]>>[] =>
      objects.filter((o) => o.system_id === row.system_id && o.resource === resource).map(({ id, revision, value }) => ({ id, revision, value: value as z.infer<(typeof RESOURCES)[R]> }))
    const accounts = of('accounts')
    const linked = (kind: LinkKind, objectId: string): string | null => own.find((l) => l.kind === kind && l.objectId === objectId)?.baselineId ?? null
    return {
      row,
      agencies: of('agencies'),
      rates: of('tax-rates'),
      accounts,
      agencyOf: (objectId) => linked('agency', objectId),
      combinedRateOf: (objectId) => linked('combined-rate', objectId),
      linkedTo: (kind, baselineId) => own.filter((l) => l.kind === kind && l.baselineId === baselineId).map((l) => l.objectId),
      accountName: (number) => `${number} ${accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim(),
      accountNumber: (accountId) => accounts.find((a) => a.id === accountId)?.value.number ?? null,
    }
  })
}
