import { words, type With } from './words.ts'

/** Of items, parties and what sales give rise to. */
export const SALES_FINDINGS = {
  AXION_ITEM_TAX_CODE: words('costs', {
    title: 'Another item tax code',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} under ${f['theirs']}, not ${f['ours']}.`,
    means: 'It is taxed by the rules of another code.',
    mend: 'Set the code in the system, or correct the baseline.',
  }),
  AXION_ITEM_ON_DEFAULT: words('costs', {
    title: 'On the default code',
    says: (f: With<'name' | 'system' | 'theirs' | 'ours'>) =>
      `${f['name']} has no code in ${f['system']} and stands on its default, ${f['theirs']}; it should be ${f['ours']}.`,
    means: 'It is taxed as what most things are.',
    mend: 'Give the item its own code there.',
  }),
  AXION_ITEM_FLAG: words('costs', {
    title: 'Flag against code',
    says: (f: With<'name' | 'system' | 'theirs' | 'ours'>) =>
      `${f['name']} in ${f['system']} is flagged ${f['theirs']}, and its code says ${f['ours']}.`,
    means: 'Which of the two counts depends on who reads it.',
    mend: 'Set the flag as the code has it.',
  }),
  AXION_PARTY_CLAIMS: words('costs', {
    title: 'Exemption held otherwise',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} ${f['theirs']}; the baseline has ${f['ours']}.`,
    means: 'Sales to them are taxed, or left untaxed, against what was agreed.',
    mend: 'Set the exemption in the system, or correct the baseline.',
  }),
  AXION_PARTY_RATE: words('costs', {
    title: 'Default rate of another place',
    says: (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} taxes ${f['name']} at ${f['theirs']} where nothing says otherwise; its address has ${f['ours']}.`,
    means: 'What is sold to them without a place of its own bears the tax of another place.',
    mend: 'Set the rate of its address there, or take it off so that the address decides.',
  }),
  AXION_PARTY_FLAG: words('costs', {
    title: 'Untaxed by a flag alone',
    says: (f: With<'system' | 'name'>) =>
      `${f['system']} taxes ${f['name']} nothing, by a flag, and states no reason for it.`,
    means: 'An exemption without a reason and a certificate is taxed when the agency looks.',
    mend: 'Ask for the certificate and enter its reason there, or take the flag off.',
  }),
  AXION_PARTY_TWICE: words('settle', {
    title: 'One party, two entries',
    says: (f: With<'system' | 'name' | 'theirs'>) =>
      `${f['system']} holds ${f['name']} twice: ${f['theirs']}.`,
    means: 'A certificate covers one of them and not the other.',
    mend: 'Merge them there, or link both to the one party.',
  }),
  AXION_CATCH_ALL: words('stops', {
    title: 'Exempt for everybody',
    says: (f: With<'name' | 'system'>) =>
      `${f['name']} stands for many buyers, and ${f['system']} has it exempt.`,
    means: 'Whoever buys under it goes untaxed.',
    mend: 'Take the exemption off it.',
  }),
  AXION_CERTIFICATE_MISSING: words('costs', {
    title: 'No certificate',
    says: (f: With<'name' | 'reason'>) =>
      `${f['name']} claims to be exempt for ${f['reason']}, and no certificate is held.`,
    means: 'Their sales are taxed until one is there.',
    mend: 'Ask for the certificate, or take the claim off.',
  }),
  AXION_CERTIFICATE_EXPIRED: words('costs', {
    title: 'Certificate expired',
    says: (f: With<'number' | 'name' | 'date'>) =>
      `The certificate ${f['number']} of ${f['name']} expired on ${f['date']}.`,
    means: 'Sales since then are taxable.',
    mend: 'Ask for a new certificate.',
  }),
  AXION_CERTIFICATE_EXPIRING: words('settle', {
    title: 'Certificate about to expire',
    says: (f: With<'number' | 'name' | 'date'>) =>
      `The certificate ${f['number']} of ${f['name']} expires on ${f['date']}.`,
    means: 'From the day after, their sales are taxable.',
    mend: 'Ask for a new certificate now.',
  }),
  AXION_SALES_WITHOUT_CERTIFICATE: words('costs', {
    title: 'Exempt sales without a certificate',
    says: (f: With<'name'>) => `${f['name']} was sold to without tax, and no certificate covers it.`,
    means: 'The tax is owed all the same.',
    mend: 'Record the certificate, or charge the tax.',
  }),
  AXION_SALES_TAXED_IN_SPITE: words('costs', {
    title: 'Taxed in spite of a certificate',
    says: (f: With<'name'>) => `${f['name']} was charged tax that a certificate frees them from.`,
    means: 'They paid what they did not owe; it has to be remitted until it is credited.',
    mend: 'Credit the tax, or correct the certificate.',
  }),
  AXION_DEFAULT_CODE: words('settle', {
    title: 'New items start otherwise',
    says: (f: With<'system' | 'theirs' | 'ours'>) =>
      `A new item in ${f['system']} starts under ${f['theirs']}, not ${f['ours']}.`,
    means:
      'The next item that somebody makes there is taxed by another code; those that are there keep theirs.',
    mend: 'Set the default there, or agree on another.',
  }),
  AXION_DEFAULT_RATE: words('settle', {
    title: 'Falls back on another rate',
    says: (f: With<'system' | 'theirs' | 'ours'>) =>
      `Where nothing says otherwise, ${f['system']} taxes at ${f['theirs']}; at home it is ${f['ours']}.`,
    means: 'A sale without an address, or of a place that it does not know, bears the tax of another place.',
    mend: 'Set the default there to the rate of your own place.',
  }),
  AXION_DEFAULT_PARTY: words('settle', {
    title: 'New customers start otherwise',
    says: (f: With<'system' | 'theirs' | 'ours'>) =>
      `A new customer in ${f['system']} starts as ${f['theirs']}, not ${f['ours']}.`,
    means:
      'Whoever is entered next is taxed, or left untaxed, against what was agreed; those that are there keep theirs.',
    mend: 'Set the default there, or agree on another.',
  }),
}
