import type { BaselineImport } from '@axion/contract'
import { parseAmount } from '@axion/core'

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
    rate_version: baseline.rateVersions.map(({ jurisdiction, percent, onTopOf, from, to }) => ({ objectId: jurisdiction, from, to, values: { jurisdiction, percent, on_top_of: onTopOf } })),
    combined_rate: baseline.combinedRates.map(({ code, name, jurisdictions, itemTaxCode, from, to }) => ({ objectId: code, from, to, values: { name, jurisdictions, item_tax_code: itemTaxCode } })),
    item_tax_code: baseline.itemTaxCodes.map(({ code, name }) => ({ objectId: code, ...always, values: { name } })),
    item: baseline.items.map(({ code, name, itemTaxCode }) => ({ objectId: code, ...always, values: { name, item_tax_code: itemTaxCode } })),
    code_rule: baseline.codeRules.map(({ jurisdiction, itemTaxCode, treatment, percent, perUnit, threshold, cap, currency, from, to }) => ({
      objectId: `${jurisdiction} ${itemTaxCode}${currency === null ? '' : ` ${currency}`}`, from, to,
      values: {
        jurisdiction, item_tax_code: itemTaxCode, treatment, percent, per_unit: perUnit, currency, threshold_taxes: threshold?.taxes ?? null,
        threshold: threshold && parseAmount(threshold.limit, currency ?? '').toString(), cap: cap && parseAmount(cap, currency ?? '').toString(),
      },
    })),
    registration: baseline.registrations.map(({ agency, number, from, to }) => ({ objectId: agency, from, to, values: { agency, number } })),
    rounding_place: baseline.roundings.map(({ jurisdiction, level, unit, tie, from, to }) => ({ objectId: jurisdiction, from, to, values: { jurisdiction, level, unit, tie } })),
    region_rule: baseline.regionRules.map(({ jurisdiction, originLevels, taxedBy, taxedBeforeDiscount, exemptionReasons, from, to }) => ({
      objectId: jurisdiction, from, to, values: { jurisdiction, origin_levels: originLevels, taxed_by: taxedBy, taxed_before_discount: taxedBeforeDiscount, exemption_reasons: exemptionReasons },
    })),
    party: baseline.parties.map(({ code, name, claims, catchAll, address }) => ({ objectId: code, ...always, values: { name, claims, catch_all: catchAll, address: address && JSON.stringify(address) } })),
    certificate: baseline.certificates.map(({ code, number, party, reason, regions, from, to }) => ({ objectId: code, from, to, values: { number, party, reason, regions } })),
    home_address: baseline.homeAddress ? [{ objectId: 'home', ...always, values: { address: JSON.stringify(baseline.homeAddress) } }] : [],
    posting_rule: baseline.postingRules.map(({ kind, agency, account, from, to }) => ({ objectId: agency === null ? kind : `${kind} ${agency}`, from, to, values: { kind, agency, account } })),
  }
}
