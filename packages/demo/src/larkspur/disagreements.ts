/** One thing that is set up otherwise than agreed: in which grid, on which row, in which system (none: in the baseline's own papers), and as which finding. */
export interface Disagreement {
  readonly align: string
  readonly row: string
  readonly system: string | null
  readonly finding: string
}

const of = (
  align: string,
  rows: readonly (readonly [row: string, system: string | null, ...findings: string[]])[],
): Disagreement[] =>
  rows.flatMap(([row, system, ...findings]) =>
    findings.map((finding) => ({ align, row, system, finding: `AXION_${finding}` })),
  )

/** What systems fall back on where nothing says otherwise. */
const FALLEN_BACK_ON: readonly Disagreement[] = [
  ...of('rates', [['(new)', 'commerce', 'DEFAULT_RATE']]),
  ...of('parties', [
    ['commerce web_102', 'commerce', 'ALIGN_EXTRA', 'PARTY_RATE'],
    ['commerce web_103', 'commerce', 'ALIGN_EXTRA', 'PARTY_FLAG'],
  ]),
]

/**
 * The answer key of the set-up: everything that was planted, as it shows once clear links are accepted. What nearly matches stays a
 * proposal until somebody looks at it. The application never reads this.
 */
export function disagreements(): Disagreement[] {
  return [
    ...FALLEN_BACK_ON,
    ...of('rates', [
      ['WN-FEN', 'ledger', 'RATE_PERCENT'],
      ['WN-PLX', 'pos', 'RATE_PERCENT'],
      ['TK', 'purchasing', 'RATE_PERCENT'],
      ['WN-HOL', 'commerce', 'RATE_SPLIT'],
      ['BK-FUEL', 'commerce', 'RATE_LEVY'],
      ['WN', 'commerce', 'RATE_OFF'],
      ['TK', 'ledger', 'RATE_COMING'],
      ['TK-MER', 'ledger', 'RATE_COMING'],
      ['TK', 'commerce', 'RATE_COMING'],
      ['billing rate_typed', 'billing', 'ALIGN_TWICE', 'RATE_FLAT'],
      ['pos till_TK-MER', 'pos', 'ALIGN_EXTRA', 'RATE_FLAT'],
    ]),
    ...of('agencies', [
      ['CPL', 'ledger', 'AGENCY_ACCOUNT'],
      ['MCA', 'ledger', 'AGENCY_ACCOUNT'],
      ['HCT', 'ledger', 'ALIGN_NOT_LINKED', 'ALIGN_NAME'],
      ['MCA', 'pos', 'ALIGN_NOT_LINKED', 'ALIGN_NAME'],
    ]),
    ...of('codes', [['pos CLOTHES', 'pos', 'ALIGN_EXTRA']]),
    ...of('items', [
      ['FRAME-D', 'billing', 'ALIGN_NAME'],
      ['GLOVES', 'billing', 'ITEM_TAX_CODE'],
      ['HONEY-H', 'billing', 'ITEM_FLAG'],
      ['COMB', 'billing', 'ITEM_ON_DEFAULT'],
      ['GIFT-50', null, 'OWED_AS_INCOME'],
      ['SUIT-V', 'pos', 'ITEM_TAX_CODE'],
      ['HONEY-5', 'pos', 'ITEM_ON_DEFAULT'],
      ['TOOL-J', 'commerce', 'ALIGN_NAME'],
      ['SEED-C', 'commerce', 'ITEM_TAX_CODE'],
      ['commerce web_BALM-60', 'commerce', 'ALIGN_EXTRA'],
      ['(new)', 'commerce', 'DEFAULT_CODE'],
    ]),
    ...of('parties', [
      // What September's sales show: one sold to without tax after its certificate ended, and one taxed in spite of a good one.
      ['cus_ostler', null, 'SALES_WITHOUT_CERTIFICATE'],
      ['cus_thistledown', null, 'SALES_TAXED_IN_SPITE'],
      ['cus_ostler', null, 'CERTIFICATE_EXPIRED'],
      ['cus_kestrel', null, 'CERTIFICATE_EXPIRING'],
      ['cus_kestrel', 'commerce', 'PARTY_TWICE'],
      ['cus_counter', 'billing', 'CATCH_ALL'],
      ['billing cus_almshouse', 'billing', 'ALIGN_EXTRA'],
      ['cus_thistledown', 'commerce', 'PARTY_CLAIMS'],
      ['cus_tollgate', null, 'CERTIFICATE_MISSING'],
      ['(new)', 'commerce', 'DEFAULT_PARTY'],
      ['commerce web_foldgate', 'commerce', 'ALIGN_UNDECIDED'],
    ]),
    ...of('accounts', [
      ['rounding', null, 'NO_RULE'],
      ['tax WRO', null, 'ACCOUNT_SHARED'],
      ['clearing method CASH', 'ledger', 'ACCOUNT_ABSENT'],
      ['clearing method MARKET', 'ledger', 'ACCOUNT_TYPE'],
    ]),
    ...of('methods', [
      ['GIFT', 'pos', 'METHOD_KIND'],
      ['TRANSFER', 'purchasing', 'METHOD_OFF'],
      ['YARD-CARD', 'purchasing', 'ALIGN_STALE_LINK'],
      ['WEB-CARD', 'payments-web', 'ALIGN_NOT_LINKED', 'ALIGN_NAME'],
      ['MARKET', 'commerce', 'ALIGN_NOT_LINKED', 'ALIGN_NAME'],
      ['purchasing pm_card_office', 'purchasing', 'ALIGN_EXTRA'],
      ['payments brk_card', 'payments', 'ALIGN_EXTRA'],
    ]),
    ...of('locations', [
      ['QUAY', 'pos', 'LOCATION_CUT_OFF'],
      ['MARKET', 'pos', 'LOCATION_JURISDICTION'],
      ['WH', 'commerce', 'LOCATION_ADDRESS'],
      ['FAIR', null, 'LOCATION_NOWHERE'],
      ['FAIR', 'pos', 'LOCATION_JURISDICTION'],
    ]),
    ...of('dimensions', [
      ['Department: YARD', 'ledger', 'ALIGN_NAME'],
      ['Department: WEB', 'ledger', 'DIMENSION_OFF'],
      ['Department: INSP', 'ledger', 'ALIGN_ABSENT'],
      ['ledger dept_MAIL', 'ledger', 'ALIGN_EXTRA'],
    ]),
  ]
}
