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
  columns: readonly SheetColumn[],
  shape: Sheet['shape'],
  identity: Sheet['identity'],
  parts: string | null = null,
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
  agencies: sheet(
    'Agencies',
    [ID, may('code', 'Code'), column('name', 'Name'), may('liabilityAccountId', 'Liability account')],
    Agency,
    first('code', 'name'),
  ),
  'tax-rates': sheet(
    'Tax rates',
    [
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
    TaxRate,
    first('code', 'name'),
    'components',
  ),
  accounts: sheet(
    'Accounts',
    [ID, column('number', 'Number'), column('name', 'Name'), column('type', 'Type')],
    Account,
    first('number'),
  ),
  items: sheet(
    'Items',
    [
      ID,
      column('code', 'Code'),
      column('name', 'Name'),
      column('kind', 'Kind'),
      column('taxable', 'Taxable', { type: 'flag' }),
      may('itemTaxCode', 'Item tax code'),
    ],
    Item,
    first('code'),
  ),
  parties: sheet(
    'Parties',
    [
      ID,
      column('name', 'Name'),
      may('exemption.reason', 'Exempt for'),
      may('exemption.certificate', 'Certificate'),
      may('exemption.from', 'Exempt from'),
      may('exemption.to', 'Exempt to'),
      ...address(),
    ],
    Party,
    first('name'),
  ),
  'item-tax-codes': sheet(
    'Item tax codes',
    [ID, column('code', 'Code'), column('name', 'Name')],
    ItemTaxCodeObject,
    first('code'),
  ),
  'payment-methods': sheet(
    'Payment methods',
    [
      ID,
      may('code', 'Code'),
      column('name', 'Name'),
      column('kind', 'Kind'),
      may('maskedNumber', 'Masked number'),
      column('active', 'In use', { type: 'flag' }),
    ],
    PaymentMethod,
    first('code', 'name'),
  ),
  locations: sheet(
    'Places',
    [
      ID,
      may('code', 'Code'),
      column('name', 'Name'),
      column('timeZone', 'Time zone'),
      may('cutOff', 'Day ends'),
      ...address(),
    ],
    Location,
    first('code', 'name'),
  ),
  dimensions: sheet(
    'Dimensions',
    [
      ID,
      column('dimension', 'Dimension'),
      column('code', 'Code'),
      column('name', 'Name'),
      column('active', 'In use', { type: 'flag' }),
    ],
    Dimension,
    by('dimension', 'code'),
  ),
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
  agencies: sheet(
    'Agencies',
    [column('code', 'Code'), column('name', 'Name')],
    rowOf('agencies'),
    by('code'),
  ),
  jurisdictions: sheet(
    'Jurisdictions',
    [
      column('code', 'Code'),
      column('name', 'Name'),
      column('level', 'Level'),
      may('parent', 'Within'),
      may('agency', 'Agency'),
      column('covers', 'Covers', { type: 'covers' }),
    ],
    rowOf('jurisdictions'),
    by('code'),
  ),
  rateVersions: sheet(
    'Rates',
    [
      column('jurisdiction', 'Jurisdiction'),
      column('percent', 'Percent'),
      may('onTopOf', 'On top of', 'list'),
      ...dates,
    ],
    rowOf('rateVersions'),
    by('jurisdiction', 'from'),
  ),
  combinedRates: sheet(
    'Combined rates',
    [
      column('code', 'Code'),
      column('name', 'Name'),
      column('jurisdictions', 'Jurisdictions', { type: 'list' }),
      may('itemTaxCode', 'Item tax code'),
      ...dates,
    ],
    rowOf('combinedRates'),
    by('code', 'from'),
  ),
  itemTaxCodes: sheet(
    'Item tax codes',
    [column('code', 'Code'), column('name', 'Name')],
    rowOf('itemTaxCodes'),
    by('code'),
  ),
  items: sheet(
    'Items',
    [
      column('code', 'Code'),
      column('name', 'Name'),
      column('itemTaxCode', 'Item tax code'),
      may('from', 'From'),
      may('to', 'To'),
    ],
    rowOf('items'),
    by('code', 'from'),
  ),
  codeRules: sheet(
    'Code rules',
    [
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
    rowOf('codeRules'),
    by('jurisdiction', 'itemTaxCode', 'currency', 'from'),
  ),
  registrations: sheet(
    'Registrations',
    [
      column('agency', 'Agency'),
      column('number', 'Number'),
      may('basis', 'Basis'),
      may('frequency', 'Frequency'),
      ...dates,
    ],
    rowOf('registrations'),
    by('agency', 'from'),
  ),
  thresholds: sheet(
    'Thresholds',
    [
      column('jurisdiction', 'Region'),
      may('sales', 'Sales'),
      may('transactions', 'Transactions', 'whole'),
      may('currency', 'Currency'),
      ...dates,
    ],
    rowOf('thresholds'),
    by('jurisdiction', 'from'),
  ),
  roundings: sheet(
    'Rounding places',
    [
      column('jurisdiction', 'Region'),
      column('level', 'Level'),
      column('unit', 'Unit'),
      column('tie', 'Ties'),
      ...dates,
    ],
    rowOf('roundings'),
    by('jurisdiction', 'from'),
  ),
  regionRules: sheet(
    'Region rules',
    [
      column('jurisdiction', 'Region'),
      may('originLevels', 'Levels by origin', 'list'),
      column('taxedBy', 'Taxed by'),
      column('taxedBeforeDiscount', 'Before discount', { type: 'flag' }),
      may('exemptionReasons', 'Reasons accepted', 'list'),
      ...dates,
    ],
    rowOf('regionRules'),
    by('jurisdiction', 'from'),
  ),
  parties: sheet(
    'Parties',
    [
      column('code', 'Code'),
      column('name', 'Name'),
      may('claims', 'Claims'),
      column('catchAll', 'Stands for many', { type: 'flag' }),
      ...address(),
    ],
    rowOf('parties'),
    by('code'),
  ),
  certificates: sheet(
    'Certificates',
    [
      column('code', 'Code'),
      column('number', 'Number'),
      column('party', 'Party'),
      column('reason', 'Reason'),
      column('regions', 'Regions', { type: 'list' }),
      ...dates,
    ],
    rowOf('certificates'),
    by('code', 'from'),
  ),
  postingRules: sheet(
    'Posting rules',
    [
      column('kind', 'Kind of amount'),
      may('agency', 'Agency'),
      may('only.by', 'Only by'),
      may('only.id', 'Only for'),
      column('account', 'Account'),
      ...dates,
    ],
    rowOf('postingRules'),
    by('kind', 'agency', 'only.by', 'only.id', 'from'),
  ),
  paymentMethods: sheet(
    'Payment methods',
    [column('code', 'Code'), column('name', 'Name'), column('kind', 'Kind')],
    rowOf('paymentMethods'),
    by('code'),
  ),
  locations: sheet(
    'Places',
    [
      column('code', 'Code'),
      column('name', 'Name'),
      column('timeZone', 'Time zone'),
      may('cutOff', 'Day ends'),
      ...address(),
    ],
    rowOf('locations'),
    by('code'),
  ),
  dimensions: sheet(
    'Dimensions',
    [column('dimension', 'Dimension'), column('code', 'Code'), column('name', 'Name')],
    rowOf('dimensions'),
    by('dimension', 'code'),
  ),
  rules: sheet(
    'Rules',
    [
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
    rowOf('rules'),
    by('code', 'from'),
  ),
} as const satisfies Readonly<Record<Exclude<keyof BaselineImport, 'homeAddress' | 'defaults'>, Sheet>>
export type BaselineSheet = keyof typeof BASELINE_SHEETS
export const BASELINE_SHEET_KEYS = Object.keys(BASELINE_SHEETS) as [BaselineSheet, ...BaselineSheet[]]
