import type { RoundingPlace } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import type { VoiceFacts } from '../tieout/facts.ts'
import { agree } from '../tieout/signature.ts'
import { assume, causeKey, type Assumption } from './causes/index.ts'
import type { Recomputable } from './causes/cause.ts'
import { otherPlaces } from './causes/rounding.ts'
import { combinedRatesOf } from './combinedRates.ts'
import { recompute, UNCHANGED } from './recompute.ts'

/** A document of a system with what that system made of it. */
export interface Observed extends Recomputable {
  readonly voice: VoiceFacts
}

/** How a system takes a rate: as the baseline has it, or under an assumption. Null is the baseline's own. */
export type RateWay = Extract<Assumption, { readonly kind: 'component-percent' | 'rate-date' }> | null

/** A configuration that reproduces documents: where it rounds, and how it takes each of its rates; several where nothing tells them apart. */
export interface Way {
  readonly place: RoundingPlace
  readonly rates: ReadonlyMap<string, readonly RateWay[]>
}

export interface Learned {
  /** Every configuration that reproduces all documents, as equals. */
  readonly fitting: readonly Way[]
  /** Where none does: the nearest, what it does not predict, and the day from which it stops, if it held until then. */
  readonly nearest: {
    readonly place: RoundingPlace
    readonly unpredicted: readonly string[]
    readonly changedOn: IsoDate | null
  } | null
}

/**
 * Infers a system's ways from its own documents (K17), by exact search over K1's places and, for each of its rates, the baseline's
 * percents, those that its snapshot holds, and those of another version's date.
 * @param observed documents of one region, so of one expected rounding place; those that are incomplete say nothing
 * @param departures what the system's snapshot holds otherwise
 */
export function learnWays(observed: readonly Observed[], departures: readonly Assumption[]): Learned {
  const documents = observed.filter((o) => o.determination.complete && o.determination.rounding !== null)
  const [first] = documents
  if (!first?.determination.rounding) return { fitting: [], nearest: null }
  const places = [first.determination.rounding, ...otherPlaces(first.determination.rounding)]
  const ways = places.map((place) => wayAt(place, documents, departures))
  const fitting = ways.filter((way) => way.unpredicted.length === 0)
  if (fitting.length > 0)
    return { fitting: fitting.map(({ place, rates }) => ({ place, rates })), nearest: null }
  const nearest = [...ways].sort((a, b) => a.unpredicted.length - b.unpredicted.length)[0]
  return {
    fitting: [],
    nearest: nearest
      ? {
          place: nearest.place,
          unpredicted: nearest.unpredicted.map((o) => o.document.number),
          changedOn: changeOf(documents, nearest.unpredicted),
        }
      : null,
  }
}

interface Tried extends Way {
  readonly unpredicted: readonly Observed[]
}

function wayAt(
  place: RoundingPlace,
  documents: readonly Observed[],
  departures: readonly Assumption[],
): Tried {
  const rates = new Map<string, readonly RateWay[]>()
  const unpredicted: Observed[] = []
  for (const [rate, own] of groupBy(documents, (o) =>
    combinedRatesOf(o.document, o.determination, o.index).join(' + '),
  )) {
    const settings = rateWaysOf(own, departures)
    const reproduced = settings.map((setting) => own.filter((o) => reproduces(place, setting, o)))
    const most = Math.max(...reproduced.map((of) => of.length))
    rates.set(
      rate,
      settings.filter((_, at) => reproduced[at]?.length === most),
    )
    const best = reproduced.find((of) => of.length === most) ?? []
    unpredicted.push(...own.filter((o) => !best.includes(o)))
  }
  return { place, rates, unpredicted }
}

function rateWaysOf(documents: readonly Observed[], departures: readonly Assumption[]): RateWay[] {
  const percents = departures.filter((d): d is Exclude<RateWay, null> => d.kind === 'component-percent')
  const dates = new Set(
    documents.flatMap(({ determination, index }) =>
      determination.jurisdictions.flatMap((j) => index.ratesOf(j.id)).map((v) => v.valid.from),
    ),
  )
  return [null, ...percents, ...[...dates].sort().map((date): RateWay => ({ kind: 'rate-date', date }))]
}

function reproduces(place: RoundingPlace, setting: RateWay, of: Observed): boolean {
  const own = of.determination.rounding
  const same = own?.level === place.level && own.unit === place.unit && own.tie === place.tie
  let changed: ReturnType<typeof assume> = UNCHANGED(of.document)
  if (!same) changed = assume({ kind: 'rounding', place }, changed, of)
  if (setting && changed) changed = assume(setting, changed, of)
  const voice = changed && recompute(changed, of)
  return voice !== null && agree(voice, of.voice)
}

/** The day from which nothing is predicted any more, where everything was before it: a silent change. */
function changeOf(documents: readonly Observed[], unpredicted: readonly Observed[]): IsoDate | null {
  const dateOf = ({ document }: Observed): IsoDate => document.documentDate
  const from = unpredicted.map(dateOf).sort()[0]
  if (from === undefined) return null
  const after = documents.filter((o) => dateOf(o) >= from)
  return after.length === unpredicted.length ? from : null
}

/** Two ways of taking a rate are one where they have the same key. */
export function rateWayKey(way: RateWay): string {
  return way === null ? 'as the baseline' : causeKey(way)
}
