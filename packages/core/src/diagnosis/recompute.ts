import type { RoundingPlace } from '../baseline/baseline.ts'
import type { Assumed, Determination } from '../determination/determination.ts'
import { determine } from '../determination/determine.ts'
import type { TaxDocument } from '../determination/document.ts'
import { remembered } from '../remembered.ts'
import { expectedVoice, type VoiceFacts } from '../tieout/facts.ts'
import type { Changed, Recomputable } from './causes/cause.ts'
import { otherPlaces } from './causes/rounding.ts'

export const UNCHANGED = (document: TaxDocument): Changed => ({ document, assumed: {}, voice: [] })

const AT_PLACES = new WeakMap<Determination, Map<string, VoiceFacts | null>>()

/** The expected voice at another rounding place; asked for by the facet `rounding` and by the diagnosis, and worked out once. */
function roundedAt(place: RoundingPlace, of: Recomputable): VoiceFacts | null {
  return remembered(AT_PLACES, of.determination, `${place.level} ${place.unit} ${place.tie}`, () => {
    const determination = determine(of.document, of.index, { rounding: place })
    return determination.complete ? expectedVoice(of.document, determination, of.index) : null
  })
}

/** The expected voice at every other place of K1, for the facet `rounding`. */
export function otherRoundings(of: Recomputable): VoiceFacts[] {
  const { rounding, complete } = of.determination
  if (!rounding || !complete) return []
  return otherPlaces(rounding).flatMap((place) => roundedAt(place, of) ?? [])
}

/** @returns null where the baseline cannot work the changed document out */
export function recompute({ document, assumed, voice }: Changed, of: Recomputable): VoiceFacts | null {
  if (document === of.document && voice.length === 0 && assumed.rounding && Object.keys(assumed).length === 1)
    return roundedAt(assumed.rounding, of)
  const untouched = document === of.document && Object.keys(assumed).length === 0
  const plain = untouched ? complete(of) : determined(document, assumed, of)
  return (
    plain && voice.reduce((changed, change) => change(changed, { ...of, document, ...plain }), plain.expected)
  )
}

/** Of what is incomplete, nobody can say what it comes to. */
function complete(of: Recomputable): Recomputable | null {
  return of.determination.complete ? of : null
}

type Determined = Pick<Recomputable, 'determination' | 'expected'>
const DETERMINED = new WeakMap<Assumed, Map<TaxDocument, Determined | null>>()

/** What a changed document comes to under what is assumed, worked out once for all that changes the voice alone. */
function determined(document: TaxDocument, assumed: Assumed, { index }: Recomputable): Determined | null {
  const known = DETERMINED.get(assumed) ?? new Map<TaxDocument, Determined | null>()
  DETERMINED.set(assumed, known)
  const found = known.get(document)
  if (found !== undefined) return found
  const determination = determine(document, index, assumed)
  const fresh = determination.complete
    ? { determination, expected: expectedVoice(document, determination, index) }
    : null
  known.set(document, fresh)
  return fresh
}
