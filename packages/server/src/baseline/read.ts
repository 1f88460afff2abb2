import { BaselineImport } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import { AGENCY, COLLECTING, REGISTRATION, THRESHOLD } from './tables/agencies.ts'
import { AGREED_DEFAULT, CODE_RULE, ITEM, ITEM_TAX_CODE } from './tables/items.ts'
import { CERTIFICATE, HOME_ADDRESS, PARTY } from './tables/parties.ts'
import { COMBINED_RATE, JURISDICTION, RATE_VERSION, REGION_RULE, ROUNDING } from './tables/places.ts'
import { DIMENSION_VALUE, LINE_RULE, LOCATION, PAYMENT_METHOD, POSTING_RULE } from './tables/postings.ts'
import { rowsAt } from './tables/rowsAt.ts'
import type { BaselineTable } from './tables/table.ts'

/** The whole baseline as it stands now, as an import would state it: importing it again changes nothing. */
export async function readBaseline(books: Books): Promise<BaselineImport> {
  const stated = async <Row, Stated, Held>(of: BaselineTable<Row, Stated, Held>): Promise<Stated[]> =>
    (await rowsAt(books, of, { recordedAt: null, order: 'named' })).map((row) => of.toStated(row))
  return BaselineImport.parse({
    homeAddress: (await stated(HOME_ADDRESS))[0] ?? null,
    defaults: (await stated(AGREED_DEFAULT))[0] ?? null,
    agencies: await stated(AGENCY),
    jurisdictions: await stated(JURISDICTION),
    rateVersions: await stated(RATE_VERSION),
    combinedRates: await stated(COMBINED_RATE),
    itemTaxCodes: await stated(ITEM_TAX_CODE),
    items: await stated(ITEM),
    codeRules: await stated(CODE_RULE),
    registrations: await stated(REGISTRATION),
    thresholds: await stated(THRESHOLD),
    collecting: await stated(COLLECTING),
    roundings: await stated(ROUNDING),
    regionRules: await stated(REGION_RULE),
    parties: await stated(PARTY),
    certificates: await stated(CERTIFICATE),
    postingRules: await stated(POSTING_RULE),
    paymentMethods: await stated(PAYMENT_METHOD),
    locations: await stated(LOCATION),
    rules: await stated(LINE_RULE),
    dimensions: await stated(DIMENSION_VALUE),
  } satisfies BaselineImport)
}
