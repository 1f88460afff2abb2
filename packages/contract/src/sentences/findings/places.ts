import { words, type With } from './words.ts'

/** Of payment methods, places and dimensions. */
export const PLACES_FINDINGS = {
  AXION_METHOD_KIND: words('settle', {
    title: 'Another kind of payment',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} as ${f['theirs']}, not ${f['ours']}.`,
    means: 'A gift card taken for a card, or cash for a transfer, is cleared in the wrong account.',
    mend: 'Set the kind in the system, or correct the baseline.',
  }),
  AXION_METHOD_OFF: words('settle', {
    title: 'Payment method switched off',
    says: (f: With<'name' | 'system'>) => `${f['name']} is switched off in ${f['system']}.`,
    means: 'Nothing can be taken by it there.',
    mend: 'Switch it on there, or take its link back.',
  }),
  AXION_LOCATION_NOWHERE: words('stops', {
    title: 'An address in no jurisdiction',
    says: (f: With<'name' | 'address'>) =>
      `${f['name']}, at ${f['address']}, is covered by no jurisdiction, or by two alike.`,
    means: 'Nobody can say who taxes what is sold there.',
    mend: 'Complete the address, or the jurisdictions’ covers in the baseline.',
  }),
  AXION_LOCATION_JURISDICTION: words('costs', {
    title: 'Taxed elsewhere',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} puts ${f['name']} in ${f['theirs']}; the baseline has it in ${f['ours']}.`,
    means: 'Every sale over its counter is taxed by the wrong place.',
    mend: 'Set the address in the system, or correct the baseline.',
  }),
  AXION_LOCATION_ADDRESS: words('settle', {
    title: 'Another address',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} at ${f['theirs']}, not at ${f['ours']}.`,
    means: 'The same jurisdictions tax it, as they are drawn today.',
    mend: 'Set the address in the system, or correct the baseline.',
  }),
  AXION_LOCATION_CUT_OFF: words('costs', {
    title: 'The day ends otherwise',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `In ${f['system']} the day of ${f['name']} ends at ${f['theirs']}; in the baseline at ${f['ours']}.`,
    means: 'Sales of a late evening fall into another trading day, and at a month’s end into another period.',
    mend: 'Set the hour in the system, or correct the baseline.',
  }),
  AXION_DIMENSION_OFF: words('settle', {
    title: 'Dimension value switched off',
    says: (f: With<'name' | 'system'>) => `${f['name']} is switched off in ${f['system']}.`,
    means: 'A booking that carries it is refused.',
    mend: 'Switch it on there, or take it out of the baseline.',
  }),
}
