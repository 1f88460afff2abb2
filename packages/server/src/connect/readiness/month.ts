import { describe, placeOf } from '@axion/core'
import { pass, type Rule } from './rule.ts'

/** Whether the month can be worked. */
export const MONTH_CHECKS: readonly Rule[] = [
  {
    code: 'places-resolve',
    group: 'Places',
    roles: ['billing', 'pos', 'commerce'],
    blocks: false,
    question: 'Do its own and its ship-from addresses lie in known jurisdictions?',
    why: 'An address in no jurisdiction, or in two alike, leaves open who taxes a sale.',
    mend: 'Complete the address there, or the jurisdictions’ covers in the baseline.',
    test: ({ baseline, places, pulled }) => {
      if (!pulled) return ['open', 'Nothing of it has been pulled yet']
      const lost = places.filter(
        ({ address }) => placeOf(address, baseline.baseline.jurisdictions).findings.length > 0,
      )
      return pass({
        holds: lost.length === 0,
        fact:
          places.length === 0
            ? 'It states none'
            : lost.length === 0
              ? `All ${places.length} do`
              : `${lost.map(({ name, address }) => `${name} (${describe(address)})`).join(', ')} ${lost.length === 1 ? 'does' : 'do'} not`,
      })
    },
  },
  {
    code: 'period-open',
    group: 'History',
    roles: ['ledger'],
    blocks: true,
    question: 'Is the month open for posting?',
    why: 'In a locked month every booking is refused.',
    mend: 'Unlock the month there, or work in the next.',
    test: ({ settings, month }) =>
      pass({
        holds: settings.lockedThrough === null || settings.lockedThrough < `${month}-01`,
        fact:
          settings.lockedThrough === null ? 'Nothing is locked' : `Locked through ${settings.lockedThrough}`,
      }),
  },
  {
    code: 'already-there',
    group: 'History',
    roles: ['ledger'],
    blocks: false,
    question: 'Is the month free of entries of others on tax accounts?',
    why: 'What somebody booked by hand or by another way would be booked twice.',
    mend: 'Look at the entries in Tie out; remove those that are doubles.',
    test: ({ entriesOfOthers, month, pulled }) =>
      pulled
        ? pass({
            holds: entriesOfOthers === 0,
            fact: entriesOfOthers === 0 ? `None in ${month}` : `${entriesOfOthers} in ${month}`,
          })
        : ['open', 'Its entries have not been pulled yet'],
  },
]
