import { findingOf, TAKEN_IN_KINDS, type Remedy } from '@axion/contract'
import { standsFor } from '../../setUp/crosswalk.ts'
import { findingKey } from '../../setUp/stake.ts'
import type { Found, KindOfSetUp } from '../kinds/kind.ts'
import { objectOf, placed, type BuiltRow, type Column } from './column.ts'

export function extrasOf(
  kind: KindOfSetUp,
  column: Column,
  columns: readonly Column[],
  names: ReadonlyMap<string, string>,
): BuiltRow[] {
  const {
    aligned: { held },
    systemId,
  } = column
  return column.matched.flatMap((match): BuiltRow[] => {
    const stands = standsFor(match)
    const gone = stands !== null && !names.has(stands)
    if (stands !== null && !gone && !column.isSecond(match)) return []
    if (!kind.matters(held, match.objectId)) return []
    const candidates = (
      match.proposal.kind === 'proposal'
        ? [match.proposal.candidate]
        : match.proposal.kind === 'question'
          ? match.proposal.candidates
          : []
    ).map((c) => ({ ...c, name: names.get(c.id) ?? c.id }))
    const key = findingKey(systemId, kind.link ?? 'item', match.objectId)
    const facts = { system: held.row.name, name: match.name, theirs: match.name, object: match.name }
    const words = kind.says(held, match.objectId)
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
        id: `${systemId} ${match.objectId}`,
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
          placed(found, systemId, key),
          ...(flat
            ? [
                placed(
                  findingOf('AXION_RATE_FLAT', {
                    ...facts,
                    theirs: held.rates.find((r) => r.id === match.objectId)?.value.percent ?? '',
                  }),
                  systemId,
                  key,
                ),
              ]
            : []),
        ],
      },
    ]
  })
}
