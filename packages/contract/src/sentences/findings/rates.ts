import { words, type With } from './words.ts'

/** Of rates and agencies. */
export const RATES_FINDINGS = {
  AXION_RATE_PERCENT: words('costs', {
    title: 'Another percent',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} at ${f['theirs']} %, not ${f['ours']} %.`,
    means: 'Every document at this rate comes to another tax.',
    mend: 'Send the baseline’s percent to the system, or correct the baseline.',
  }),
  AXION_RATE_SPLIT: words('costs', {
    title: 'Split otherwise',
    says: (f: With<'system' | 'name'>) =>
      `${f['system']} splits ${f['name']} otherwise than the baseline, with the same total.`,
    means: 'The total is right and an agency gets what is another’s.',
    mend: 'Send the baseline’s components to the system.',
  }),
  AXION_RATE_FLAT: words('stops', {
    title: 'A rate typed by hand',
    says: (f: With<'name' | 'system' | 'theirs'>) =>
      `${f['name']} in ${f['system']} is ${f['theirs']} % in one piece, without components.`,
    means: 'The total may be right; who it is owed to is lost.',
    mend: 'Charge the combined rate with its components instead, and switch the flat one off.',
  }),
  AXION_RATE_LEVY: words('costs', {
    title: 'Computed otherwise',
    says: (f: With<'system' | 'name'>) =>
      `${f['system']} computes a component of ${f['name']} otherwise: per unit, or on top of another tax.`,
    means: 'The percents agree and the tax does not.',
    mend: 'Set the component there as the baseline has it.',
  }),
  AXION_RATE_COMING: words('costs', {
    title: 'Not ready for a change',
    says: (f: With<'name' | 'ours' | 'date' | 'system' | 'theirs'>) =>
      `${f['name']} changes to ${f['ours']} % on ${f['date']}; ${f['system']} will still have ${f['theirs']} %.`,
    means: 'From that day on documents are charged at the old rate.',
    mend: 'Enter the coming version in the system, with its date.',
  }),
  AXION_RATE_OFF: words('stops', {
    title: 'Switched off',
    says: (f: With<'name' | 'system'>) => `${f['name']} is switched off in ${f['system']}.`,
    means: 'New documents cannot be charged at it.',
    mend: 'Switch it on there, or end the rate in the baseline.',
  }),
  AXION_AGENCY_ACCOUNT: words('costs', {
    title: 'Another liability account',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} posts ${f['name']} to ${f['theirs']}, not to ${f['ours']}.`,
    means: 'Its tax lands where nobody looks for it.',
    mend: 'Send the right account to the ledger, or change the posting rule.',
  }),
}
