import type { SystemRole } from '../bridge/kinds.ts'
import { BaselineImport } from '../api/baseline.ts'
import { type Resource } from '../bridge/resources.ts'
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
import { column, may, type Sheet, type SheetColumn } from './columns.ts'

const by = (...paths: string[]): Sheet['identity'] => ({ paths, all: true })
const first = (...paths: string[]): Sheet['identity'] => ({ paths, all: false })
const sheet = (
  title: string,
  {
    columns,
    shape,
    identity,
    parts = null,
  }: {
    readonly columns: readonly SheetColumn[]
    readonly shape: Sheet['shape']
    readonly identity: Sheet['identity']
    readonly parts?: string | null
  },
): Sheet => ({ title, columns, shape, identity, parts })

const ID = may('id', 'Id')
const address = (prefix = 'address'): SheetColumn[] => [
  may(`${prefix}.country`, 'Country'),
  may(`${prefix}.region`, 'Region'),
  may(`${prefix}.city`, 'City'),
  may(`${prefix}.postalCode`, 'Postal code'),
]
const dates: readonly SheetColumn[] = [column('from', 'From'), may('to', 'To')]

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

const { shape } = BaselineImport
const rowOf = (key: Exclude<keyof typeof shape, 'homeAddress' | 'defaults'>): Sheet['shape'] => {
  const field = shape[key] as {
    readonly element?: Sheet['shape']
    readonly def?: { readonly innerType?: { readonly element: Sheet['shape'] } }
  }
  return field.element ?? (field.def?.innerType?.element as Sheet['shape'])
}

/** The whole baseline as sheets, in the order in which they rest on each other. */
export const BASELINE_SHEETS = {
  agencies: sheet('Agencies', {
    columns: [column('code', 'Code'), column('name', 'Name')],
    shape: rowOf('agencies'),
    identity: by('code'),
  }),
  jurisdictions: sheet('Jurisdictions', {
    columns: [
      column('code', 'Code'),
      column('name', 'Name'),
      column('level', 'Level'),
      may('parent', 'Within'),
      may('agency', 'Agency'),
      column('covers', 'Covers', { type: 'covers' }),
    ],
    shape: rowOf('jurisdictions'),
    identity: by('code'),
  }),
  rateVersions: sheet('Rates', {
    columns: [
      column('jurisdiction', 'Jurisdiction'),
      column('percent', 'Percent'),
      may('onTopOf', 'On top of', 'list'),
      ...dates,
    ],
    shape: rowOf('rateVersions'),
    identity: by('jurisdiction', 'from'),
  }),
  combinedRates: sheet('Combined rates', {
    columns: [
      column('code', 'Code'),
      column('name', 'Name'),
      column('jurisdictions', 'Jurisdictions', { type: 'list' }),
      may('itemTaxCode', 'Item tax code'),
      ...dates,
    ],
    shape: rowOf('combinedRates'),
    identity: by('code', 'from'),
  }),
  itemTaxCodes: sheet('Item tax codes', {
    columns: [column('code', 'Code'), column('name', 'Name')],
    shape: rowOf('itemTaxCodes'),
    identity: by('code'),
  }),
  items: sheet('Items', {
    columns: [
      column('code', 'Code'),
      column('name', 'Name'),
      column('itemTaxCode', 'Item tax code'),
      may('from', 'From'),
      may('to', 'To'),
    ],
    shape: rowOf('items'),
    identity: by('code', 'from'),
  }),
  codeRules: sheet('Code rules', {
    columns: [
      column('jurisdiction', 'Jurisdiction'),
      column('itemTaxCode', 'Item tax code'),
      column('treatment', 'Treatment'),
      may('percent', 'Percent'),
      may('perUnit', 'Per unit'),
      may('threshold.limit', 'Threshold'),
      may('threshold.taxes', 'From there taxes'),
      may('cap', 'Cap'),
      may('currency', 'Currency'),
      may('recoverable', 'Recoverable percent'),
      ...dates,
    ],
    shape: rowOf('codeRules'),
    identity: by('jurisdiction', 'itemTaxCode', 'currency', 'from'),
  }),
  registrations: sheet('Registrations', {
    columns: [
      column('agency', 'Agency'),
      column('number', 'Number'),
      may('basis', 'Basis'),
      may('frequency', 'Frequency'),
      ...dates,
    ],
    shape: rowOf('registrations'),
    identity: by('agency', 'from'),
  }),
  thresholds: sheet('Thresholds', {
    columns: [
      column('jurisdiction', 'Region'),
      may('sales', 'Sales'),
      may('transactions', 'Transactions', 'whole'),
      may('currency', 'Currency'),
      ...dates,
    ],
    shape: rowOf('thresholds'),
    identity: by('jurisdiction', 'from'),
  }),
  roundings: sheet('Rounding places', {
    columns: [
      column('jurisdiction', 'Region'),
      column('level', 'Level'),
      column('unit', 'Unit'),
      column('tie', 'Ties'),
      ...dates,
    ],
    shape: rowOf('roundings'),
    identity: by('jurisdiction', 'from'),
  }),
  regionRules: sheet('Region rules', {
    columns: [
      column('jurisdiction', 'Region'),
      may('originLevels', 'Levels by origin', 'list'),
      column('taxedBy', 'Taxed by'),
      column('taxedBeforeDiscount', 'Before discount', { type: 'flag' }),
      may('exemptionReasons', 'Reasons accepted', 'list'),
      ...dates,
    ],
    shape: rowOf('regionRules'),
    identity: by('jurisdiction', 'from'),
  }),
  parties: sheet('Parties', {
    columns: [
      column('code', 'Code'),
      column('name', 'Name'),
      may('claims', 'Claims'),
      column('catchAll', 'Stands for many', { type: 'flag' }),
      ...address(),
    ],
    shape: rowOf('parties'),
    identity: by('code'),
  }),
  certificates: sheet('Certificates', {
    columns: [
      column('code', 'Code'),
      column('number', 'Number'),
      column('party', 'Party'),
      column('reason', 'Reason'),
      column('regions', 'Regions', { type: 'list' }),
      ...dates,
    ],
    shape: rowOf('certificates'),
    identity: by('code', 'from'),
  }),
  postingRules: sheet('Posting rules', {
    columns: [
      column('kind', 'Kind of amount'),
      may('agency', 'Agency'),
      may('only.by', 'Only by'),
      may('only.id', 'Only for'),
      column('account', 'Account'),
      ...dates,
    ],
    shape: rowOf('postingRules'),
    identity: by('kind', 'agency', 'only.by', 'only.id', 'from'),
  }),
  paymentMethods: sheet('Payment methods', {
    columns: [column('code', 'Code'), column('name', 'Name'), column('kind', 'Kind')],
    shape: rowOf('paymentMethods'),
    identity: by('code'),
  }),
  locations: sheet('Places', {
    columns: [
      column('code', 'Code'),
      column('name', 'Name'),
      column('timeZone', 'Time zone'),
      may('cutOff', 'Day ends'),
      ...address(),
    ],
    shape: rowOf('locations'),
    identity: by('code'),
  }),
  dimensions: sheet('Dimensions', {
    columns: [column('dimension', 'Dimension'), column('code', 'Code'), column('name', 'Name')],
    shape: rowOf('dimensions'),
    identity: by('dimension', 'code'),
  }),
  rules: sheet('Rules', {
    columns: [
      column('code', 'Code'),
      column('name', 'Name'),
      may('when.item', 'When item'),
      may('when.text', 'When text has'),
      may('when.region', 'When region'),
      may('when.party', 'When party'),
      may('when.method', 'When paid by'),
      may('when.channel', 'When channel'),
      may('then.itemTaxCode', 'Then item tax code'),
      may('then.account', 'Then account'),
      may('then.dimension', 'Then dimension'),
      ...dates,
    ],
    shape: rowOf('rules'),
    identity: by('code', 'from'),
  }),
} as const satisfies Readonly<Record<Exclude<keyof BaselineImport, 'homeAddress' | 'defaults'>, Sheet>>
export type BaselineSheet = keyof typeof BASELINE_SHEETS
export const BASELINE_SHEET_KEYS = Object.keys(BASELINE_SHEETS) as [BaselineSheet, ...BaselineSheet[]]
