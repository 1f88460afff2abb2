import { groupBy } from '../baseline/lookup.ts'
import { foldName } from '../crosswalk/folding.ts'
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
    const before = groups.map(({ members }, at) => ({ ...foremost(members), id: String(at) }))
    const find = finder(before)
    for (const thing of things) {
      const { at, sure } = find(thing) ?? { at: null, sure: true }
      const group = at === null ? undefined : groups[at]
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

/** What an object of a system after these may be: the only one of its code, else the only one of its name, else what all evidence speaks for. */
function finder(
  known: readonly Comparable[],
): (thing: Comparable) => { readonly at: number; readonly sure: boolean } | undefined {
  const by = (textOf: (of: Comparable) => string): ReadonlyMap<string, readonly Comparable[]> =>
    groupBy(
      known.filter((one) => textOf(one) !== ''),
      textOf,
    )
  const exact = [
    ({ code }: Comparable) => foldName(code ?? ''),
    ({ name }: Comparable) => foldName(name),
  ].map((textOf) => ({ textOf, found: by(textOf) }))
  const catalogue = catalogueOf(known)
  return (thing) => {
    for (const { textOf, found } of exact) {
      const same = found.get(textOf(thing)) ?? []
      if (same[0] && same.length === 1) return { at: Number(same[0].id), sure: true }
      if (same.length > 1) break
    }
    const proposal = catalogue.propose(thing)
    if (proposal.kind !== 'proposal') return undefined
    const { id, evidence } = proposal.candidate
    const sure = evidence.some((one) => SURE.includes(one))
    // Who has a code of its own is told from another by it, however near their names are.
    const other = known[Number(id)]?.code ?? ''
    const differ = (thing.code ?? '') !== '' && other !== '' && foldName(other) !== foldName(thing.code ?? '')
    return sure || (evidence.includes('near-name') && !differ) ? { at: Number(id), sure } : undefined
  }
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
