import {
  formatAmount,
  formatPercent,
  groupBy,
  TIE_WORDS,
  type BaselineIndex,
  type CodeRule,
  type Decided,
  type Decision,
  type Doubt,
  type DraftedParts,
  type Jurisdiction,
  type RoundingPlace,
} from '@axion/core'

/** Why somebody has to say, as it reads after what is drafted. */
const DOUBT_WORDS: Readonly<Record<Doubt, string>> = {
  'near-name': 'the names nearly match, and may be of two',
  'two-of-one': 'one system has it twice',
  'systems-differ': 'the systems differ',
  'documents-differ': 'some documents say otherwise',
  'limit-between': 'the limit lies between two prices that were seen',
  'nobody-says': 'no system says',
  'fit-equally': 'several ways explain the documents equally',
  'other-components': 'the systems make it up of other components',
  'no-place': 'no document shows where it holds',
  turns: 'since when it holds is seen in documents alone',
  'by-unit':
    'a part of it is an amount per unit, which a standard rate cannot have: a rule of its item tax code says it',
  'explains-nothing': 'no way of rounding explains a document',
}

/** The same, with the prices between which a limit lies. */
export function sayDoubt(doubt: Doubt, { between }: Pick<Decision, 'between'>, currency: string): string {
  return doubt === 'limit-between' && between
    ? `the limit lies above ${formatAmount(between.above, currency)} and at ${formatAmount(between.upTo, currency)} ${currency} at most`
    : DOUBT_WORDS[doubt]
}

/** How tax is rounded, in words. */
export function sayRounding({ level, unit, tie }: RoundingPlace): string {
  return `each ${level}, ${unit === 'combined' ? 'all components together' : 'component by component'}, ${TIE_WORDS[tie]}`
}

/** What an answer would put into the baseline, in words. */
export function sayOption(
  about: Decided,
  parts: DraftedParts,
  { index, account }: { readonly index: BaselineIndex; readonly account: (number: string) => string },
): string {
  const placeName = (id: string): string => index.jurisdiction(id)?.name ?? id
  switch (about) {
    case 'agency':
      return `as ${parts.agencies?.[0]?.code ?? ''}`
    case 'place':
      return sayPlace(parts, index)
    case 'rate':
      return (parts.combinedRates ?? [])
        .map(({ jurisdictionIds }) => jurisdictionIds.map(placeName).join(' + '))
        .join('; ')
    case 'code':
      return sayRules(parts.codeRules ?? [], placeName)
    case 'item':
      return `under ${parts.items?.[0]?.itemTaxCode ?? ''}`
    case 'party':
      return parts.parties?.[0]?.claims == null ? 'claims no exemption' : `claims ${parts.parties[0].claims}`
    case 'method':
      return parts.paymentMethods?.[0]?.kind.replaceAll('-', ' ') ?? ''
    case 'location': {
      const { city = null, region = null, country = '' } = parts.locations?.[0]?.address ?? {}
      return [city, region ?? country].filter((one) => one !== null).join(', ')
    }
    case 'rounding':
      return parts.roundings?.[0] ? sayRounding(parts.roundings[0].place) : ''
    case 'region': {
      const [rule] = parts.regionRules ?? []
      const reasons = rule?.exemptionReasons ?? []
      return `at the destination, by the day of supply, ${rule?.taxedBeforeDiscount ? 'before' : 'after'} discounts${reasons.length > 0 ? `; accepts ${reasons.join(', ')}` : ''}`
    }
    case 'posting':
      return `to ${account(parts.postingRules?.[0]?.account ?? '')}`
  }
}

function sayPlace({ jurisdictions = [], rateVersions = [] }: DraftedParts, index: BaselineIndex): string {
  const [place] = jurisdictions
  if (!place) return ''
  if (rateVersions.length === 0) return 'nothing of its own is charged there'
  const percents = rateVersions.map(({ percent, valid }) => `${formatPercent(percent)} % from ${valid.from}`)
  return `${percents.join(', ')}; ${sayBounds(place)}; owed to ${index.agency(place.agencyId ?? '')?.name ?? ''}`
}

function sayBounds({ covers, level }: Jurisdiction): string {
  const cities = [
    ...new Set(
      covers.flatMap(({ city, postalCode }) =>
        city === undefined || postalCode !== undefined ? [] : [city],
      ),
    ),
  ]
  const codes = covers.flatMap(({ postalCode }) => postalCode ?? [])
  if (cities.length === 0 && codes.length === 0)
    return level === 'country' ? 'in the whole country' : 'in the whole region'
  return `in ${[...cities, ...codes].join(', ')}`
}

function sayRules(rules: readonly CodeRule[], placeName: (id: string) => string): string {
  if (rules.length === 0) return 'sold nowhere yet: no rule'
  return [...groupBy(rules, sayRule)]
    .map(([text, of]) => `${text} in ${of.map(({ jurisdictionId }) => placeName(jurisdictionId)).join(', ')}`)
    .join('; ')
}

function sayRule({ treatment, percent, threshold, cap, currency }: CodeRule): string {
  const limit = (units: bigint): string => `${formatAmount(units, currency ?? '')} ${currency ?? ''}`
  return [
    treatment === 'reduced' && percent !== null
      ? `${formatPercent(percent)} %`
      : treatment.replaceAll('-', ' '),
    ...(threshold === null
      ? []
      : [`${threshold.taxes === 'whole' ? 'from' : 'on what is over'} ${limit(threshold.limit)}`]),
    ...(cap === null ? [] : [`on no more than ${limit(cap)}`]),
  ].join(' ')
}
