import { findingOf, TAKEN_IN_KINDS, type Remedy } from '@axion/contract'
import { standsFor, type MatchedObject } from '../../setUp/crosswalk.ts'
import { findingKey } from '../../setUp/stake.ts'
import type { HeldSystem } from '../../setUp/held.ts'
import type { Found, GridBasis, KindOfSetUp } from '../kinds/kind.ts'
import { extraId, objectOf, placed, type BuiltRow, type Column } from './column.ts'

export function extrasOf(
  kind: KindOfSetUp,
  column: Column,
  columns: readonly Column[],
  {
    basis,
    names,
    first,
    concerned,
  }: {
    readonly basis: GridBasis
    /** Of the baseline's rows. */
    readonly names: ReadonlyMap<string, string>
    /** The place of the column's first object. */
    readonly first: number
    /** The rows that are wanted; null for all. */
    readonly concerned: ReadonlySet<string> | null
  },
): BuiltRow[] {
  const {
    aligned: { held },
    systemId,
  } = column
  return column.matched.flatMap((match, at): BuiltRow[] => {
    const id = extraId(systemId, match.objectId)
    if (concerned?.has(id) === false) return []
    const stands = standsFor(match)
    const gone = stands !== null && !names.has(stands)
    if (stands !== null && !gone && !column.isSecond(match)) return []
    if (!kind.matters(held, match.objectId, basis)) return []
    const candidates = candidatesOf(match, names)
    const key = findingKey(systemId, kind.link ?? 'item', match.objectId)
    const facts = { system: held.row.name, name: match.name, theirs: match.name, object: match.name }
    const words = kind.says(held, match.objectId, basis)
    const found: Found =
      gone && match.linkedTo !== null
        ? findingOf('AXION_ALIGN_STALE_LINK', { ...facts, name: stands })
        : stands !== null && !gone
          ? findingOf('AXION_ALIGN_TWICE', { ...facts, name: names.get(stands) ?? stands })
          : candidates.length > 1
            ? findingOf('AXION_ALIGN_UNDECIDED', {
                ...facts,
                names: candidates.map((c) => `${c.name} (${c.id})`).join(' or '),
              })
            : findingOf('AXION_ALIGN_EXTRA', facts)
    const flat =
      kind.kind === 'rates' && held.rates.find((r) => r.id === match.objectId)?.value.components === null
    const object = objectOf(kind, { name: match.name, systemId, match }, { agrees: false, words, fields: [] })
    const align = TAKEN_IN_KINDS.find((one) => one === kind.kind)
    // What has candidates is a question of linking; what is typed by hand has no components to take in.
    const takingIn: Remedy[] =
      align && found.code === 'AXION_ALIGN_EXTRA' && candidates.length === 0 && !flat
        ? [{ kind: 'take-in', align, systemId, objectId: match.objectId }]
        : []
    return [
      {
        id,
        place: first + at,
        shared: false,
        name: match.name,
        group: 'Held by a system, and linked to nothing',
        detail: `in ${held.row.name}`,
        total: '',
        extra: { systemId, system: held.row.name, objectId: match.objectId, candidates },
        cells: columns.map((other) =>
          other === column
            ? { systemId, state: 'differs', words, objects: [object], remedies: takingIn }
            : { systemId: other.systemId, state: 'none', words: '', objects: [], remedies: [] },
        ),
        findings: [
          found,
          ...(flat ? [flatRate(held, match, held.row.name)] : []),
          ...(kind.found?.(basis, held, match.objectId) ?? []),
        ].map((one) => placed(one, systemId, key)),
      },
    ]
  })
}

/** What an object may be, by the names that the baseline calls it. */
function candidatesOf(
  { proposal }: MatchedObject,
  names: ReadonlyMap<string, string>,
): NonNullable<BuiltRow['extra']>['candidates'] {
  const all =
    proposal.kind === 'proposal'
      ? [proposal.candidate]
      : proposal.kind === 'question'
        ? proposal.candidates
        : []
  return all.map((candidate) => ({ ...candidate, name: names.get(candidate.id) ?? candidate.id }))
}

/** A rate that is typed by hand, without parts. */
function flatRate({ rates }: HeldSystem, { objectId, name }: MatchedObject, system: string): Found {
  const theirs = rates.find((rate) => rate.id === objectId)?.value.percent ?? ''
  return findingOf('AXION_RATE_FLAT', { system, name, theirs })
}
