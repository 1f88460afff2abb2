import { propose, type BaselineIndex, type Comparable, type Evidence, type Proposal } from '@axion/core'
import { parsePercent } from '@axion/core'
import type { HeldSystem, LinkKind } from '../connect/held.ts'

/** What a system's object stands for: by a link that somebody accepted, or by a proposal from evidence. */
export interface Standing {
  readonly objectId: string
  readonly name: string
  readonly linkedTo: string | null
  readonly proposal: Proposal
}

/** A system's agencies and rates beside the baseline's. A proposal may be shown; it is never a fact about money. */
export interface Crosswalk {
  readonly agencies: readonly Standing[]
  readonly rates: readonly Standing[]
  /** The baseline agency that an object stands for, by link or else by an unambiguous proposal. */
  readonly agencyOf: (objectId: string) => string | null
  readonly rateOf: (objectId: string) => string | null
}

export function crosswalk(system: HeldSystem, index: BaselineIndex, date: string): Crosswalk {
  const { baseline } = index
  const ourAgencies = baseline.agencies.map((a): Comparable => ({ id: a.id, code: a.code, name: a.name, components: null, jurisdictions: null }))
  const agencies = system.agencies.map(({ id, value }): Standing => ({
    objectId: id, name: value.name, linkedTo: system.agencyOf(id),
    proposal: propose({ id, code: value.code, name: value.name, components: null, jurisdictions: null }, ourAgencies),
  }))
  const agencyOf = (objectId: string): string | null => standsFor(agencies.find((a) => a.objectId === objectId))

  const ourRates = baseline.combinedRates.filter((rate) => rate.valid.from <= date && (rate.valid.to === null || date <= rate.valid.to)).map((rate): Comparable => {
    const components = index.componentsOn(rate, date)
    return { id: rate.id, code: rate.code, name: rate.name, components: componentText(components.map((c) => c.percent ?? 0n)), jurisdictions: agencyText(components.map((c) => c.agencyId)) }
  })
  const rates = system.rates.map(({ id, value }): Standing => {
    const components = value.components?.map((c) => parsePercent(c.percent)) ?? null
    const owners = value.components?.map((c) => agencyOf(c.agencyId)) ?? [null]
    const theirs: Comparable = {
      id, code: value.code, name: value.name, components: components && componentText(components),
      jurisdictions: owners.every((owner) => owner !== null) ? agencyText(owners) : null,
    }
    return { objectId: id, name: value.name, linkedTo: system.combinedRateOf(id), proposal: propose(theirs, ourRates) }
  })
  return { agencies, rates, agencyOf, rateOf: (objectId) => standsFor(rates.find((r) => r.objectId === objectId)) }
}

export function standingsOf(walk: Crosswalk, kind: LinkKind): readonly Standing[] {
  return kind === 'agency' ? walk.agencies : walk.rates
}

export function standsFor(standing: Standing | undefined): string | null {
  if (!standing) return null
  return standing.linkedTo ?? (standing.proposal.kind === 'proposal' ? standing.proposal.candidate.id : null)
}

export function evidenceOf(standing: Standing): readonly Evidence[] {
  return standing.proposal.kind === 'proposal' ? standing.proposal.candidate.evidence : []
}

/** Clear enough to be accepted with others at once: more than a name that nearly matches. */
export function isClear(standing: Standing): boolean {
  return standing.linkedTo === null && evidenceOf(standing).some((e) => e !== 'near-name')
}

function componentText(percents: readonly bigint[]): string {
  return [...percents].sort((a, b) => (a < b ? -1 : 1)).join('+')
}

/** A system names agencies rather than jurisdictions: the set of agencies stands for the set of places. */
function agencyText(agencies: readonly (string | null)[]): string {
  return [...agencies].sort().join('+')
}
