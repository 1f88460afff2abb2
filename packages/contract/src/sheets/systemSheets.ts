import type { SystemRole } from '../bridge/kinds.ts'
import type { Resource } from '../bridge/resources.ts'
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
} from '../bridge/setUp.ts'
import { column, may, type Sheet } from './columns.ts'
import { address, by, first, ID, sheet } from './sheet.ts'

/** Set-up that a system may bring as files, by resource. */
export const SYSTEM_SHEETS = {
  agencies: sheet('Agencies', {
    columns: [
      ID,
      may('code', 'Code'),
      column('name', 'Name'),
      may('liabilityAccountId', 'Liability account'),
    ],
    shape: Agency,
    identity: first('code', 'name'),
  }),
  'tax-rates': sheet('Tax rates', {
    columns: [
      ID,
      may('code', 'Code'),
      column('name', 'Name'),
      column('percent', 'Percent'),
      column('active', 'In use', { type: 'flag' }),
      may('components.agencyId', 'Component agency'),
      may('components.name', 'Component'),
      may('components.percent', 'Component percent'),
      may('components.perUnit', 'Per unit'),
      may('components.onTopOf', 'On top of', 'numbers'),
      may('components.from', 'From'),
      may('components.to', 'To'),
    ],
    shape: TaxRate,
    identity: first('code', 'name'),
    parts: 'components',
  }),
  accounts: sheet('Accounts', {
    columns: [ID, column('number', 'Number'), column('name', 'Name'), column('type', 'Type')],
    shape: Account,
    identity: first('number'),
  }),
  items: sheet('Items', {
    columns: [
      ID,
      column('code', 'Code'),
      column('name', 'Name'),
      column('kind', 'Kind'),
      column('taxable', 'Taxable', { type: 'flag' }),
      may('itemTaxCode', 'Item tax code'),
    ],
    shape: Item,
    identity: first('code'),
  }),
  parties: sheet('Parties', {
    columns: [
      ID,
      column('name', 'Name'),
      may('exemption.reason', 'Exempt for'),
      may('exemption.certificate', 'Certificate'),
      may('exemption.from', 'Exempt from'),
      may('exemption.to', 'Exempt to'),
      ...address(),
      may('taxable', 'Taxable', 'flag'),
      may('defaultTaxRateId', 'Default rate'),
    ],
    shape: Party,
    identity: first('name'),
  }),
  'item-tax-codes': sheet('Item tax codes', {
    columns: [ID, column('code', 'Code'), column('name', 'Name')],
    shape: ItemTaxCodeObject,
    identity: first('code'),
  }),
  'payment-methods': sheet('Payment methods', {
    columns: [
      ID,
      may('code', 'Code'),
      column('name', 'Name'),
      column('kind', 'Kind'),
      may('maskedNumber', 'Masked number'),
      column('active', 'In use', { type: 'flag' }),
    ],
    shape: PaymentMethod,
    identity: first('code', 'name'),
  }),
  locations: sheet('Places', {
    columns: [
      ID,
      may('code', 'Code'),
      column('name', 'Name'),
      column('timeZone', 'Time zone'),
      may('cutOff', 'Day ends'),
      ...address(),
    ],
    shape: Location,
    identity: first('code', 'name'),
  }),
  dimensions: sheet('Dimensions', {
    columns: [
      ID,
      column('dimension', 'Dimension'),
      column('code', 'Code'),
      column('name', 'Name'),
      column('active', 'In use', { type: 'flag' }),
    ],
    shape: Dimension,
    identity: by('dimension', 'code'),
  }),
} as const satisfies Partial<Record<Resource, Sheet>>

export type SheetResource = keyof typeof SYSTEM_SHEETS
export const SHEET_RESOURCES = Object.keys(SYSTEM_SHEETS) as [SheetResource, ...SheetResource[]]

/** The set-up that a system of a role can bring as files. */
export function fileResourcesOf(role: SystemRole, offered: readonly string[]): SheetResource[] {
  return SHEET_RESOURCES.filter((resource) => offered.includes(resource) && role !== 'bank')
}
