import type { Facts } from '@axion/core'

/** `stops`: documents fail, or lose their split. `costs`: puts tax at stake. `settle`: moves no tax, and should be settled before it does. */
export const SEVERITIES = ['stops', 'costs', 'settle'] as const
export type Severity = (typeof SEVERITIES)[number]

export interface FindingWords<F = Facts> {
  readonly severity: Severity
  readonly title: string
  /** What was found, with the facts in it. */
  readonly says: (facts: F) => string
  /** What it means for the tax. */
  readonly means: string
  readonly mend: string
}

type With<K extends string> = Readonly<Record<K, string>>
const words = <F>(
  severity: Severity,
  {
    title,
    says,
    means,
    mend,
  }: {
    readonly title: string
    readonly says: (facts: F) => string
    readonly means: string
    readonly mend: string
  },
): FindingWords<F> => ({ severity, title, says, means, mend })

/** Every finding of Align by its code: the one source of the grid's words and of docs/findings.md. */
export const FINDINGS = {
  AXION_ALIGN_ABSENT: words('stops', {
    title: 'Not held by a system',
    says: (f: With<'system' | 'name'>) => `${f['system']} holds nothing for ${f['name']}.`,
    means: 'A document that needs it cannot be charged or booked there.',
    mend: 'Create it in the system, or link the object that stands for it under another name.',
  }),
  AXION_AMOUNT_OPEN: words('stops', {
    title: 'An amount without treatment or account',
    says: (f: With<'name' | 'system' | 'lacks'>) => `“${f['name']}” in ${f['system']} has no ${f['lacks']}.`,
    means: 'What tax it bears, or where it is booked, nobody has said.',
    mend: 'Write a line rule for it, or sell it as an item of the catalogue.',
  }),
  AXION_AMOUNT_MIXED: words('costs', {
    title: 'Taxed on some, not on others',
    says: (f: With<'name' | 'system'>) =>
      `“${f['name']}” in ${f['system']} is taxed on some documents of one region, and untaxed on others.`,
    means: 'What stands for many things is taxed always or never: else nobody can say what it is.',
    mend: 'Give the two different wordings there, or correct the documents that are wrong.',
  }),
  AXION_COST_TAXED: words('costs', {
    title: 'A cost that is taxed',
    says: (f: With<'name' | 'system'>) =>
      `“${f['name']}” in ${f['system']} is booked as a cost, and tax was charged on it.`,
    means: 'Nobody owes tax on a cost that is handed on as one.',
    mend: 'Send it to an account of income, or take the tax off at its source.',
  }),
  AXION_ALIGN_EXTRA: words('settle', {
    title: 'Unknown to the baseline',
    says: (f: With<'system' | 'name'>) =>
      `${f['system']} holds ${f['name']}, and nothing in the baseline is linked to it.`,
    means: 'Whatever uses it is judged by nothing.',
    mend: 'Link it to what it stands for, take it into the baseline, or switch it off in the system.',
  }),
  AXION_ALIGN_NOT_LINKED: words('settle', {
    title: 'Proposed, not linked',
    says: (f: With<'theirs' | 'system' | 'name'>) =>
      `${f['theirs']} in ${f['system']} looks like ${f['name']}.`,
    means: 'A proposal is no fact: tax is not mapped through it.',
    mend: 'Accept the link, or link another object.',
  }),
  AXION_ALIGN_UNDECIDED: words('settle', {
    title: 'Two candidates',
    says: (f: With<'theirs' | 'system' | 'names'>) =>
      `${f['theirs']} in ${f['system']} could be ${f['names']}.`,
    means: 'The evidence is equal; nobody but you can tell.',
    mend: 'Choose what it is.',
  }),
  AXION_ALIGN_TWICE: words('costs', {
    title: 'Two to one',
    says: (f: With<'system' | 'theirs' | 'name'>) =>
      `${f['system']} holds ${f['theirs']} for one ${f['name']}.`,
    means: 'Documents go to either, and a change of one leaves the other behind.',
    mend: 'Keep one of them in use, and link or switch off the other.',
  }),
  AXION_ALIGN_STALE_LINK: words('stops', {
    title: 'Link to nothing',
    says: (f: With<'object' | 'system' | 'name'>) =>
      `The link of ${f['object']} in ${f['system']} leads to ${f['name']}, which is not there any more.`,
    means: 'What was linked is gone on one side.',
    mend: 'Take the link back, and link what has taken its place.',
  }),
  AXION_ALIGN_NAME: words('settle', {
    title: 'Nearly the same name',
    says: (f: With<'system' | 'name' | 'theirs'>) => `${f['system']} calls ${f['name']} “${f['theirs']}”.`,
    means:
      'Whoever looks by name finds only one of them; a system that needs names to match exactly finds neither.',
    mend: 'Give it the baseline’s name there, or take the system’s name into the baseline.',
  }),
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
  AXION_ACCOUNT_ABSENT: words('stops', {
    title: 'Account not in the ledger',
    says: (f: With<'name' | 'ours' | 'system'>) =>
      `${f['name']} goes to ${f['ours']}, which ${f['system']} does not have.`,
    means: 'Nothing of this kind can be booked.',
    mend: 'Create the account in the ledger, or change the posting rule.',
  }),
  AXION_ACCOUNT_TYPE: words('stops', {
    title: 'Account of the wrong type',
    says: (f: With<'name' | 'theirs' | 'type' | 'ours'>) =>
      `${f['name']} goes to ${f['theirs']}, which is ${f['type']} and should be ${f['ours']}.`,
    means:
      'Tax that is owed belongs in a current liability, and revenue in income: anything else misstates both.',
    mend: 'Choose an account of the right type for it.',
  }),
  AXION_ACCOUNT_SHARED: words('settle', {
    title: 'One account for several agencies',
    says: (f: With<'theirs' | 'names'>) => `${f['theirs']} takes the tax of ${f['names']}.`,
    means: 'Its balance tells apart what is owed to whom only where each line carries its agency.',
    mend: 'Give each agency an account of its own, or see to it that the ledger’s lines carry the agency.',
  }),
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
  AXION_DEFAULT_CODE: words('settle', {
    title: 'New items start otherwise',
    says: (f: With<'system' | 'theirs' | 'ours'>) =>
      `A new item in ${f['system']} starts under ${f['theirs']}, not ${f['ours']}.`,
    means:
      'The next item that somebody makes there is taxed by another code; those that are there keep theirs.',
    mend: 'Set the default there, or agree on another.',
  }),
  AXION_DEFAULT_PARTY: words('settle', {
    title: 'New customers start otherwise',
    says: (f: With<'system' | 'theirs' | 'ours'>) =>
      `A new customer in ${f['system']} starts as ${f['theirs']}, not ${f['ours']}.`,
    means:
      'Whoever is entered next is taxed, or left untaxed, against what was agreed; those that are there keep theirs.',
    mend: 'Set the default there, or agree on another.',
  }),
  AXION_OWED_AS_INCOME: words('settle', {
    title: 'Owed, and booked as income',
    says: (f: With<'system' | 'name' | 'what' | 'theirs'>) =>
      `${f['system']} sells ${f['name']}, ${f['what']}, and it is posted to ${f['theirs']}, an account of income.`,
    means:
      'Until it is redeemed or completed it is owed to the buyer: it is no sale, and no part of what a return counts as one.',
    mend: 'Post it to a liability account, by a rule for the item or its code, in Accounts.',
  }),
  AXION_NO_RULE: words('stops', {
    title: 'No posting rule',
    says: (f: With<'name'>) => `Nothing says where ${f['name']} is posted.`,
    means: 'A document with it cannot be composed.',
    mend: 'Choose an account for it.',
  }),
} as const satisfies Readonly<Record<string, FindingWords<never>>>
export type FindingCode = keyof typeof FINDINGS
export const FINDING_CODES = Object.keys(FINDINGS) as [FindingCode, ...FindingCode[]]

/** The facts that a finding's sentence needs. */
export type FindingFacts<C extends FindingCode> = Parameters<(typeof FINDINGS)[C]['says']>[0]

/** A finding with the facts that its sentence needs. */
export function findingOf<C extends FindingCode>(code: C, facts: FindingFacts<C>): { code: C; facts: Facts } {
  return { code, facts: facts as Facts }
}

/** Every finding's words, for facts that were kept with it. */
export function wordsOf(code: FindingCode): FindingWords {
  return FINDINGS[code] as FindingWords
}
