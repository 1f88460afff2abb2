import type { FAULT_FACTS, Facts, FactsIn, FaultCode } from '@axion/core'
import { BOOKINGS, BOOKINGS_FACTS } from './catalogue/bookings.ts'
import { BRIDGES, BRIDGES_FACTS } from './catalogue/bridges.ts'
import { COMPUTATION } from './catalogue/computation.ts'
import { REQUESTS, REQUESTS_FACTS } from './catalogue/requests.ts'
import type { Sentence } from './catalogue/sentence.ts'
import { SET_UP, SET_UP_FACTS } from './catalogue/setUp.ts'

export type { Sentence }

/** Codes of what the application itself refuses or remarks on, beside the core's. */
export const APPLICATION_FACTS = { ...REQUESTS_FACTS, ...BRIDGES_FACTS, ...BOOKINGS_FACTS, ...SET_UP_FACTS }
export type ApplicationCode = keyof typeof APPLICATION_FACTS
export const APPLICATION_CODES = Object.keys(APPLICATION_FACTS) as ApplicationCode[]
export type Code = FaultCode | ApplicationCode
/** The facts that a code's sentence has, and those that it may have. */
export type FactsOf<C extends Code> = FactsIn<(typeof FAULT_FACTS & typeof APPLICATION_FACTS)[C]>

/** Every code's sentence, in one language: the computation's, and the application's by what they are about. */
export const CATALOGUE: { readonly [C in Code]: Sentence<FactsOf<C>> } = {
  ...COMPUTATION,
  ...REQUESTS,
  ...BRIDGES,
  ...BOOKINGS,
  ...SET_UP,
}

/** A code with its facts, in words. */
export function say(code: Code, facts: Facts): { readonly says: string; readonly mend: string } {
  const { says, mend } = CATALOGUE[code] as Sentence
  return { says: says(facts), mend }
}

/** A code with the facts that its sentence needs, to be said later. */
export function saying<C extends Code>(code: C, facts: FactsOf<C>): { code: C; facts: Facts } {
  return { code, facts: facts as Facts }
}
