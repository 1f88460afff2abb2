import type { SystemData } from '../shared/sale.ts'

/** The day that Larkspur's books open on, and what stood in its ledger the evening before. */
export const OPENING_DAY = '2026-07-01'

/** Amounts as they stand in an account, in credit where they are positive. */
type Amounts = Readonly<Record<string, string>>

/** June as it was booked before: two invoices that are open still, the month's tax, gift cards, and what was carried forward. */
const JUNE: readonly (readonly [number: string, date: string, memo: string, amounts: Amounts])[] = [
  [
    '47901',
    '2026-06-11',
    'LA-20788 Meadowgate Orchards',
    { '1100': '-858.00', '4000': '800.00', '2210': '44.00', '2212': '10.00', '2216': '4.00' },
  ],
  [
    '47902',
    '2026-06-24',
    'LA-20794 Ferncombe Abbey',
    { '1100': '-536.25', '4000': '500.00', '2210': '27.50', '2212': '6.25', '2216': '2.50' },
  ],
  ['47903', '2026-06-18', 'Gift cards GC-0311 to GC-0314', { '1071': '-200.00', '2400': '200.00' }],
  ['47904', '2026-06-26', 'Gift card GC-0315', { '1071': '-75.00', '2400': '75.00' }],
  ['47905', '2026-06-29', 'Cards of June, paid out', { '1000': '-275.00', '1071': '275.00' }],
  ['47906', '2026-06-30', 'Carried forward', { '1000': '-18240.00', '1300': '-9615.00', '3000': '27855.00' }],
]

/** Entries of the ledger from before the opening day. */
export function openingEntries(): SystemData['objects'] {
  return JUNE.map(([number, postingDate, memo, amounts]) => ({
    resource: 'journal-entries',
    id: number,
    value: {
      number,
      ...{ bookingId: null, externalId: null, bookingRevision: null },
      postingDate,
      ...{ currency: 'USD', baseCurrency: 'USD' },
      memo,
      voided: false,
      changedBy: 'the bookkeeper',
      changedAt: `${postingDate}T17:00:00Z`,
      webAddress: null,
      lines: Object.entries(amounts).map(([account, amount]) => ({
        accountId: `acct_${account}`,
        description: memo,
        debit: amount.startsWith('-') ? amount.slice(1) : '0.00',
        credit: amount.startsWith('-') ? '0.00' : amount,
        ...{ agencyId: null, taxRateId: null, base: null, baseDebit: null, baseCredit: null },
      })),
    },
  }))
}
