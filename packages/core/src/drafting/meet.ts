import { catalogueOf, type Comparable, type Evidence } from '../crosswalk/propose.ts'

/** An object of one of the systems. */
export interface Thing extends Comparable {
  readonly holderId: string
}

/** Objects of several systems that stand for one and the same. */
export interface Met<T extends Thing> {
  /** The first is of the first system that has it. */
  readonly members: readonly T[]
  /** What brought a member to the others, where that is less than certain: a near name, or two of one system. */
  readonly doubts: readonly ('near-name' | 'two-of-one')[]
}

/** Each suffices: they say the same of an object, and not that it looks alike. */
const SURE: readonly Evidence[] = ['same-code', 'same-name', 'same-percent-and-components']

/**
 * Brings together what stands for the same in several systems (K15). Two candidates with equal evidence are none: the object stays by itself.
 * @param systems each system's objects; one that comes later is held against those before it
 */
export function meet<T extends Thing>(systems: readonly (readonly T[])[]): Met<T>[] {
  const groups: { members: T[]; doubts: Met<T>['doubts'][number][] }[] = []
  for (const things of systems) {
    const known = catalogueOf(groups.map(({ members }, at) => ({ ...foremost(members), id: String(at) })))
    for (const thing of things) {
      const proposal = known.propose(thing)
      const evidence = proposal.kind === 'proposal' ? proposal.candidate.evidence : []
      const sure = evidence.some((one) => SURE.includes(one))
      const group =
        proposal.kind === 'proposal' && (sure || evidence.includes('near-name'))
          ? groups[Number(proposal.candidate.id)]
          : undefined
      if (!group) {
        groups.push({ members: [thing], doubts: [] })
        continue
      }
      if (!sure) group.doubts.push('near-name')
      if (group.members.some(({ holderId }) => holderId === thing.holderId)) group.doubts.push('two-of-one')
      group.members.push(thing)
    }
  }
  return groups
}

/** The first member, with the code of the first that has one. */
function foremost<T extends Thing>(members: readonly T[]): Comparable {
  const [first] = members as readonly [T]
  return { ...first, code: members.find(({ code }) => code !== null && code !== '')?.code ?? null }
}

/** How many systems have it. */
export function holdersOf(members: readonly { readonly holderId: string }[]): string[] {
  return [...new Set(members.map(({ holderId }) => holderId))]
}
