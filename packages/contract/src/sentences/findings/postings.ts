import { words, type With } from './words.ts'

/** Of amounts and where they are posted. */
export const POSTINGS_FINDINGS = {
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
}
