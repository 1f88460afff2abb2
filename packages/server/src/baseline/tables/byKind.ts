import type { BaselineSheet } from '@axion/contract'
import { AGENCY, COLLECTING, REGISTRATION, THRESHOLD } from './agencies.ts'
import { CODE_RULE, ITEM, ITEM_TAX_CODE } from './items.ts'
import { CERTIFICATE, PARTY } from './parties.ts'
import { COMBINED_RATE, JURISDICTION, RATE_VERSION, REGION_RULE, ROUNDING } from './places.ts'
import { DIMENSION_VALUE, LINE_RULE, LOCATION, PAYMENT_METHOD, POSTING_RULE } from './postings.ts'
import type { BaselineTable } from './table.ts'

/** A table of the baseline by the sheet of its objects, where it does not matter which. */
export const TABLE_OF = {
  agencies: AGENCY,
  jurisdictions: JURISDICTION,
  rateVersions: RATE_VERSION,
  combinedRates: COMBINED_RATE,
  itemTaxCodes: ITEM_TAX_CODE,
  items: ITEM,
  codeRules: CODE_RULE,
  registrations: REGISTRATION,
  thresholds: THRESHOLD,
  collecting: COLLECTING,
  roundings: ROUNDING,
  regionRules: REGION_RULE,
  parties: PARTY,
  certificates: CERTIFICATE,
  postingRules: POSTING_RULE,
  paymentMethods: PAYMENT_METHOD,
  locations: LOCATION,
  dimensions: DIMENSION_VALUE,
  rules: LINE_RULE,
} as const satisfies Readonly<Record<BaselineSheet, object>> as Readonly<
  Record<BaselineSheet, BaselineTable<object, unknown, unknown>>
>
