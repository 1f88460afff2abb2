import {
  absolute,
  agree,
  allocate,
  commonGrain,
  membersOf,
  sum,
  type Exchange,
  type Voice,
  type VoiceFacts,
} from '@axion/core'
import { inBaseCurrency } from '../documents/units.ts'

type InBase = ReturnType<typeof inBaseCurrency>

/** What one voice says, with its amounts in the base currency. */
export interface Spoken {
  readonly voice: Voice
  readonly of: VoiceFacts
  readonly inBase: InBase
}

/** The voices that speak, each with its amounts in the base currency. */
export function voicesInBase(
  { stated, expected, booked }: Readonly<Record<Voice, VoiceFacts | null>>,
  exchange: Exchange | null,
): Spoken[] {
  const claimed = expected && { of: expected, inBase: inBaseCurrency(expected, exchange) }
  const follows = stated && claimed && exchange && agree(stated, claimed.of)
  const said = (voice: Voice, of: VoiceFacts | null): Spoken[] =>
    of ? [{ voice, of, inBase: inBaseCurrency(of, exchange) }] : []
  return [
    ...(follows
      ? [{ voice: 'stated' as const, of: stated, inBase: asExpected(stated, claimed.of, claimed.inBase) }]
      : said('stated', stated)),
    ...(claimed ? [{ voice: 'expected' as const, ...claimed }] : []),
    ...said('booked', booked),
  ]
}

/** A stated voice that agrees with the expected one comes to the same in the base currency, to the unit. */
function asExpected(stated: VoiceFacts, expected: VoiceFacts, claimed: InBase): InBase {
  const grain = { ...commonGrain(stated, expected), account: false, bases: false, inBase: false }
  const keyOf = (agency: string | null): string => (grain.agency ? (agency ?? '') : '')
  const totals = new Map<string, bigint>()
  expected.facts.forEach((f, at) =>
    totals.set(keyOf(f.agency), (totals.get(keyOf(f.agency)) ?? 0n) + (claimed.facts[at] ?? 0n)),
  )
  const facts = stated.facts.map(() => 0n)
  for (const { agency } of membersOf(stated, grain)) {
    const own = stated.facts
      .map((f, at) => ({ f, at }))
      .filter(({ f }) => keyOf(f.agency) === keyOf(agency) && f.tax !== 0n)
    const parts = allocate(
      totals.get(keyOf(agency)) ?? 0n,
      own.map(({ f }) => absolute(f.tax)),
    )
    own.forEach(({ at }, place) => (facts[at] = parts[place] ?? 0n))
  }
  return { facts, nets: [sum(claimed.nets)] }
}
