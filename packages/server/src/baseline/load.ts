import { indexBaseline, type BaselineIndex } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { stamped } from '../database/stamped.ts'
import { AGENCY, COLLECTING, REGISTRATION, THRESHOLD } from './tables/agencies.ts'
import { AGREED_DEFAULT, CODE_RULE, ITEM, ITEM_TAX_CODE, itemsOf } from './tables/items.ts'
import { CERTIFICATE, HOME_ADDRESS, PARTY } from './tables/parties.ts'
import { COMBINED_RATE, JURISDICTION, RATE_VERSION, REGION_RULE, ROUNDING } from './tables/places.ts'
import { DIMENSION_VALUE, LINE_RULE, LOCATION, PAYMENT_METHOD, POSTING_RULE } from './tables/postings.ts'
import { rowsAt } from './tables/rowsAt.ts'
import type { BaselineTable } from './tables/table.ts'

const NOTHING_AGREED = { itemTaxCode: null, partiesTaxable: null, newItems: 'left-open' } as const

/**
 * The baseline as recorded now, or as it was at an instant that `recordedAt` gave, indexed for the core. The index is the caller's own: what
 * is remembered for it goes with it.
 */
export async function loadBaseline(books: Books, recordedAt: string | null = null): Promise<BaselineIndex> {
  const index = await stamped(books, { part: 'agreed', name: 'index', at: recordedAt }, (at) =>
    readIndex(books, at),
  )
  const { baseline } = index
  return { ...index, baseline: { ...baseline, jurisdictions: [...baseline.jurisdictions] } }
}

async function readIndex(
  books: Books,
  recordedAt: string | null,
): Promise<{ readonly value: BaselineIndex; readonly rows: number }> {
  let rows = 0
  const held = async <Row, Stated, Held>(of: BaselineTable<Row, Stated, Held>): Promise<Held[]> => {
    const all = await rowsAt(books, of, { recordedAt, order: 'recorded' })
    rows += all.length
    return all.map((row) => of.toHeld(row))
  }
  const value = indexBaseline({
    homeAddress: (await held(HOME_ADDRESS))[0] ?? null,
    defaults: (await held(AGREED_DEFAULT))[0] ?? NOTHING_AGREED,
    agencies: await held(AGENCY),
    jurisdictions: await held(JURISDICTION),
    rateVersions: await held(RATE_VERSION),
    combinedRates: await held(COMBINED_RATE),
    itemTaxCodes: await held(ITEM_TAX_CODE),
    items: itemsOf(await held(ITEM)),
    codeRules: await held(CODE_RULE),
    regionRules: await held(REGION_RULE),
    parties: await held(PARTY),
    certificates: await held(CERTIFICATE),
    registrations: await held(REGISTRATION),
    thresholds: await held(THRESHOLD),
    collecting: await held(COLLECTING),
    roundings: await held(ROUNDING),
    postingRules: await held(POSTING_RULE),
    paymentMethods: await held(PAYMENT_METHOD),
    locations: await held(LOCATION),
    dimensions: await held(DIMENSION_VALUE),
    lineRules: await held(LINE_RULE),
  })
  return { value, rows }
}
