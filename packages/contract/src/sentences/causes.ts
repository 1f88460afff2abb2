import type { CauseFacts } from '../api/evidence.ts'

const WHY: Readonly<Record<string, string>> = {
  waiting: 'They wait to be posted.',
  sending: 'They are being sent.',
  sent: 'They were sent, and the ledger has not been pulled since.',
  failed: 'The ledger refused them, or did not answer.',
  'in-doubt': 'Nobody knows whether the ledger has them.',
  withdrawn: 'They were taken back out of the ledger.',
}

const HEADLINES: Readonly<Record<string, string>> = {
  orphan: 'The ledger holds tax that no source document stands behind',
  duplicate: 'The ledger holds them more than once',
  voided: 'They are void on one side only',
  currency: 'The two sides are in different currencies',
  period: 'The ledger has them in another month',
  account: 'The amounts are right, the account is not',
  rounding: 'Another rounding place gives exactly these amounts',
  agency: 'The total is right, its split between agencies is not',
  amount: 'The amounts differ',
  edited: 'Somebody changed them in the ledger after they were booked',
}

/** A cause in one or two sentences; `date` writes a date the way the reader is used to. */
export function sayCause(facts: CauseFacts, date: (iso: string) => string): string {
  switch (facts.kind) {
    case 'component-percent':
      return `${facts.system} holds ${facts.jurisdiction} at ${facts.theirs}\u00a0% in “${facts.rate}”. The baseline has ${facts.ours}\u00a0%${facts.since ? ` since ${date(facts.since)}` : ''}.`
    case 'liability-account':
      return `${facts.system} posts the tax of ${facts.agency} to ${facts.theirs}. It belongs in ${facts.ours}.`
    case 'missing':
      return `Not in the ledger. ${WHY[facts.why] ?? ''}`
    case 'unexplained':
      return `${HEADLINES[facts.headline] ?? facts.headline}. No single assumption reproduces it: ${facts.odd.length === 1 ? `${facts.odd[0]} stands alone` : 'no two voices agree'}.`
  }
}
