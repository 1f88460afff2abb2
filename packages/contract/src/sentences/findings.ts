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
  title: string,
  says: (facts: F) => string,
  means: string,
  mend: string,
): FindingWords<F> => ({ severity, title, says, means, mend })

/** Every finding of Align by its code: the one source of the grid's words and of docs/findings.md. */
export const FINDINGS = {
  AXION_ALIGN_ABSENT: words(
    'stops',
    'Not held by a system',
    (f: With<'system' | 'name'>) => `${f['system']} holds nothing for ${f['name']}.`,
    'A document that needs it cannot be charged or booked there.',
    'Create it in the system, or link the object that stands for it under another name.',
  ),
  AXION_AMOUNT_OPEN: words(
    'stops',
    'An amount without treatment or account',
    (f: With<'name' | 'system' | 'lacks'>) => `“${f['name']}” in ${f['system']} has no ${f['lacks']}.`,
    'What tax it bears, or where it is booked, nobody has said.',
    'Write a line rule for it, or sell it as an item of the catalogue.',
  ),
  AXION_AMOUNT_MIXED: words(
    'costs',
    'Taxed on some, not on others',
    (f: With<'name' | 'system'>) =>
      `“${f['name']}” in ${f['system']} is taxed on some documents of one region, and untaxed on others.`,
    'What stands for many things is taxed always or never: else nobody can say what it is.',
    'Give the two different wordings there, or correct the documents that are wrong.',
  ),
  AXION_COST_TAXED: words(
    'costs',
    'A cost that is taxed',
    (f: With<'name' | 'system'>) =>
      `“${f['name']}” in ${f['system']} is booked as a cost, and tax was charged on it.`,
    'Nobody owes tax on a cost that is handed on as one.',
    'Send it to an account of income, or take the tax off at its source.',
  ),
  AXION_ALIGN_EXTRA: words(
    'settle',
    'Unknown to the baseline',
    (f: With<'system' | 'name'>) =>
      `${f['system']} holds ${f['name']}, and nothing in the baseline is linked to it.`,
    'Whatever uses it is judged by nothing.',
    'Link it to what it stands for, take it into the baseline, or switch it off in the system.',
  ),
  AXION_ALIGN_NOT_LINKED: words(
    'settle',
    'Proposed, not linked',
    (f: With<'theirs' | 'system' | 'name'>) => `${f['theirs']} in ${f['system']} looks like ${f['name']}.`,
    'A proposal is no fact: tax is not mapped through it.',
    'Accept the link, or link another object.',
  ),
  AXION_ALIGN_UNDECIDED: words(
    'settle',
    'Two candidates',
    (f: With<'theirs' | 'system' | 'names'>) => `${f['theirs']} in ${f['system']} could be ${f['names']}.`,
    'The evidence is equal; nobody but you can tell.',
    'Choose what it is.',
  ),
  AXION_ALIGN_TWICE: words(
    'costs',
    'Two to one',
    (f: With<'system' | 'theirs' | 'name'>) => `${f['system']} holds ${f['theirs']} for one ${f['name']}.`,
    'Documents go to either, and a change of one leaves the other behind.',
    'Keep one of them in use, and link or switch off the other.',
  ),
  AXION_ALIGN_STALE_LINK: words(
    'stops',
    'Link to nothing',
    (f: With<'object' | 'system' | 'name'>) =>
      `The link of ${f['object']} in ${f['system']} leads to ${f['name']}, which is not there any more.`,
    'What was linked is gone on one side.',
    'Take the link back, and link what has taken its place.',
  ),
  AXION_ALIGN_NAME: words(
    'settle',
    'Nearly the same name',
    (f: With<'system' | 'name' | 'theirs'>) => `${f['system']} calls ${f['name']} “${f['theirs']}”.`,
    'Whoever looks by name finds only one of them; a system that needs names to match exactly finds neither.',
    'Give it the baseline’s name there, or take the system’s name into the baseline.',
  ),
  AXION_RATE_PERCENT: words(
    'costs',
    'Another percent',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} at ${f['theirs']} %, not ${f['ours']} %.`,
    'Every document at this rate comes to another tax.',
    'Send the baseline’s percent to the system, or correct the baseline.',
  ),
  AXION_RATE_SPLIT: words(
    'costs',
    'Split otherwise',
    (f: With<'system' | 'name'>) =>
      `${f['system']} splits ${f['name']} otherwise than the baseline, with the same total.`,
    'The total is right and an agency gets what is another’s.',
    'Send the baseline’s components to the system.',
  ),
  AXION_RATE_FLAT: words(
    'stops',
    'A rate typed by hand',
    (f: With<'name' | 'system' | 'theirs'>) =>
      `${f['name']} in ${f['system']} is ${f['theirs']} % in one piece, without components.`,
    'The total may be right; who it is owed to is lost.',
    'Charge the combined rate with its components instead, and switch the flat one off.',
  ),
  AXION_RATE_LEVY: words(
    'costs',
    'Computed otherwise',
    (f: With<'system' | 'name'>) =>
      `${f['system']} computes a component of ${f['name']} otherwise: per unit, or on top of another tax.`,
    'The percents agree and the tax does not.',
    'Set the component there as the baseline has it.',
  ),
  AXION_RATE_COMING: words(
    'costs',
    'Not ready for a change',
    (f: With<'name' | 'ours' | 'date' | 'system' | 'theirs'>) =>
      `${f['name']} changes to ${f['ours']} % on ${f['date']}; ${f['system']} will still have ${f['theirs']} %.`,
    'From that day on documents are charged at the old rate.',
    'Enter the coming version in the system, with its date.',
  ),
  AXION_RATE_OFF: words(
    'stops',
    'Switched off',
    (f: With<'name' | 'system'>) => `${f['name']} is switched off in ${f['system']}.`,
    'New documents cannot be charged at it.',
    'Switch it on there, or end the rate in the baseline.',
  ),
  AXION_AGENCY_ACCOUNT: words(
    'costs',
    'Another liability account',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} posts ${f['name']} to ${f['theirs']}, not to ${f['ours']}.`,
    'Its tax lands where nobody looks for it.',
    'Send the right account to the ledger, or change the posting rule.',
  ),
  AXION_ITEM_TAX_CODE: words(
    'costs',
    'Another item tax code',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} under ${f['theirs']}, not ${f['ours']}.`,
    'It is taxed by the rules of another code.',
    'Set the code in the system, or correct the baseline.',
  ),
  AXION_ITEM_ON_DEFAULT: words(
    'costs',
    'On the default code',
    (f: With<'name' | 'system' | 'theirs' | 'ours'>) =>
      `${f['name']} has no code in ${f['system']} and stands on its default, ${f['theirs']}; it should be ${f['ours']}.`,
    'It is taxed as what most things are.',
    'Give the item its own code there.',
  ),
  AXION_ITEM_FLAG: words(
    'costs',
    'Flag against code',
    (f: With<'name' | 'system' | 'theirs' | 'ours'>) =>
      `${f['name']} in ${f['system']} is flagged ${f['theirs']}, and its code says ${f['ours']}.`,
    'Which of the two counts depends on who reads it.',
    'Set the flag as the code has it.',
  ),
  AXION_PARTY_CLAIMS: words(
    'costs',
    'Exemption held otherwise',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} ${f['theirs']}; the baseline has ${f['ours']}.`,
    'Sales to them are taxed, or left untaxed, against what was agreed.',
    'Set the exemption in the system, or correct the baseline.',
  ),
  AXION_PARTY_TWICE: words(
    'settle',
    'One party, two entries',
    (f: With<'system' | 'name' | 'theirs'>) => `${f['system']} holds ${f['name']} twice: ${f['theirs']}.`,
    'A certificate covers one of them and not the other.',
    'Merge them there, or link both to the one party.',
  ),
  AXION_CATCH_ALL: words(
    'stops',
    'Exempt for everybody',
    (f: With<'name' | 'system'>) => `${f['name']} stands for many buyers, and ${f['system']} has it exempt.`,
    'Whoever buys under it goes untaxed.',
    'Take the exemption off it.',
  ),
  AXION_CERTIFICATE_MISSING: words(
    'costs',
    'No certificate',
    (f: With<'name' | 'reason'>) =>
      `${f['name']} claims to be exempt for ${f['reason']}, and no certificate is held.`,
    'Their sales are taxed until one is there.',
    'Ask for the certificate, or take the claim off.',
  ),
  AXION_CERTIFICATE_EXPIRED: words(
    'costs',
    'Certificate expired',
    (f: With<'number' | 'name' | 'date'>) =>
      `The certificate ${f['number']} of ${f['name']} expired on ${f['date']}.`,
    'Sales since then are taxable.',
    'Ask for a new certificate.',
  ),
  AXION_CERTIFICATE_EXPIRING: words(
    'settle',
    'Certificate about to expire',
    (f: With<'number' | 'name' | 'date'>) =>
      `The certificate ${f['number']} of ${f['name']} expires on ${f['date']}.`,
    'From the day after, their sales are taxable.',
    'Ask for a new certificate now.',
  ),
  AXION_SALES_WITHOUT_CERTIFICATE: words(
    'costs',
    'Exempt sales without a certificate',
    (f: With<'name'>) => `${f['name']} was sold to without tax, and no certificate covers it.`,
    'The tax is owed all the same.',
    'Record the certificate, or charge the tax.',
  ),
  AXION_SALES_TAXED_IN_SPITE: words(
    'costs',
    'Taxed in spite of a certificate',
    (f: With<'name'>) => `${f['name']} was charged tax that a certificate frees them from.`,
    'They paid what they did not owe; it has to be remitted until it is credited.',
    'Credit the tax, or correct the certificate.',
  ),
  AXION_ACCOUNT_ABSENT: words(
    'stops',
    'Account not in the ledger',
    (f: With<'name' | 'ours' | 'system'>) =>
      `${f['name']} goes to ${f['ours']}, which ${f['system']} does not have.`,
    'Nothing of this kind can be booked.',
    'Create the account in the ledger, or change the posting rule.',
  ),
  AXION_ACCOUNT_TYPE: words(
    'stops',
    'Account of the wrong type',
    (f: With<'name' | 'theirs' | 'type' | 'ours'>) =>
      `${f['name']} goes to ${f['theirs']}, which is ${f['type']} and should be ${f['ours']}.`,
    'Tax that is owed belongs in a current liability, and revenue in income: anything else misstates both.',
    'Choose an account of the right type for it.',
  ),
  AXION_ACCOUNT_SHARED: words(
    'settle',
    'One account for several agencies',
    (f: With<'theirs' | 'names'>) => `${f['theirs']} takes the tax of ${f['names']}.`,
    'Its balance tells apart what is owed to whom only where each line carries its agency.',
    'Give each agency an account of its own, or see to it that the ledger’s lines carry the agency.',
  ),
  AXION_METHOD_KIND: words(
    'settle',
    'Another kind of payment',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} as ${f['theirs']}, not ${f['ours']}.`,
    'A gift card taken for a card, or cash for a transfer, is cleared in the wrong account.',
    'Set the kind in the system, or correct the baseline.',
  ),
  AXION_METHOD_OFF: words(
    'settle',
    'Payment method switched off',
    (f: With<'name' | 'system'>) => `${f['name']} is switched off in ${f['system']}.`,
    'Nothing can be taken by it there.',
    'Switch it on there, or take its link back.',
  ),
  AXION_LOCATION_NOWHERE: words(
    'stops',
    'An address in no jurisdiction',
    (f: With<'name' | 'address'>) =>
      `${f['name']}, at ${f['address']}, is covered by no jurisdiction, or by two alike.`,
    'Nobody can say who taxes what is sold there.',
    'Complete the address, or the jurisdictions’ covers in the baseline.',
  ),
  AXION_LOCATION_JURISDICTION: words(
    'costs',
    'Taxed elsewhere',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} puts ${f['name']} in ${f['theirs']}; the baseline has it in ${f['ours']}.`,
    'Every sale over its counter is taxed by the wrong place.',
    'Set the address in the system, or correct the baseline.',
  ),
  AXION_LOCATION_ADDRESS: words(
    'settle',
    'Another address',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `${f['system']} has ${f['name']} at ${f['theirs']}, not at ${f['ours']}.`,
    'The same jurisdictions tax it, as they are drawn today.',
    'Set the address in the system, or correct the baseline.',
  ),
  AXION_LOCATION_CUT_OFF: words(
    'costs',
    'The day ends otherwise',
    (f: With<'system' | 'name' | 'theirs' | 'ours'>) =>
      `In ${f['system']} the day of ${f['name']} ends at ${f['theirs']}; in the baseline at ${f['ours']}.`,
    'Sales of a late evening fall into another trading day, and at a month’s end into another period.',
    'Set the hour in the system, or correct the baseline.',
  ),
  AXION_DIMENSION_OFF: words(
    'settle',
    'Dimension value switched off',
    (f: With<'name' | 'system'>) => `${f['name']} is switched off in ${f['system']}.`,
    'A booking that carries it is refused.',
    'Switch it on there, or take it out of the baseline.',
  ),
  AXION_DEFAULT_CODE: words(
    'settle',
    'New items start otherwise',
    (f: With<'system' | 'theirs' | 'ours'>) =>
      `A new item in ${f['system']} starts under ${f['theirs']}, not ${f['ours']}.`,
    'The next item that somebody makes there is taxed by another code; those that are there keep theirs.',
    'Set the default there, or agree on another.',
  ),
  AXION_DEFAULT_PARTY: words(
    'settle',
    'New customers start otherwise',
    (f: With<'system' | 'theirs' | 'ours'>) =>
      `A new customer in ${f['system']} starts as ${f['theirs']}, not ${f['ours']}.`,
    'Whoever is entered next is taxed, or left untaxed, against what was agreed; those that are there keep theirs.',
    'Set the default there, or agree on another.',
  ),
  AXION_OWED_AS_INCOME: words(
    'settle',
    'Owed, and booked as income',
    (f: With<'system' | 'name' | 'what' | 'theirs'>) =>
      `${f['system']} sells ${f['name']}, ${f['what']}, and it is posted to ${f['theirs']}, an account of income.`,
    'Until it is redeemed or completed it is owed to the buyer: it is no sale, and no part of what a return counts as one.',
    'Post it to a liability account, by a rule for the item or its code, in Accounts.',
  ),
  AXION_NO_RULE: words(
    'stops',
    'No posting rule',
    (f: With<'name'>) => `Nothing says where ${f['name']} is posted.`,
    'A document with it cannot be composed.',
    'Choose an account for it.',
  ),
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
