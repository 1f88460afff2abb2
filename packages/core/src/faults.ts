/**
 * The stable codes of everything that the core can refuse or remark on.
 * Sentences for people live in the contract package; a retired code is never used again.
 */
export const FAULT_FACTS = {
  AXION_NOT_A_DECIMAL: { text: true },
  AXION_RATE_OUT_OF_RANGE: { percent: true },
  AXION_DIVISION_BY_NIL: {},
  AXION_ALLOCATION_WITHOUT_WEIGHT: {},
  AXION_ALLOCATION_OF_BOTH_SIGNS: {},
  AXION_UNKNOWN_CURRENCY: { currency: true },
  AXION_NOT_AN_AMOUNT: { text: true, currency: true },
  AXION_AMOUNT_TOO_LARGE: { text: true, currency: true, document: false },
  AXION_NOT_A_DATE: { text: true },
  AXION_JOURNAL_OUT_OF_BALANCE: { document: false, debit: false, credit: false },
  AXION_NO_POSTING_RULE: { kind: true, agency: false, document: false },
  AXION_NO_JURISDICTION: { level: true, address: true },
  AXION_TWO_JURISDICTIONS: { jurisdictions: true, address: true, level: false },
  AXION_JURISDICTION_WITHOUT_AGENCY: { jurisdiction: true },
  AXION_PLUS4_NEEDED: { jurisdiction: true, address: true },
  AXION_NO_RATE_ON_DATE: { jurisdiction: true, date: true },
  AXION_NO_CODE_RULE: { jurisdiction: true, itemTaxCode: true, date: true },
  AXION_NO_ITEM_TAX_CODE: { line: true, document: false },
  AXION_SALE_KIND_OPEN: { line: true, document: false, saleKind: true },
  AXION_NO_ROUNDING_PLACE: { region: true, document: false },
  AXION_TAX_WITHOUT_REGISTRATION: { document: false, agency: true },
  AXION_RATE_NOT_LINKED: { rate: true, document: false },
  AXION_AGENCY_NOT_LINKED: { agency: true, document: false },
  AXION_SPLIT_NOT_STATED: { rate: true, document: false },
  AXION_STATED_NOT_EXPECTED: { stated: false, document: false, expected: false, currency: false },
  AXION_LIMIT_IN_OTHER_CURRENCY: {
    jurisdiction: true,
    line: true,
    document: false,
    limitCurrency: false,
    currency: true,
  },
  AXION_NO_PAYMENT_DATE: { region: true, document: false },
  AXION_SHIPPING_WITHOUT_GOODS: { document: false, line: false },
  AXION_EXEMPTION_WITHOUT_CERTIFICATE: { party: true, reason: true, region: true, date: true },
  AXION_CATCH_ALL_CLAIMS: { party: true },
  AXION_REASON_NOT_ACCEPTED: { region: true, reason: true, party: true },
  AXION_ORIGINAL_UNKNOWN: { document: false },
  AXION_LINE_NOT_ON_ORIGINAL: { line: true, document: false, original: true },
  AXION_CREDITED_BEYOND: { document: false, original: true },
  AXION_NO_EXCHANGE_RATE: { document: false, currency: true },
  AXION_PRICE_WITHOUT_SOLUTION: { line: true, document: false },
  AXION_SHIPPING_FOLLOWS_OPEN_GOODS: { line: true, document: false },
} as const satisfies FactTable

/** The facts of each code by name: `true` where its sentence always has them, `false` where it may. */
export type FactTable = Readonly<Record<string, Readonly<Record<string, boolean>>>>
/** The facts of a code, as its table has them: who emits it cannot forget one. */
export type FactsIn<T extends Readonly<Record<string, boolean>>> = Readonly<
  { [K in keyof T as T[K] extends true ? K : never]: string } & {
    [K in keyof T as T[K] extends true ? never : K]?: string
  }
>
export type FaultCode = keyof typeof FAULT_FACTS
export const FAULT_CODES = Object.keys(FAULT_FACTS) as FaultCode[]
export type FaultFacts<C extends FaultCode> = FactsIn<(typeof FAULT_FACTS)[C]>
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

export function fault<C extends FaultCode>(
  code: C,
  ...[facts]: object extends FaultFacts<C> ? [FaultFacts<C>?] : [FaultFacts<C>]
): Fault {
  return new Fault(code, (facts ?? {}) as Facts)
}

/** A remark with the facts that its sentence needs. */
export function finding<C extends FaultCode>(code: C, facts: FaultFacts<C>): { code: C; facts: Facts } {
  return { code, facts: facts as Facts }
}
