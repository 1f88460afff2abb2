import type { LinkKind } from '@axion/contract'
import {
  catalogueOf,
  covers,
  parsePercent,
  remembered,
  type BaselineIndex,
  type Catalogue,
  type Comparable,
  type Evidence,
  type Proposal,
} from '@axion/core'
import { dimensionId } from '../baseline/tables/postings.ts'
import type { HeldSystem } from './held.ts'

/** What a system's object stands for: by a link that somebody accepted, by bearing its code, or by a proposal from evidence. */
export interface MatchedObject {
  readonly objectId: string
  readonly name: string
  /** Whether documents of the system may name it. */
  readonly linkedTo: string | null
  readonly proposal: Proposal
}

/** A system's objects beside the baseline's. A proposal may be shown; it is never a fact about money. */
export interface Crosswalk {
  of(kind: LinkKind): readonly MatchedObject[]
  find(kind: LinkKind, objectId: string): MatchedObject | undefined
  /** The baseline's objects that one of the system's may stand for, linked as it is or to nothing. */
  claimsOf(kind: LinkKind, objectId: string): readonly string[]
  /** The baseline object that an object stands for, by link or else by an unambiguous proposal. */
  readonly agencyOf: (objectId: string) => string | null
  readonly rateOf: (objectId: string) => string | null
}

/** Items, parties, item tax codes, payment methods, places and dimensions meet by their codes where they have any; agencies and rates bear names of each system's own, and need links. */
const MEET_BY_CODE: readonly LinkKind[] = [
  'item',
  'party',
  'item-tax-code',
  'payment-method',
  'location',
  'dimension',
]
const NONE: Proposal = { kind: 'none' }

export function crosswalk(system: HeldSystem, index: BaselineIndex, date: string): Crosswalk {
  const known = new Map<LinkKind, readonly MatchedObject[]>()
  const maps = new Map<LinkKind, ReadonlyMap<string, MatchedObject>>()
  const of = (kind: LinkKind): readonly MatchedObject[] => {
    const found =
      known.get(kind) ??
      theirsOf(kind, system, own).map((theirs) => matchOf(kind, theirs, { system, index, date }))
    known.set(kind, found)
    return found
  }
  const find = (kind: LinkKind, objectId: string): MatchedObject | undefined => {
    const map = maps.get(kind) ?? new Map(of(kind).map((s) => [s.objectId, s]))
    maps.set(kind, map)
    return map.get(objectId)
  }
  const claimsOf = (kind: LinkKind, objectId: string): readonly string[] => {
    const match = find(kind, objectId)
    const theirs = match && theirsOf(kind, system, own).find(({ id }) => id === objectId)
    if (!match || !theirs) return []
    const { ids, catalogue } = ours(kind, index, date)
    const byCode = theirs.code !== null && ids.has(theirs.code) ? [theirs.code] : []
    return [...new Set([...claimedBy(match), ...byCode, ...candidatesOf(catalogue.propose(theirs))])]
  }
  const own: Crosswalk = {
    of,
    find,
    claimsOf,
    agencyOf: (objectId) => standsFor(find('agency', objectId)),
    rateOf: (objectId) => standsFor(find('combined-rate', objectId)),
  }
  return own
}

function matchOf(
  kind: LinkKind,
  theirs: Comparable,
  {
    system,
    index,
    date,
  }: { readonly system: HeldSystem; readonly index: BaselineIndex; readonly date: string },
): MatchedObject {
  const base = { objectId: theirs.id, name: theirs.name }
  const linkedTo =
    system.linkOf(kind, theirs.id) ??
    (MEET_BY_CODE.includes(kind) && theirs.code !== null && ours(kind, index, date).ids.has(theirs.code)
      ? theirs.code
      : null)
  if (linkedTo !== null && MEET_BY_CODE.includes(kind)) return { ...base, linkedTo, proposal: NONE }
  return { ...base, linkedTo, proposal: ours(kind, index, date).catalogue.propose(theirs) }
}

interface Ours {
  readonly ids: ReadonlySet<string>
  readonly catalogue: Catalogue
}
const OURS = new WeakMap<BaselineIndex, Map<string, Ours>>()

/** The baseline's objects of a kind, made ready once for all systems. */
function ours(kind: LinkKind, index: BaselineIndex, date: string): Ours {
  return remembered(OURS, index, `${kind} ${date}`, () => {
    const all = comparablesOf(kind, index, date)
    return { ids: new Set(all.map(({ id }) => id)), catalogue: catalogueOf(all) }
  })
}

function comparablesOf(kind: LinkKind, index: BaselineIndex, date: string): Comparable[] {
  const { baseline } = index
  const plain = ({ id, name }: { readonly id: string; readonly name: string }): Comparable => ({
    id,
    code: id,
    name,
    components: null,
    jurisdictions: null,
  })
  switch (kind) {
    case 'agency':
      return baseline.agencies.map((a) => ({ ...plain(a), code: a.code }))
    case 'item-tax-code':
      return baseline.itemTaxCodes.map(plain)
    case 'item':
      return baseline.items.map(plain)
    case 'party':
      return baseline.parties.map(plain)
    case 'payment-method':
      return baseline.paymentMethods.map(plain)
    case 'location':
      return baseline.locations.map(plain)
    case 'dimension':
      return baseline.dimensions.map(plain)
    case 'combined-rate':
      return baseline.combinedRates
        .filter((rate) => covers(rate.valid, date))
        .map((rate) => {
          const components = index.componentsOn(rate, date)
          return {
            ...plain(rate),
            code: rate.code,
            components: componentText(components.map((c) => c.percent ?? 0n)),
            jurisdictions: agencyText(components.map((c) => c.agencyId)),
          }
        })
  }
}

function theirsOf(kind: LinkKind, system: HeldSystem, own: Crosswalk): Comparable[] {
  const bare = { components: null, jurisdictions: null }
  switch (kind) {
    case 'agency':
      return system.agencies.map(({ id, value }) => ({ id, code: value.code, name: value.name, ...bare }))
    case 'item':
      return system.items.map(({ id, value }) => ({ id, code: value.code, name: value.name, ...bare }))
    case 'payment-method':
      return system.methods.map(({ id, value }) => ({ id, code: value.code, name: value.name, ...bare }))
    case 'location':
      return system.locations.map(({ id, value }) => ({ id, code: value.code, name: value.name, ...bare }))
    case 'dimension':
      return system.dimensions.map(({ id, value }) => ({
        id,
        code: dimensionId(value.dimension, value.code),
        name: value.name,
        ...bare,
      }))
    case 'party':
      return system.parties.map(({ id, value }) => ({ id, code: id, name: value.name, ...bare }))
    // A system's codes are those on its items, the one on which the others stand, and those that it lists.
    case 'item-tax-code': {
      const names = new Map(system.codes.map(({ value }) => [value.code, value.name]))
      const codes = new Set([
        ...system.items.flatMap(({ value }) => value.itemTaxCode ?? []),
        ...(system.row.settings?.defaultItemTaxCode ? [system.row.settings.defaultItemTaxCode] : []),
        ...names.keys(),
      ])
      return [...codes].sort().map((code) => ({ id: code, code, name: names.get(code) ?? code, ...bare }))
    }
    case 'combined-rate':
      return system.rates.map(({ id, value }) => {
        const components = value.components?.map((c) => parsePercent(c.percent)) ?? null
        const owners = value.components?.map((c) => own.agencyOf(c.agencyId)) ?? [null]
        return {
          id,
          code: value.code,
          name: value.name,
          components: components && componentText(components),
          jurisdictions: owners.every((owner) => owner !== null) ? agencyText(owners) : null,
        }
      })
  }
}

function candidatesOf(proposal: Proposal): readonly string[] {
  switch (proposal.kind) {
    case 'proposal':
      return [proposal.candidate.id]
    case 'question':
      return proposal.candidates.map(({ id }) => id)
    case 'none':
      return []
  }
}

/** The baseline's objects that one stands for, or may. */
export function claimedBy({ linkedTo, proposal }: MatchedObject): readonly string[] {
  return [...(linkedTo === null ? [] : [linkedTo]), ...candidatesOf(proposal)]
}

export function standsFor(match: MatchedObject | undefined): string | null {
  if (!match) return null
  return match.linkedTo ?? (match.proposal.kind === 'proposal' ? match.proposal.candidate.id : null)
}

export function evidenceOf(match: MatchedObject): readonly Evidence[] {
  return match.proposal.kind === 'proposal' ? match.proposal.candidate.evidence : []
}

/** Clear enough to be accepted with others at once: more than a name that nearly matches. */
export function isClear(match: MatchedObject): boolean {
  return match.linkedTo === null && evidenceOf(match).some((e) => e !== 'near-name')
}

function componentText(percents: readonly bigint[]): string {
  return [...percents].sort((a, b) => (a < b ? -1 : 1)).join('+')
}

/** A system names agencies rather than jurisdictions: the set of agencies stands for the set of places. */
function agencyText(agencies: readonly (string | null)[]): string {
  return [...agencies].sort().join('+')
}
