import { groupBy } from '../baseline/lookup.ts'
import type { VoiceFacts } from '../tieout/facts.ts'
import { FINEST, grainOf, type Grain } from '../tieout/members.ts'

import { agree } from '../tieout/signature.ts'
import { assume, candidatesOf, causeKey, rankOf, type Assumption } from './causes/index.ts'
import type { Changed, Recomputable } from './causes/cause.ts'
import { recompute, UNCHANGED } from './recompute.ts'

/** What reproduces a voice exactly: one assumption, or two at a time. */
export type Explanation = readonly Assumption[]

export interface Diagnosis {
  readonly explanations: readonly Explanation[]
  /** Pairs of assumptions that were possible and were not tried: what they explain nobody knows. */
  readonly pairsLeft: number
}

/** Which account revenue stands in is a matter of its own: it explains no tax. */
const TAX_AND_NET: Grain = { ...FINEST, nets: 'total' }

/** How many pairs are tried for a unit that no single assumption explains. */
export const MOST_PAIRS = 1500

/**
 * The explanations that reproduce the odd voice exactly, as equals; none is `unexplained`, never the nearest guess (K10).
 * One assumption at a time first; then, where none does, two at a time by a bounded search, which says how much it left.
 * @param departures assumptions that the system's snapshot gives rise to
 */
export function diagnose(
  of: Recomputable,
  odd: VoiceFacts,
  departures: readonly Assumption[],
  mostPairs = MOST_PAIRS,
): Diagnosis {
  if (!of.determination.complete) return NONE
  const candidates = [
    ...departures.flatMap((departure) => onEachLine(departure, of.document)),
    ...candidatesOf(of),
  ]
  const start = UNCHANGED(of.document)
  // What shows a split is not explained by what has none.
  const splits = grainOf(odd).agency && odd.facts.some((fact) => fact.tax !== 0n)
  const reproduces = (voice: VoiceFacts | null): boolean =>
    voice !== null &&
    !(splits && !grainOf(voice).agency) &&
    agree(voice, odd, TAX_AND_NET) &&
    !agree(voice, of.expected, TAX_AND_NET)

  const concerned = candidates.flatMap((assumption) => {
    const changed = assume(assumption, start, of)
    return changed ? [{ assumption, changed, voice: recompute(changed, of) }] : []
  })
  const single = concerned
    .filter(({ voice }) => reproduces(voice))
    .map(({ assumption }): Explanation => [assumption])
  if (single.length > 0) return { explanations: withoutRepeats(single), pairsLeft: 0 }

  // Only what changes something by itself can be half of an explanation.
  const moving = concerned.filter(({ voice }) => voice !== null && !agree(voice, of.expected, TAX_AND_NET))
  const pairs: Explanation[] = []
  const possible = (moving.length * (moving.length - 1)) / 2
  let tried = 0
  for (const [at, first] of moving.entries()) {
    for (const second of moving.slice(at + 1)) {
      if (tried === mostPairs) return { explanations: withoutRepeats(pairs), pairsLeft: possible - tried }
      tried++
      // What changes the voice alone comes upon what the other was determined as already; which is assumed first is the same.
      const both = voiceAlone(first.changed, of)
        ? assume(first.assumption, second.changed, of)
        : assume(second.assumption, first.changed, of)
      if (both && reproduces(recompute(both, of))) pairs.push([first.assumption, second.assumption])
    }
  }
  return { explanations: withoutRepeats(pairs), pairsLeft: 0 }
}

const NONE: Diagnosis = { explanations: [], pairsLeft: 0 }

function voiceAlone({ document, assumed }: Changed, of: Recomputable): boolean {
  return document === of.document && Object.keys(assumed).length === 0
}

/** Two ways of the same mistake are one explanation. */
function withoutRepeats(explanations: readonly Explanation[]): Explanation[] {
  return [...groupBy(explanations, explanationKey).values()].map(([first]) => first as Explanation)
}

/** An item may stand on the default code by itself, among others that have their own. */
function onEachLine(departure: Assumption, { lines }: Recomputable['document']): Assumption[] {
  if (departure.kind !== 'default-code' || lines.length < 2) return [departure]
  return [
    departure,
    ...lines
      .filter((line) => line.kind !== 'shipping' && line.itemTaxCode !== departure.itemTaxCode)
      .map((line) => ({ ...departure, lineId: line.id })),
  ]
}

export function explanationKey(explanation: Explanation): string {
  return explanation.map(causeKey).sort().join(' + ')
}

/** Equals in the order of how many of the entity's other differences the same explanation accounts for. */
export function ranked<E extends { readonly assumptions: Explanation }>(
  explanations: readonly E[],
  explains: (explanation: E) => number,
): E[] {
  const place = ({ assumptions }: E): number => Math.max(...assumptions.map(rankOf))
  // Where nothing else tells them apart, in one order, whatever order they were in before.
  const name = ({ assumptions }: E): string => explanationKey(assumptions)
  return [...explanations].sort(
    (a, b) =>
      explains(b) - explains(a) ||
      a.assumptions.length - b.assumptions.length ||
      place(a) - place(b) ||
      (name(a) < name(b) ? -1 : 1),
  )
}
