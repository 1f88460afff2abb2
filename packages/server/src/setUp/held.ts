import type { Columns } from '../database/row.ts'
import {
  RESOURCES,
  SYSTEM_ROLES,
  type About,
  type Account,
  type Agency,
  type Dimension,
  type Item,
  type ItemTaxCodeObject,
  type LinkKind,
  type Location,
  type Party,
  type PaymentMethod,
  type Resource,
  type Settings,
  type SystemRole,
  type TaxRate,
} from '@axion/contract'
import { groupBy, type Address } from '@axion/core'
import type { z } from 'zod'
import type { Books } from '../database/connection.ts'
import { asRecorded } from '../database/recorded.ts'
import { stamped } from '../database/stamped.ts'

export interface SystemRow extends Columns<
  'system',
  'system_id' | 'role' | 'name' | 'address' | 'token_sealed' | 'about' | 'settings'
> {
  readonly role: SystemRole
  readonly about: About
  readonly settings: Settings | null
  /** Whether anything of ours is sent to it: its scope says so. Where not, it takes and makes nothing. */
  readonly goesOut: boolean
}

/** The address of a system that has no bridge: its set-up is brought as spreadsheets. */
export const FILES = 'files:'

export function isFiles({ address }: Pick<SystemRow, 'address'>): boolean {
  return address === FILES
}

/** One object as a system holds it, with the revision it was read at. */
export interface Held<T> {
  readonly id: string
  readonly revision: string
  readonly value: T
}

export interface Link {
  readonly systemId: string
  readonly kind: LinkKind
  readonly objectId: string
  readonly baselineId: string
}

/** What one system holds of the set-up, and how it is linked to the baseline. */
export interface HeldSystem {
  readonly row: SystemRow
  /** All of the following, as it is handed on. */
  readonly rows: HoldingRows
  readonly agencies: readonly Held<Agency>[]
  readonly rates: readonly Held<TaxRate>[]
  readonly accounts: readonly Held<Account>[]
  /** Empty where only what money is mapped through was loaded. */
  readonly items: readonly Held<Item>[]
  readonly parties: readonly Held<Party>[]
  readonly codes: readonly Held<ItemTaxCodeObject>[]
  readonly methods: readonly Held<PaymentMethod>[]
  readonly locations: readonly Held<Location>[]
  readonly dimensions: readonly Held<Dimension>[]
  readonly links: readonly Link[]
  /** The baseline object that the system's is linked to. */
  linkOf(kind: LinkKind, objectId: string): string | null
  agencyOf(objectId: string): string | null
  combinedRateOf(objectId: string): string | null
  /** The baseline's item, or party, by the code that documents name it with: what it is linked to, else what bears that code. */
  itemOf(code: string): string
  partyOf(id: string): string
  /** The baseline's customer that everybody else of the system counts as; null where each counts as itself. */
  genericParty(): string | null
  /** The baseline's outlet, or payment method, by the system's own id of it: what it is linked to, else what bears its code; null where it has none. */
  locationOf(locationId: string): string | null
  methodOf(methodId: string): string | null
  /** The address of an outlet, by the system's own id of it; null where it holds none such. */
  outletOf(locationId: string): Address | null
  /** The system's objects linked to a baseline object. */
  linkedTo(kind: LinkKind, baselineId: string): readonly string[]
  accountNumber(accountId: string | null): string | null
  account(accountId: string): Account | undefined
  hasAgency(objectId: string): boolean
  /** An account's number and name, as people call it. */
  accountName(number: string): string
}

/** Stands in a link for whoever is linked to nothing: no system has an object of that id. */
export const EVERYBODY = ''

/** Set-up that money is mapped through, and all of it. */
const FOR_MONEY: readonly Resource[] = [
  'agencies',
  'tax-rates',
  'accounts',
  'locations',
  'dimensions',
  'payment-methods',
]
export const ALL_SET_UP: readonly Resource[] = [...FOR_MONEY, 'items', 'parties', 'item-tax-codes']

/** @param at those that were connected at an instant, with the scope that they had; null for now */
export async function connectedSystems(
  { trx, entityId }: Books,
  at: string | null = null,
): Promise<SystemRow[]> {
  const rows = (await trx('system as s')
    .leftJoin(
      asRecorded(trx, 'system_scope', entityId, at).select('system_id', 'scope').as('c'),
      'c.system_id',
      's.system_id',
    )
    .where({ 's.entity_id': entityId })
    .whereRaw('(s.disconnected_at is null or s.disconnected_at > ?::timestamptz)', [at])
    .orderByRaw('array_position(?::text[], s.role), s.name', [[...SYSTEM_ROLES]])
    .select('s.*', trx.raw(`coalesce((c.scope->>'goesOut')::boolean, true) as "goesOut"`))) as SystemRow[]
  // What was read from a bridge before it could say so makes nothing.
  return rows.map((row) => ({
    ...row,
    about: {
      ...row.about,
      ...(row.goesOut
        ? { creates: (row.about as Partial<About>).creates ?? [] }
        : { takes: [], creates: [] }),
    },
  }))
}

/** @param at as they were recorded at an instant; null for now */
export async function loadHeld(
  books: Books,
  resources: readonly Resource[] = FOR_MONEY,
  at: string | null = null,
): Promise<HeldSystem[]> {
  const holdings = await stamped(books, { part: 'held', name: resources.join(' '), at }, (asAt) =>
    readHoldings(books, resources, asAt),
  )
  const systems = await connectedSystems(books, at)
  return systems.map((row) => ({ row, ...(holdings.get(row.system_id) ?? holdingOf(NOTHING_HELD)) }))
}

type Holding = Omit<HeldSystem, 'row'>
type Stored = Held<unknown> & { readonly resource: Resource }

export interface HoldingRows {
  readonly objects: readonly Stored[]
  readonly links: readonly Link[]
  /** The baseline's items by the code of the system's that is linked to them. */
  readonly codes: readonly (readonly [string, string])[]
}

const NOTHING_HELD: HoldingRows = { objects: [], links: [], codes: [] }

/** What each system holds and is linked by. */
async function readHoldings(
  { trx, entityId }: Books,
  resources: readonly Resource[],
  at: string | null,
): Promise<{ readonly value: ReadonlyMap<string, Holding>; readonly rows: number }> {
  const links = (await asRecorded(trx, 'link', entityId, at).select(
    'system_id as systemId',
    'kind',
    'object_id as objectId',
    'baseline_id as baselineId',
  )) as Link[]
  const objects = (await asRecorded(trx, 'held_object', entityId, at)
    .where({ removed: false })
    .whereIn('resource', [...resources])
    .orderBy('object_id')
    .select('system_id', 'resource', 'object_id as id', 'revision', 'value')) as (Stored & {
    readonly system_id: string
  })[]
  const renamed = (await trx
    .from(asRecorded(trx, 'link', entityId, at).where({ kind: 'item' }).as('l'))
    .join(
      asRecorded(trx, 'held_object', entityId, at).where({ resource: 'items' }).as('h'),
      (on) => void on.on('h.system_id', 'l.system_id').on('h.object_id', 'l.object_id'),
    )
    .select('l.system_id', 'l.baseline_id', trx.raw(`h.value->>'code' as code`))) as {
    system_id: string
    baseline_id: string
    code: string
  }[]
  const linksOf = groupBy(links, (link) => link.systemId)
  const objectsOf = groupBy(objects, (o) => o.system_id)
  const renamedIn = groupBy(renamed, (r) => r.system_id)
  const ids = new Set([...linksOf.keys(), ...objectsOf.keys()])
  const value = new Map(
    [...ids].map((id) => {
      const codes = (renamedIn.get(id) ?? []).map((r) => [r.code, r.baseline_id] as const)
      const rows = { objects: objectsOf.get(id) ?? [], links: linksOf.get(id) ?? [], codes }
      return [id, holdingOf(rows)] as const
    }),
  )
  return { value, rows: links.length + objects.length + renamed.length }
}

export function holdingOf(rows: HoldingRows): Holding {
  const { objects, links } = rows
  const codes = new Map(rows.codes)
  const byResource = groupBy(objects, (o) => o.resource)
  const of = <R extends Resource>(resource: R): Held<z.infer<(typeof RESOURCES)[R]>>[] =>
    (byResource.get(resource) ?? []).map(({ id, revision, value }) => ({
      id,
      revision,
      value: value as z.infer<(typeof RESOURCES)[R]>,
    }))
  const byObject = new Map(links.map((link) => [`${link.kind}/${link.objectId}`, link.baselineId]))
  const byBaseline = groupBy(
    links.filter(({ objectId }) => objectId !== EVERYBODY),
    (link) => `${link.kind}/${link.baselineId}`,
  )
  const accounts = of('accounts')
  const locations = of('locations')
  const outlets = new Map(locations.map((l) => [l.id, l.value]))
  const methods = of('payment-methods')
  const methodCodes = new Map(methods.map((method) => [method.id, method.value.code]))
  const agencies = of('agencies')
  const agencyIds = new Set(agencies.map(({ id }) => id))
  const accountOf = new Map(accounts.map((a) => [a.id, a.value]))
  const names = new Map(accounts.map((a) => [a.value.number, a.value.name]))
  const linkOf = (kind: LinkKind, objectId: string): string | null =>
    byObject.get(`${kind}/${objectId}`) ?? null
  return {
    rows,
    accounts,
    locations,
    links,
    linkOf,
    agencies,
    rates: of('tax-rates'),
    items: of('items'),
    parties: of('parties'),
    codes: of('item-tax-codes'),
    methods,
    dimensions: of('dimensions'),
    agencyOf: (objectId) => linkOf('agency', objectId),
    combinedRateOf: (objectId) => linkOf('combined-rate', objectId),
    itemOf: (code) => codes.get(code) ?? code,
    partyOf: (id) => linkOf('party', id) ?? id,
    genericParty: () => linkOf('party', EVERYBODY),
    locationOf: (id) => linkOf('location', id) ?? outlets.get(id)?.code ?? null,
    methodOf: (id) => linkOf('payment-method', id) ?? methodCodes.get(id) ?? null,
    outletOf: (id) => outlets.get(id)?.address ?? null,
    linkedTo: (kind, baselineId) => (byBaseline.get(`${kind}/${baselineId}`) ?? []).map((l) => l.objectId),
    accountName: (number) => `${number} ${names.get(number) ?? ''}`.trim(),
    accountNumber: (accountId) => (accountId === null ? null : (accountOf.get(accountId)?.number ?? null)),
    account: (accountId) => accountOf.get(accountId),
    hasAgency: (objectId) => agencyIds.has(objectId),
  }
}
