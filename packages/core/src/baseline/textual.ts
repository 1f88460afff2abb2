import type { Baseline, Jurisdiction } from './baseline.ts'
import { groupBy } from './lookup.ts'

/** What an agency's own text says, and a system can only have copied: percents, what a code means, how tax is rounded, what else a region decides. */
export const TEXTUAL = ['rate', 'rule', 'rounding', 'region'] as const
export type TextualKind = (typeof TEXTUAL)[number]

type TextualParts = Pick<Baseline, 'rateVersions' | 'codeRules' | 'roundings' | 'regionRules'>

/** All versions of one such thing: the percents of a place, what one code means there. */
export interface Textual {
  readonly kind: TextualKind
  /** What it is of: a place, or a place and an item tax code. */
  readonly object: string
  readonly place: Jurisdiction
  /** Its values as text: the same for the same values, in whatever order. */
  readonly says: string
  readonly parts: Partial<TextualParts>
  /** The agencies whose tax rests on it: of a percent the one that collects it, of all else those of the place and of what lies within it. */
  readonly agencies: readonly string[]
}

const LISTS = {
  rate: 'rateVersions',
  rule: 'codeRules',
  rounding: 'roundings',
  region: 'regionRules',
} as const satisfies Record<TextualKind, keyof TextualParts>

interface Placed {
  readonly jurisdictionId: string
  readonly itemTaxCode?: string
}
function objectOf({ jurisdictionId, itemTaxCode }: Placed): string {
  return itemTaxCode === undefined ? jurisdictionId : `${jurisdictionId} ${itemTaxCode}`
}

/** Everything of a baseline that an agency's own text says, in the order of the places. */
export function textualOf(baseline: Baseline): Textual[] {
  const places = new Map(baseline.jurisdictions.map((place) => [place.id, place]))
  const within = agenciesWithin(baseline.jurisdictions)
  return TEXTUAL.flatMap((kind) => {
    const list: readonly Placed[] = baseline[LISTS[kind]]
    return [...groupBy(list, objectOf)].flatMap(([object, versions]): Textual[] => {
      const place = places.get(versions[0]?.jurisdictionId ?? '')
      if (!place) return []
      const own = place.agencyId === null ? [] : [place.agencyId]
      const agencies = kind === 'rate' ? own : (within.get(place.id) ?? [])
      return [
        { ...{ kind, object, place, agencies }, says: textOf(versions), parts: { [LISTS[kind]]: versions } },
      ]
    })
  })
}

/** The agencies that collect in a place and in all that lies within it. */
function agenciesWithin(places: readonly Jurisdiction[]): ReadonlyMap<string, readonly string[]> {
  const parents = new Map(places.map(({ id, parentId }) => [id, parentId]))
  const within = new Map<string, Set<string>>()
  for (const { id, agencyId } of places)
    for (let at: string | null = id, seen = new Set<string>(); at !== null && !seen.has(at);) {
      seen.add(at)
      const own = within.get(at) ?? new Set()
      if (agencyId !== null) own.add(agencyId)
      within.set(at, own)
      at = parents.get(at) ?? null
    }
  return new Map([...within].map(([id, agencies]) => [id, [...agencies].sort()]))
}

function textOf(versions: readonly object[]): string {
  return versions
    .map((version) =>
      JSON.stringify(
        Object.entries(version)
          .filter(([name]) => name !== 'id' && name !== 'jurisdictionId' && name !== 'itemTaxCode')
          .sort(([a], [b]) => (a < b ? -1 : 1)),
        (_, value: unknown) => (typeof value === 'bigint' ? String(value) : value),
      ),
    )
    .sort()
    .join('\n')
}

/** What of a draft an agency's own text says, by kind and object. */
export function textualKeys(parts: Partial<TextualParts>): (readonly [TextualKind, string])[] {
  return TEXTUAL.flatMap((kind) => {
    const list: readonly Placed[] = parts[LISTS[kind]] ?? []
    return [...new Set(list.map(objectOf))].map((object) => [kind, object] as const)
  })
}
