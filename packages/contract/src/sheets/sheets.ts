import { BaselineImport } from '../api/baseline.ts'
import { column, may, type Sheet, type SheetColumn } from './columns.ts'
import { address, by, sheet } from './sheet.ts'

const dates: readonly SheetColumn[] = [column('from', 'From'), may('to', 'To')]

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
  collecting: sheet('Who collects', {
    columns: [
      column('jurisdiction', 'Country or region'),
      column('answer', 'Who collects'),
      may('why', 'Why'),
      ...dates,
    ],
    shape: rowOf('collecting'),
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
      may('when.system', 'When of system'),
      may('when.stated', 'When flagged'),
      may('when.saleKind', 'When sold for'),
      may('then.item', 'Then counts as item'),
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
