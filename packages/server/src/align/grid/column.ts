import { wordsOf, type GridCell, type GridObject, type GridRow, type Severity } from '@axion/contract'
import type { Found, KindOfSetUp, BaselineRow, AlignedSystem } from '../kinds/kind.ts'
import { evidenceOf, isClear, standsFor, type Standing } from '../../setUp/crosswalk.ts'
import { foldName, groupBy, nearName } from '@axion/core'
import { compareNames } from './compareNames.ts'
import { findingKey } from '../../setUp/stake.ts'

/** A finding of one row, and the system that it is about; null where it is about the baseline alone. */
export interface PlacedFinding extends Found {
  readonly severity: Severity
  readonly systemId: string | null
  /** Under which the tax at stake by it is kept; null where none can be. */
  readonly key: string | null
}

export interface BuiltRow extends BaselineRow {
  readonly extra: GridRow['extra']
  readonly cells: readonly GridCell[]
  readonly findings: readonly PlacedFinding[]
}

export interface Column {
  readonly aligned: AlignedSystem
  readonly systemId: string
  readonly standings: readonly Standing[]
  readonly byRow: ReadonlyMap<string, readonly Standing[]>
  readonly questions: ReadonlyMap<string, number>
  isSecond(standing: Standing): boolean
}

export function columnOf(kind: KindOfSetUp, aligned: AlignedSystem): Column {
  const standings = kind.link === null ? [] : aligned.crosswalk.of(kind.link)
  const byRow = groupBy(
    standings.filter((s) => standsFor(s) !== null),
    (s) => standsFor(s) ?? '',
  )
  const questions = new Map<string, number>()
  for (const { linkedTo, proposal } of standings) {
    if (linkedTo === null && proposal.kind === 'question')
      for (const { id } of proposal.candidates) questions.set(id, (questions.get(id) ?? 0) + 1)
  }
  // A second object of one system that claims what another has: linked, or with stronger evidence.
  const isSecond = (standing: Standing): boolean =>
    standing.linkedTo === null &&
    (byRow.get(standsFor(standing) ?? '') ?? []).some(
      (other) => other !== standing && (other.linkedTo !== null || strength(other) > strength(standing)),
    )
  return { aligned, systemId: aligned.held.row.system_id, standings, byRow, questions, isSecond }
}

const STRENGTH = [
  'near-name',
  'same-jurisdictions',
  'same-percent-and-components',
  'same-name',
  'same-code',
] as const

function strength(standing: Standing): number {
  return Math.max(-1, ...evidenceOf(standing).map((e) => STRENGTH.indexOf(e)))
}

export function objectOf(
  kind: KindOfSetUp,
  {
    name,
    systemId,
    standing,
  }: { readonly name: string; readonly systemId: string; readonly standing: Standing },
  { agrees, words, fields }: Pick<GridObject, 'agrees' | 'words' | 'fields'>,
): GridObject {
  return {
    id: standing.objectId,
    name: standing.name,
    linked: standing.linkedTo !== null,
    gone: false,
    agrees,
    words,
    fields,
    evidence: evidenceOf(standing),
    clear: isClear(standing),
    names: kind.link === 'item-tax-code' || name === standing.name ? null : compareNames(name, standing.name),
    finding: findingKey(systemId, kind.link ?? 'item', standing.objectId),
  }
}

export function placed(found: Found, systemId: string | null, key: string | null): PlacedFinding {
  return { ...found, severity: wordsOf(found.code).severity, systemId, key }
}

/** Names that are the same after folding and not as they stand, or that nearly match. */
export function isAlmost(ours: string, theirs: string): boolean {
  return ours !== theirs && (foldName(ours) === foldName(theirs) || nearName(ours, theirs))
}
