import type { PostingKind, SaleKind, StatedFlag } from '@axion/core'
import type { Columns } from '../../database/row.ts'
import { ALWAYS, validOf, versionId, type BaselineTable, type Held, type Stated } from './table.ts'

/** What a posting rule is about: a kind of amount, an agency's tax, or a kind of amount of one party, item, code, channel or method. */
export function postingRuleId(
  kind: string,
  agency: string | null,
  only: { readonly by: string; readonly id: string } | null,
): string {
  return [kind, ...(agency === null ? [] : [agency]), ...(only === null ? [] : [only.by, only.id])].join(' ')
}

export function dimensionId(dimension: string, code: string): string {
  return `${dimension}: ${code}`
}

type Narrowing = NonNullable<Held<'postingRules'>['only']>
type PostingRow = Columns<'posting_rule', 'agency' | 'only_id' | 'account'> & {
  readonly kind: PostingKind
  readonly only_by: Narrowing['by'] | null
}

export const POSTING_RULE: BaselineTable<PostingRow, Stated<'postingRules'>, Held<'postingRules'>> = {
  table: 'posting_rule',
  toRow: ({ kind, agency, only, account, from, to }) => ({
    objectId: postingRuleId(kind, agency, only),
    from,
    to,
    values: { kind, agency, only_by: only?.by ?? null, only_id: only?.id ?? null, account },
  }),
  toStated: (row) => ({
    kind: row.kind,
    agency: row.agency,
    account: row.account,
    only: onlyOf(row),
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    kind: row.kind,
    agencyId: row.agency,
    only: onlyOf(row),
    account: row.account,
    valid: validOf(row),
  }),
}

function onlyOf({ only_by: by, only_id: id }: PostingRow): Narrowing | null {
  return by === null ? null : { by, id: id ?? '' }
}

type MethodRow = Columns<'payment_method', 'name'> & Readonly<Pick<Stated<'paymentMethods'>, 'kind'>>

export const PAYMENT_METHOD: BaselineTable<MethodRow, Stated<'paymentMethods'>, Held<'paymentMethods'>> = {
  table: 'payment_method',
  toRow: ({ code, ...values }) => ({ objectId: code, ...ALWAYS, values }),
  toStated: ({ object_id: code, name, kind }) => ({ code, name, kind }),
  toHeld: ({ object_id: id, name, kind }) => ({ id, name, kind }),
}

type LocationRow = Columns<'location', 'name' | 'time_zone' | 'cut_off'> & {
  readonly address: Stated<'locations'>['address']
}

export const LOCATION: BaselineTable<LocationRow, Stated<'locations'>, Held<'locations'>> = {
  table: 'location',
  toRow: ({ code, name, timeZone, cutOff, address }) => ({
    objectId: code,
    ...ALWAYS,
    values: { name, time_zone: timeZone, cut_off: cutOff, address },
  }),
  toStated: ({ object_id: code, name, time_zone: timeZone, cut_off: cutOff, address }) => ({
    code,
    name,
    timeZone,
    cutOff,
    address,
  }),
  toHeld: ({ object_id: id, name, time_zone: timeZone, cut_off: cutOff, address }) => ({
    id,
    name,
    timeZone,
    cutOff,
    address,
  }),
}

export const DIMENSION_VALUE: BaselineTable<
  Columns<'dimension_value', 'dimension' | 'code' | 'name'>,
  Stated<'dimensions'>,
  Held<'dimensions'>
> = {
  table: 'dimension_value',
  toRow: (values) => ({ objectId: dimensionId(values.dimension, values.code), ...ALWAYS, values }),
  toStated: ({ dimension, code, name }) => ({ dimension, code, name }),
  toHeld: ({ object_id: id, dimension, code, name }) => ({ id, dimension, code, name }),
}

type Condition = 'item' | 'text' | 'region' | 'party' | 'method' | 'channel' | 'system'
type LineRuleRow = Columns<
  'line_rule',
  'name' | 'place' | Condition | 'as_item' | 'item_tax_code' | 'account' | 'dimension'
> & {
  readonly stated: StatedFlag | null
  readonly sale_kind: SaleKind | null
}

export const LINE_RULE: BaselineTable<LineRuleRow, Stated<'rules'>, Held<'lineRules'>> = {
  table: 'line_rule',
  order: 'place',
  toRow: ({ code, name, when: { saleKind: sale_kind, ...when }, then, from, to }, place) => ({
    objectId: code,
    from,
    to,
    values: {
      name,
      place,
      ...when,
      sale_kind,
      as_item: then.item,
      item_tax_code: then.itemTaxCode,
      account: then.account,
      dimension: then.dimension,
    },
  }),
  toStated: (row) => ({ code: row.object_id, name: row.name, ...saidOf(row), ...validOf(row) }),
  toHeld: (row) => ({ id: row.object_id, name: row.name, ...saidOf(row), valid: validOf(row) }),
}

function saidOf(row: LineRuleRow): Pick<Held<'lineRules'>, 'when' | 'then'> {
  const { item, text, region, party, method, channel, system, stated, sale_kind: saleKind } = row
  return {
    when: { item, text, region, party, method, channel, system, stated, saleKind },
    then: {
      item: row.as_item,
      itemTaxCode: row.item_tax_code,
      account: row.account,
      dimension: row.dimension,
    },
  }
}
