import type { Evidence } from '@axion/core'

/** What a proposal rests on, in words. */
export const EVIDENCE_WORDS: Readonly<Record<Evidence, string>> = {
  'same-code': 'same code', 'same-name': 'same name', 'same-percent-and-components': 'same percent and components', 'same-jurisdictions': 'same agencies', 'near-name': 'a name that nearly matches',
}
