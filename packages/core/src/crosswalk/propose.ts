import { groupBy } from '../baseline/lookup.ts'
import { foldName, nearName } from './folding.ts'
import { NearIndex } from './nearIndex.ts'

/** In the order of their weight (K15). */
export const EVIDENCE = [
  'same-code',
  'same-name',
  'same-percent-and-components',
  'same-jurisdictions',
  'near-name',
] as const
export type Evidence = (typeof EVIDENCE)[number]

/** What of an object can be held against another's. An absent field is no evidence. */
export interface Comparable {
  readonly id: string
  readonly code: string | null
  readonly name: string
  /** The percent and components as one canonical text; null where a flat rate has no components. */
  readonly components: string | null
  readonly jurisdictions: string | null
}

export interface Candidate {
  readonly id: string
  readonly evidence: readonly Evidence[]
}

/** One candidate with the strongest evidence is a proposal; two with equal evidence are a question. */
export type Proposal =
  | { readonly kind: 'proposal'; readonly candidate: Candidate }
  | { readonly kind: 'question'; readonly candidates: readonly Candidate[] }
  | { readonly kind: 'none' }

/** Evidence that a system's object is the baseline's, strongest first. */
export function evidenceFor(baseline: Comparable, system: Comparable): Evidence[] {
  const tests: Record<Evidence, boolean> = {
    'same-code': same(baseline.code, system.code, foldName),
    'same-name': foldName(baseline.name) === foldName(system.name),
    'same-percent-and-components': same(baseline.components, system.components),
    'same-jurisdictions': same(baseline.jurisdictions, system.jurisdictions),
    'near-name': nearName(baseline.name, system.name),
  }
  return EVIDENCE.filter((evidence) => tests[evidence])
}

/** The baseline's objects of one kind, to be asked again and again what a system's object may be. */
export interface Catalogue {
  /** Which of them a system's object should be linked to. */
  propose(system: Comparable): Proposal
}

export function catalogueOf(baseline: readonly Comparable[]): Catalogue {
  const by = (key: (object: Comparable) => string | null): ReadonlyMap<string, readonly Comparable[]> =>
    groupBy(
      baseline.filter((object) => (key(object) ?? '') !== ''),
      (object) => key(object) ?? '',
    )
  const keys = [
    ({ code }: Comparable) => code && foldName(code),
    ({ name }: Comparable) => foldName(name),
    ({ components }: Comparable) => components,
    ({ jurisdictions }: Comparable) => jurisdictions,
  ]
  const maps = keys.map((key) => ({ key, found: by(key) }))
  const near = new NearIndex(baseline.map((object) => [object.name, object] as const))
  return {
    propose: (system) => {
      const known = new Set([
        ...maps.flatMap(({ key, found }) => found.get(key(system) ?? '') ?? []),
        ...near.near(system.name),
      ])
      return weighed([...known].map((object) => ({ id: object.id, evidence: evidenceFor(object, system) })))
    },
  }
}

/** Which of a baseline's objects a system's object should be linked to. */
export function propose(system: Comparable, baseline: readonly Comparable[]): Proposal {
  return catalogueOf(baseline).propose(system)
}

function weighed(found: readonly Candidate[]): Proposal {
  const candidates = found
    .filter((candidate) => candidate.evidence.length > 0)
    .sort((a, b) => weigh(b) - weigh(a) || (a.id < b.id ? -1 : 1))
  const [first] = candidates
  if (!first) return { kind: 'none' }
  const equals = candidates.filter((candidate) => weigh(candidate) === weigh(first))
  return equals.length === 1
    ? { kind: 'proposal', candidate: first }
    : { kind: 'question', candidates: equals }
}

/** Lexicographic: no number of weaker proofs outweighs a stronger one. */
function weigh({ evidence }: Candidate): number {
  return EVIDENCE.reduce((weight, kind) => weight * 2 + (evidence.includes(kind) ? 1 : 0), 0)
}

function same(a: string | null, b: string | null, fold = (text: string): string => text): boolean {
  return a !== null && b !== null && a !== '' && fold(a) === fold(b)
}
