import type { BaselineImport } from '@axion/contract'
import { AGENCY, COLLECTING, REGISTRATION, THRESHOLD } from './tables/agencies.ts'
import { AGREED_DEFAULT, CODE_RULE, ITEM, ITEM_TAX_CODE } from './tables/items.ts'
import { CERTIFICATE, HOME_ADDRESS, PARTY } from './tables/parties.ts'
import { COMBINED_RATE, JURISDICTION, RATE_VERSION, REGION_RULE, ROUNDING } from './tables/places.ts'
import { DIMENSION_VALUE, LINE_RULE, LOCATION, PAYMENT_METHOD, POSTING_RULE } from './tables/postings.ts'
import type { BaselineRow, BaselineTable } from './tables/table.ts'

/** Which rows an import asks for, table by table. The object's id is its code, or what it is a rule about. */
export function rowsOf(baseline: BaselineImport): Readonly<Record<string, BaselineRow[]>> {
  const rows = <Row, Stated, Held>(
    of: BaselineTable<Row, Stated, Held>,
    stated: readonly Stated[],
  ): [string, BaselineRow[]] => [of.table, stated.map((one, place) => of.toRow(one, place))]
  return Object.fromEntries([
    rows(AGENCY, baseline.agencies),
    rows(JURISDICTION, baseline.jurisdictions),
    rows(RATE_VERSION, baseline.rateVersions),
    rows(COMBINED_RATE, baseline.combinedRates),
    rows(ITEM_TAX_CODE, baseline.itemTaxCodes),
    rows(ITEM, baseline.items),
    rows(CODE_RULE, baseline.codeRules),
    rows(REGISTRATION, baseline.registrations),
    rows(ROUNDING, baseline.roundings),
    rows(REGION_RULE, baseline.regionRules),
    rows(PARTY, baseline.parties),
    rows(CERTIFICATE, baseline.certificates),
    rows(HOME_ADDRESS, baseline.homeAddress ? [baseline.homeAddress] : []),
    rows(AGREED_DEFAULT, baseline.defaults ? [baseline.defaults] : []),
    rows(POSTING_RULE, baseline.postingRules),
    rows(THRESHOLD, baseline.thresholds),
    rows(COLLECTING, baseline.collecting),
    rows(PAYMENT_METHOD, baseline.paymentMethods),
    rows(LOCATION, baseline.locations),
    rows(LINE_RULE, baseline.rules),
    rows(DIMENSION_VALUE, baseline.dimensions),
  ])
}
