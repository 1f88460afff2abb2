import type { CopyStanding, CopyVersion, CopyView } from '@axion/contract'
import type StateMark from '../../figures/StateMark.vue'

/** How an object stands to the other legal entity's, and whether somebody has to look. */
export const COPY_MARKS: Readonly<
  Record<
    CopyStanding,
    { readonly state: InstanceType<typeof StateMark>['$props']['state']; readonly word: string }
  >
> = {
  new: { state: 'open', word: 'not here' },
  changed: { state: 'open', word: 'changed there' },
  differs: { state: 'breaks', word: 'another here' },
  gone: { state: 'open', word: 'gone there' },
  own: { state: 'holds', word: 'left as it is here' },
  off: { state: 'holds', word: 'left out here' },
}

type Row = CopyView['rows'][number]

/** What is agreed on each side, without the versions that both have. */
export function sidesIn(
  { here, there }: Row,
  day: (iso: string) => string,
): { readonly here: string; readonly there: string } {
  const [mine, theirs] = [here, there].map((versions) => versions.map((one) => sayVersion(one, day)))
  const apart = (own: readonly string[] = [], other: readonly string[] = []): string => {
    if (own.length === 0) return 'nothing'
    const alone = own.filter((text) => !other.includes(text))
    return alone.length === 0 ? 'nothing beside what both have' : alone.join('; ')
  }
  return { here: apart(mine, theirs), there: apart(theirs, mine) }
}

function sayVersion({ says, from, to }: CopyVersion, day: (iso: string) => string): string {
  const days = [from === null ? '' : `from ${day(from)}`, to === null ? '' : `until ${day(to)}`]
  return [says, ...days].filter(Boolean).join(', ') || 'agreed'
}
