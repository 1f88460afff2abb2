import { parsePercent } from '@axion/core'
import type { Columns } from '../../database/row.ts'
import { ALWAYS, plain, validOf, versionId, type BaselineTable, type Held, type Stated } from './table.ts'

type JurisdictionRow = Columns<'jurisdiction', 'name' | 'parent' | 'agency'> &
  Readonly<Pick<Stated<'jurisdictions'>, 'level' | 'covers'>>

export const JURISDICTION: BaselineTable<JurisdictionRow, Stated<'jurisdictions'>, Held<'jurisdictions'>> = {
  table: 'jurisdiction',
  toRow: ({ code, ...values }) => ({ objectId: code, ...ALWAYS, values }),
  toStated: ({ object_id: code, name, level, parent, agency, covers }) => ({
    code,
    name,
    level,
    parent,
    agency,
    covers,
  }),
  toHeld: ({ object_id: id, name, level, parent, agency, covers }) => ({
    id,
    name,
    level,
    parentId: parent,
    agencyId: agency,
    covers,
  }),
}

type RateRow = Columns<'rate_version', 'jurisdiction' | 'percent'> & { readonly on_top_of: string[] }

export const RATE_VERSION: BaselineTable<RateRow, Stated<'rateVersions'>, Held<'rateVersions'>> = {
  table: 'rate_version',
  toRow: ({ jurisdiction, percent, onTopOf, from, to }) => ({
    objectId: jurisdiction,
    from,
    to,
    values: { jurisdiction, percent, on_top_of: onTopOf },
  }),
  toStated: (row) => ({
    jurisdiction: row.jurisdiction,
    percent: plain(row.percent),
    onTopOf: row.on_top_of,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    jurisdictionId: row.jurisdiction,
    percent: parsePercent(row.percent),
    onTopOf: row.on_top_of,
    valid: validOf(row),
  }),
}

type CombinedRow = Columns<'combined_rate', 'name' | 'item_tax_code'> & { readonly jurisdictions: string[] }

export const COMBINED_RATE: BaselineTable<CombinedRow, Stated<'combinedRates'>, Held<'combinedRates'>> = {
  table: 'combined_rate',
  toRow: ({ code, name, jurisdictions, itemTaxCode, from, to }) => ({
    objectId: code,
    from,
    to,
    values: { name, jurisdictions, item_tax_code: itemTaxCode },
  }),
  toStated: (row) => ({
    code: row.object_id,
    name: row.name,
    jurisdictions: row.jurisdictions,
    itemTaxCode: row.item_tax_code,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: row.object_id,
    code: row.object_id,
    name: row.name,
    jurisdictionIds: row.jurisdictions,
    itemTaxCode: row.item_tax_code,
    valid: validOf(row),
  }),
}

type RoundingRow = Columns<'rounding_place', 'jurisdiction'> &
  Readonly<Pick<Stated<'roundings'>, 'level' | 'unit' | 'tie'>>

export const ROUNDING: BaselineTable<RoundingRow, Stated<'roundings'>, Held<'roundings'>> = {
  table: 'rounding_place',
  toRow: ({ from, to, ...values }) => ({ objectId: values.jurisdiction, from, to, values }),
  toStated: (row) => ({
    jurisdiction: row.jurisdiction,
    level: row.level,
    unit: row.unit,
    tie: row.tie,
    ...validOf(row),
  }),
  toHeld: (row) => ({
    id: versionId(row),
    jurisdictionId: row.jurisdiction,
    place: { level: row.level, unit: row.unit, tie: row.tie },
    valid: validOf(row),
  }),
}

type RegionRuleRow = Columns<'region_rule', 'jurisdiction' | 'taxed_before_discount'> & {
  readonly origin_levels: Stated<'regionRules'>['originLevels']
  readonly taxed_by: Stated<'regionRules'>['taxedBy']
  readonly exemption_reasons: string[]
}

export const REGION_RULE: BaselineTable<RegionRuleRow, Stated<'regionRules'>, Held<'regionRules'>> = {
  table: 'region_rule',
  toRow: ({ jurisdiction, originLevels, taxedBy, taxedBeforeDiscount, exemptionReasons, from, to }) => ({
    objectId: jurisdiction,
    from,
    to,
    values: {
      jurisdiction,
      origin_levels: originLevels,
      taxed_by: taxedBy,
      taxed_before_discount: taxedBeforeDiscount,
      exemption_reasons: exemptionReasons,
    },
  }),
  toStated: (row) => ({ jurisdiction: row.jurisdiction, ...saidOf(row), ...validOf(row) }),
  toHeld: (row) => ({
    id: versionId(row),
    jurisdictionId: row.jurisdiction,
    ...saidOf(row),
    valid: validOf(row),
  }),
}

function saidOf(row: RegionRuleRow) {
  return {
    originLevels: row.origin_levels,
    taxedBy: row.taxed_by,
    taxedBeforeDiscount: row.taxed_before_discount,
    exemptionReasons: row.exemption_reasons,
  }
}
