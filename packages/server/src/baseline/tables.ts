import type { BaselineImport } from '@axion/contract'

/** A row of a baseline table: its object, the dates it holds, and its values by column. */
export interface BaselineRow {
  readonly objectId: string
  readonly from: string | null
  readonly to: string | null
  readonly values: Readonly<Record<string, unknown>>
}

/** Baseline tables whose rows hold at all times have no dates. */
const always = { from: null, to: null }

/** Which rows an import asks for, table by table. The object's id is its code, or what it is a rule about. */
export function rowsOf(baseline: BaselineImport): Readonly<Record<string, BaselineRow[]>> {
  return {
    agency: baseline.agencies.map(({ code, name }) => ({ objectId: code, ...always, values: { name } })),
    jurisdiction: baseline.jurisdictions.map(({ code, name, level, parent, agency, covers }) => ({ objectId: code, ...always, values: { name, level, parent, agency, covers: JSON.stringify(covers) } })),
    rate_version: baseline.rateVersions.map(({ jurisdiction, percent, from, to }) => ({ objectId: jurisdiction, from, to, values: { jurisdiction, percent } })),
    combined_rate: baseline.combinedRates.map(({ code, name, jurisdictions, from, to }) => ({ objectId: code, from, to, values: { name, jurisdictions } })),
    item_tax_code: baseline.itemTaxCodes.map(({ code, name }) => ({ objectId: code, ...always, values: { name } })),
    item: baseline.items.map(({ code, name, itemTaxCode }) => ({ objectId: code, ...always, values: { name, item_tax_code: itemTaxCode } })),
    code_rule: baseline.codeRules.map(({ jurisdiction, itemTaxCode, treatment, from, to }) => ({ objectId: `${jurisdiction} ${itemTaxCode}`, from, to, values: { jurisdiction, item_tax_code: itemTaxCode, treatment } })),
    registration: baseline.registrations.map(({ agency, number, from, to }) => ({ objectId: agency, from, to, values: { agency, number } })),
    rounding_place: baseline.roundings.map(({ jurisdiction, level, unit, tie, from, to }) => ({ objectId: jurisdiction, from, to, values: { jurisdiction, level, unit, tie } })),
    posting_rule: baseline.postingRules.map(({ kind, agency, account, from, to }) => ({ objectId: agency === null ? kind : `${kind} ${agency}`, from, to, values: { kind, agency, account } })),
  }
}
