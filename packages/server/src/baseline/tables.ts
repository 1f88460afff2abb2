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
    jurisdiction: baseline.jurisdictions.map(({ code, name, level, parent, agency, covers }) => ({
      objectId: code,
      ...always,
      values: { name, level, parent, agency, covers },
    })),
    rate_version: baseline.rateVersions.map(({ jurisdiction, percent, onTopOf, from, to }) => ({
      objectId: jurisdiction,
      from,
      to,
      values: { jurisdiction, percent, on_top_of: onTopOf },
    })),
    combined_rate: baseline.combinedRates.map(({ code, name, jurisdictions, itemTaxCode, from, to }) => ({
      objectId: code,
      from,
      to,
      values: { name, jurisdictions, item_tax_code: itemTaxCode },
    })),
    item_tax_code: baseline.itemTaxCodes.map(({ code, name }) => ({
      objectId: code,
      ...always,
      values: { name },
    })),
    item: baseline.items.map(({ code, name, itemTaxCode, from, to }) => ({
      objectId: code,
      // An open beginning may be written as the first day of all.
      from: from === '0001-01-01' ? null : from,
      to,
      values: { name, item_tax_code: itemTaxCode },
    })),
    code_rule: baseline.codeRules.map(
      ({
        jurisdiction,
        itemTaxCode,
        treatment,
        percent,
        perUnit,
        threshold,
        cap,
        currency,
        recoverable,
        from,
        to,
      }) => ({
        objectId: `${jurisdiction} ${itemTaxCode}${currency === null ? '' : ` ${currency}`}`,
        from,
        to,
        values: {
          jurisdiction,
          item_tax_code: itemTaxCode,
          treatment,
          percent,
          per_unit: perUnit,
          currency,
          recoverable,
          threshold_taxes: threshold?.taxes ?? null,
          threshold: threshold && parseAmount(threshold.limit, currency ?? '').toString(),
          cap: cap && parseAmount(cap, currency ?? '').toString(),
        },
      }),
    ),
    registration: baseline.registrations.map(({ agency, number, basis, frequency, from, to }) => ({
      objectId: agency,
      from,
      to,
      values: { agency, number, basis, frequency },
    })),
    rounding_place: baseline.roundings.map(({ jurisdiction, level, unit, tie, from, to }) => ({
      objectId: jurisdiction,
      from,
      to,
      values: { jurisdiction, level, unit, tie },
    })),
    region_rule: baseline.regionRules.map(
      ({ jurisdiction, originLevels, taxedBy, taxedBeforeDiscount, exemptionReasons, from, to }) => ({
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
    ),
    party: baseline.parties.map(({ code, name, claims, catchAll, address }) => ({
      objectId: code,
      ...always,
      values: { name, claims, catch_all: catchAll, address },
    })),
    certificate: baseline.certificates.map(({ code, number, party, reason, regions, from, to }) => ({
      objectId: code,
      from,
      to,
      values: { number, party, reason, regions },
    })),
    home_address: baseline.homeAddress
      ? [{ objectId: 'home', ...always, values: { address: baseline.homeAddress } }]
      : [],
    agreed_default: baseline.defaults
      ? [
          {
            objectId: DEFAULTS_ID,
            ...always,
            values: {
              item_tax_code: baseline.defaults.itemTaxCode,
              parties_taxable: baseline.defaults.partiesTaxable,
              new_items: baseline.defaults.newItems,
            },
          },
        ]
      : [],
    posting_rule: baseline.postingRules.map(({ kind, agency, only, account, from, to }) => ({
      objectId: postingRuleId(kind, agency, only),
      from,
      to,
      values: { kind, agency, only_by: only?.by ?? null, only_id: only?.id ?? null, account },
    })),
    registration_threshold: baseline.thresholds.map(
      ({ jurisdiction, sales, transactions, currency, from, to }) => ({
        objectId: jurisdiction,
        from,
        to,
        values: {
          jurisdiction,
          sales: sales && parseAmount(sales, currency ?? '').toString(),
          transactions,
          currency,
        },
      }),
    ),
    payment_method: baseline.paymentMethods.map(({ code, name, kind }) => ({
      objectId: code,
      ...always,
      values: { name, kind },
    })),
    location: baseline.locations.map(({ code, name, timeZone, cutOff, address }) => ({
      objectId: code,
      ...always,
      values: { name, time_zone: timeZone, cut_off: cutOff, address },
    })),
    line_rule: baseline.rules.map(({ code, name, when, then, from, to }, at) => ({
      objectId: code,
      from,
      to,
      values: {
        name,
        place: at,
        item: when.item,
        text: when.text,
        region: when.region,
        party: when.party,
        method: when.method,
        channel: when.channel,
        item_tax_code: then.itemTaxCode,
        account: then.account,
        dimension: then.dimension,
      },
    })),
    dimension_value: baseline.dimensions.map(({ dimension, code, name }) => ({
      objectId: dimensionId(dimension, code),
      ...always,
      values: { dimension, code, name },
    })),
  }
}

/** There is one set of defaults. */
export const DEFAULTS_ID = 'defaults'

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
