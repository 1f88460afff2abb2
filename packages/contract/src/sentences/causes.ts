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

const LEVEL = { unit: 'single unit', line: 'line', document: 'document' } as const
const UNIT = { component: 'each component', combined: 'the combined rate' } as const
/** How what is over a minor unit is settled, in words. */
export const TIE_WORDS: Readonly<Record<'half-away' | 'half-even' | 'truncate', string>> = {
  'half-away': 'halves away from nil',
  'half-even': 'halves to even',
  truncate: 'cut off',
}
const PLACE = {
  origin: 'where it was shipped from',
  destination: 'where it was shipped to',
  outlet: 'the outlet that sold it',
  party: 'the customer’s own address',
  entity: 'where the entity is at home',
} as const
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
  switch (facts.kind) {
    case 'component-percent':
      return `${facts.system} holds ${facts.jurisdiction} at ${facts.theirs}\u00a0% in “${facts.rate}”. The baseline has ${facts.ours}\u00a0%${facts.since ? ` since ${date(facts.since)}` : ''}.`
    case 'liability-account':
      return `${facts.system} posts the tax of ${facts.agency} to ${facts.theirs}. It belongs in ${facts.ours}.`
    case 'flat-rate':
      return `${facts.system} used the flat rate “${facts.rate}”, ${facts.percent}\u00a0% without components.`
    case 'default-code':
      return `${facts.system} has items on its default code ${facts.code} instead of their own.`
    case 'rounding':
      return `${facts.system} rounds ${UNIT[facts.unit]} by ${LEVEL[facts.level]}, ${TIE_WORDS[facts.tie]}.`
    case 'rate-date':
      return `${facts.system} used the rates of ${date(facts.date)}.`
    case 'rate-place':
      return `${facts.system} used the rates of ${PLACE[facts.place]}.`
    case 'named-rate':
      return `${facts.system} used the rate “${facts.rate}” that the document itself names, and not the one of its place and items${facts.enteredBy ? `; ${facts.enteredBy} entered it` : ''}.`
    case 'component-lost':
      return `${facts.system} left out the component of ${facts.jurisdiction}.`
    case 'one-agency':
      return `${facts.system} put every component to ${facts.agency}.`
    case 'shipping':
      return facts.taxed
        ? `${facts.system} taxed all of the shipping.`
        : `${facts.system} taxed none of the shipping.`
    case 'discount':
      return facts.beforeTax
        ? `${facts.system} took the discount off before tax.`
        : `${facts.system} took the discount off after tax.`
    case 'prices':
      return facts.includeTax
        ? `${facts.system} read prices before tax as if tax were inside.`
        : `${facts.system} put tax on prices that have it inside.`
    case 'exemption-ignored':
      return `${facts.system} taxed a customer whose certificate holds.`
    case 'exempted-without-certificate':
      return `${facts.system} taxed nothing, and no certificate covers the sale.`
    case 'sign':
      return `${facts.system} has it with the opposite sign: a credit as a sale, or a sale as a credit.`
    case 'line-left-out':
      return `${facts.system} left one line out.`
    case 'exchange-at-one':
      return `${facts.system} took amounts in another currency over unit for unit.`
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
