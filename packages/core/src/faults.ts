/**
 * The stable codes of everything that the core can refuse or remark on.
 * Sentences for people live in the contract package; a retired code is never used again.
 */
export const FAULT_CODES = [
  'AXION_NOT_A_DECIMAL',
  'AXION_RATE_OUT_OF_RANGE',
  'AXION_DIVISION_BY_NIL',
  'AXION_ALLOCATION_WITHOUT_WEIGHT',
  'AXION_ALLOCATION_OF_BOTH_SIGNS',
  'AXION_UNKNOWN_CURRENCY',
  'AXION_NOT_AN_AMOUNT',
  'AXION_AMOUNT_TOO_LARGE',
  'AXION_NOT_A_DATE',
  'AXION_JOURNAL_OUT_OF_BALANCE',
  'AXION_NO_POSTING_RULE',
  'AXION_NO_JURISDICTION',
  'AXION_TWO_JURISDICTIONS',
  'AXION_JURISDICTION_WITHOUT_AGENCY',
  'AXION_PLUS4_NEEDED',
  'AXION_NO_RATE_ON_DATE',
  'AXION_NO_CODE_RULE',
  'AXION_NO_ITEM_TAX_CODE',
  'AXION_NO_ROUNDING_PLACE',
  'AXION_TAX_WITHOUT_REGISTRATION',
  'AXION_RATE_NOT_LINKED',
  'AXION_AGENCY_NOT_LINKED',
  'AXION_SPLIT_NOT_STATED',
  'AXION_STATED_NOT_EXPECTED',
  'AXION_LIMIT_IN_OTHER_CURRENCY',
  'AXION_NO_PAYMENT_DATE',
  'AXION_SHIPPING_WITHOUT_GOODS',
  'AXION_EXEMPTION_WITHOUT_CERTIFICATE',
  'AXION_CATCH_ALL_CLAIMS',
  'AXION_REASON_NOT_ACCEPTED',
  'AXION_ORIGINAL_UNKNOWN',
  'AXION_LINE_NOT_ON_ORIGINAL',
  'AXION_CREDITED_BEYOND',
  'AXION_NO_EXCHANGE_RATE',
  'AXION_PRICE_WITHOUT_SOLUTION',
  'AXION_SHIPPING_FOLLOWS_OPEN_GOODS',
] as const

export type FaultCode = (typeof FAULT_CODES)[number]
export type Facts = Readonly<Record<string, string>>

/** Something the core remarks on without stopping: a code and the facts in it. */
export interface Finding {
  readonly code: FaultCode
  readonly facts: Facts
}

/** Remarks that leave the tax known: everything else that is found leaves the document open. */
const REMARKS: ReadonlySet<FaultCode> = new Set([
  'AXION_SHIPPING_WITHOUT_GOODS',
  'AXION_EXEMPTION_WITHOUT_CERTIFICATE',
  'AXION_CATCH_ALL_CLAIMS',
  'AXION_REASON_NOT_ACCEPTED',
  'AXION_ORIGINAL_UNKNOWN',
  'AXION_LINE_NOT_ON_ORIGINAL',
  'AXION_CREDITED_BEYOND',
])

export function leavesOpen({ code }: Finding): boolean {
  return !REMARKS.has(code)
}

/** What the core throws when it must refuse. */
export class Fault extends Error {
  constructor(
    readonly code: FaultCode,
    readonly facts: Facts,
  ) {
    super(`${code} ${JSON.stringify(facts)}`)
    this.name = 'Fault'
  }
}

export function fault(code: FaultCode, facts: Facts = {}): Fault {
  return new Fault(code, facts)
}
