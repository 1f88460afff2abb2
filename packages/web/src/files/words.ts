import type { ImportState } from '@axion/contract'

export const STATE_WORDS: Readonly<Record<ImportState, string>> = {
  opening: 'being opened',
  mapping: 'its columns are to be mapped',
  reading: 'being checked',
  read: 'checked, not taken',
  applying: 'being taken',
  applied: 'taken',
  cancelled: 'discarded',
  failed: 'could not be read',
}
