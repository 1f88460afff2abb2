import type { BaselineImport } from '@axion/contract'
import { currencyDigits, formatAmount, formatPercent, type DraftedParts, type Ratio } from '@axion/core'

/** What a draft would add to a baseline, as an import states it. */
export function stated(parts: DraftedParts, onto: BaselineImport): BaselineImport {
  const {
    agencies = [],
    jurisdictions = [],
    rateVersions = [],
    combinedRates = [],
    itemTaxCodes = [],
    items = [],
    codeRules = [],
    roundings = [],
    regionRules = [],
    parties = [],
    postingRules = [],
    paymentMethods = [],
    locations = [],
  } = parts
  return {
    ...onto,
    agencies: [...onto.agencies, ...agencies.map(({ code, name }) => ({ code, name }))],
    jurisdictions: [
      ...onto.jurisdictions,
      ...jurisdictions.map(({ id, name, level, parentId, agencyId, covers }) => ({
        ...{ code: id, name, level, parent: parentId, agency: agencyId, covers: [...covers] },
      })),
    ],
    rateVersions: [
      ...onto.rateVersions,
      ...rateVersions.map(({ jurisdictionId, percent, onTopOf, valid }) => ({
        ...{ jurisdiction: jurisdictionId, percent: formatPercent(percent), onTopOf: [...onTopOf], ...valid },
      })),
    ],
    combinedRates: [
      ...onto.combinedRates,
      ...combinedRates.map(({ code, name, jurisdictionIds, itemTaxCode, valid }) => ({
        ...{ code, name, jurisdictions: [...jurisdictionIds], itemTaxCode, ...valid },
      })),
    ],
    itemTaxCodes: [...onto.itemTaxCodes, ...itemTaxCodes.map(({ id, name }) => ({ code: id, name }))],
    items: [
      ...onto.items,
      ...items.map(({ id, name, itemTaxCode }) => ({ code: id, name, itemTaxCode, from: null, to: null })),
    ],
    codeRules: [...onto.codeRules, ...codeRules.map(statedRule)],
    roundings: [
      ...onto.roundings,
      ...roundings.map(({ jurisdictionId, place, valid }) => ({
        jurisdiction: jurisdictionId,
        ...place,
        ...valid,
      })),
    ],
    regionRules: [
      ...onto.regionRules,
      ...regionRules.map(({ id: _id, jurisdictionId, valid, originLevels, exemptionReasons, ...rule }) => ({
        ...rule,
        jurisdiction: jurisdictionId,
        originLevels: [...originLevels],
        exemptionReasons: [...exemptionReasons],
        ...valid,
      })),
    ],
    parties: [...onto.parties, ...parties.map(({ id, ...party }) => ({ code: id, ...party }))],
    postingRules: [
      ...onto.postingRules,
      ...postingRules.map(({ kind, agencyId, only, account, valid }) => ({
        ...{ kind, agency: agencyId, only, account, ...valid },
      })),
    ],
    paymentMethods: [
      ...onto.paymentMethods,
      ...paymentMethods.map(({ id, ...method }) => ({ code: id, ...method })),
    ],
    locations: [...onto.locations, ...locations.map(({ id, ...location }) => ({ code: id, ...location }))],
  }
}

function statedRule(
  rule: NonNullable<DraftedParts['codeRules']>[number],
): BaselineImport['codeRules'][number] {
  const amount = (units: bigint | null): string | null =>
    units === null ? null : formatAmount(units, rule.currency ?? '')
  return {
    jurisdiction: rule.jurisdictionId,
    itemTaxCode: rule.itemTaxCode,
    treatment: rule.treatment,
    percent: rule.percent === null ? null : formatPercent(rule.percent),
    perUnit: rule.perUnit === null ? null : decimalOf(rule.perUnit, currencyDigits(rule.currency ?? '')),
    threshold: rule.threshold && { limit: amount(rule.threshold.limit) ?? '', taxes: rule.threshold.taxes },
    cap: amount(rule.cap),
    currency: rule.currency,
    recoverable: rule.recoverable === null ? null : formatPercent(rule.recoverable),
    ...rule.valid,
  }
}

/** Minor units for one unit of quantity, as a decimal of the currency: what was read from twelve places is written in them. */
function decimalOf({ numerator, denominator }: Ratio, digits: number): string {
  const scaled = (numerator * 10n ** BigInt(12 - digits)) / denominator
  const text = scaled.toString().padStart(13, '0')
  return `${text.slice(0, -12)}.${text.slice(-12)}`.replace(/\.?0+$/, '')
}
