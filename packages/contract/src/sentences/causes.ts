import { isReproduced, sayReproduced } from '@axion/core'
import type { CauseFacts } from '../api/evidence.ts'
import { say } from './catalogue.ts'

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

/** Headlines that say all there is to say: nothing is recomputed for them. */
const PLAIN: readonly string[] = ['orphan', 'duplicate', 'voided', 'period', 'edited']

/** Whether a cause leaves open which part of a document it is in: a part that agrees is then said to. */
export function isSomewhere(facts: CauseFacts): boolean {
  return facts.kind === 'unexplained' && !PLAIN.includes(facts.headline)
}

function list(names: readonly string[]): string {
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`
}

/** A cause in one or two sentences; `date` writes a date the way the reader is used to. */
export function sayCause(facts: CauseFacts, date: (iso: string) => string): string {
  if (isReproduced(facts)) return sayReproduced(facts, date)
  switch (facts.kind) {
    case 'both':
      return `Two things at once. ${facts.parts.map((part) => sayCause(part, date)).join(' ')}`
    case 'undecided':
      return facts.wording === null
        ? say(facts.code, facts.facts).says
        : `“${facts.wording}”: nobody has decided how it is taxed. ${say(facts.code, facts.facts).says}`
    case 'flawed': {
      const { says, mend } = say(facts.code, facts.facts)
      return `${says} ${mend}`
    }
    case 'moved':
      return `The amounts are right, and stand in ${list(facts.to)} where they belong in ${list(facts.from)}.`
    case 'missing':
      return `Not in the ledger. ${WHY[facts.why] ?? ''}`
    case 'unexplained':
      return `${HEADLINES[facts.headline] ?? facts.headline}${PLAIN.includes(facts.headline) ? '.' : `. Neither one assumption nor two reproduce it: ${facts.odd.length === 1 ? `${facts.odd[0]} stands alone` : 'no two voices agree'}.`}`
  }
}
