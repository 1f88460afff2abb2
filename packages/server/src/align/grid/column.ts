import { wordsOf, type GridCell, type GridObject, type GridRow, type Severity } from '@axion/contract'
import type { Found, KindOfSetUp, BaselineRow, AlignedSystem } from '../kinds/kind.ts'
import { evidenceOf, isClear, standsFor, type MatchedObject } from '../../setUp/crosswalk.ts'
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
  /** In the order of the grid: it stays where it is, whatever comes and goes around it. */
  readonly place: number
  /** Whether another row of the baseline bears its name. */
  readonly shared: boolean
  readonly extra: GridRow['extra']
  readonly cells: readonly GridCell[]
  readonly findings: readonly PlacedFinding[]
}

/** What a row goes by that stands for a system's object beyond the baseline. */
export const extraId = (systemId: string, objectId: string): string => `${systemId} ${objectId}`

export interface Column {
  readonly aligned: AlignedSystem
  readonly systemId: string
  readonly matched: readonly MatchedObject[]
  readonly byRow: ReadonlyMap<string, readonly MatchedObject[]>
  readonly questions: ReadonlyMap<string, number>
  isSecond(match: MatchedObject): boolean
}

export function columnOf(kind: KindOfSetUp, aligned: AlignedSystem): Column {
  const matched = kind.link === null ? [] : aligned.crosswalk.of(kind.link)
  const byRow = groupBy(
    matched.filter((s) => standsFor(s) !== null),
    (s) => standsFor(s) ?? '',
  )
  const questions = new Map<string, number>()
  for (const { linkedTo, proposal } of matched) {
    if (linkedTo === null && proposal.kind === 'question')
      for (const { id } of proposal.candidates) questions.set(id, (questions.get(id) ?? 0) + 1)
  }
  // A second object of one system that claims what another has: linked, or with stronger evidence.
  const isSecond = (match: MatchedObject): boolean =>
    match.linkedTo === null &&
    (byRow.get(standsFor(match) ?? '') ?? []).some(
      (other) => other !== match && (other.linkedTo !== null || strength(other) > strength(match)),
    )
  return { aligned, systemId: aligned.held.row.system_id, matched, byRow, questions, isSecond }
}

const STRENGTH = [
  'near-name',
  'same-jurisdictions',
  'same-percent-and-components',
  'same-name',
  'same-code',
] as const

function strength(match: MatchedObject): number {
  return Math.max(-1, ...evidenceOf(match).map((e) => STRENGTH.indexOf(e)))
}

export function objectOf(
  kind: KindOfSetUp,
  {
    name,
    systemId,
    match,
  }: { readonly name: string; readonly systemId: string; readonly match: MatchedObject },
  { agrees, words, fields }: Pick<GridObject, 'agrees' | 'words' | 'fields'>,
): GridObject {
  return {
    id: match.objectId,
    name: match.name,
    linked: match.linkedTo !== null,
    gone: false,
    agrees,
    words,
    fields,
    evidence: evidenceOf(match),
    clear: isClear(match),
    names: kind.link === 'item-tax-code' || name === match.name ? null : compareNames(name, match.name),
    finding: findingKey(systemId, kind.link ?? 'item', match.objectId),
  }
}

export function placed(found: Found, systemId: string | null, key: string | null): PlacedFinding {
  return { ...found, severity: wordsOf(found.code).severity, systemId, key }
}

/** Names that are the same after folding and not as they stand, or that nearly match. */
export function isAlmost(ours: string, theirs: string): boolean {
  return ours !== theirs && (foldName(ours) === foldName(theirs) || nearName(ours, theirs))
}
