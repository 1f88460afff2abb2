import type { CopyStanding } from '@axion/contract'
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
