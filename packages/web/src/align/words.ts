import type { AgreedKind, AlignKind, BulkAction, Severity } from '@axion/contract'
import type { Evidence } from '@axion/core'
import { count } from '../figures/format.ts'

/** What a proposal rests on, in words. */
export const EVIDENCE_WORDS: Readonly<Record<Evidence, string>> = {
  'same-code': 'same code',
  'same-name': 'same name',
  'same-percent-and-components': 'same percent and components',
  'same-jurisdictions': 'same agencies',
  'near-name': 'a name that nearly matches',
}

export interface KindWords {
  readonly title: string
  readonly question: string
  readonly one: string
  readonly many: string
  /** Heads of the baseline's columns: name, group, detail, total. */
  readonly columns: readonly [string, string, string, string]
  /** Whether the fourth column is a figure. */
  readonly figure: boolean
}

const words = (
  title: string,
  {
    question,
    one,
    many,
    columns,
    figure = false,
  }: {
    readonly question: string
    readonly one: string
    readonly many: string
    readonly columns: KindWords['columns']
    readonly figure?: boolean
  },
): KindWords => ({ title, question, one, many, columns, figure })

export const KIND_WORDS: Readonly<Record<AlignKind, KindWords>> = {
  rates: words('Combined rates', {
    question: 'Do the systems agree with the baseline on combined rates?',
    one: 'rate',
    many: 'rates',
    columns: ['Baseline', 'Region', 'Components, %', 'Total'],
    figure: true,
  }),
  agencies: words('Agencies', {
    question: 'Do the systems agree with the baseline on agencies?',
    one: 'agency',
    many: 'agencies',
    columns: ['Baseline', 'Registration', 'Collects for', 'Account'],
  }),
  codes: words('Item tax codes', {
    question: 'Do the systems use the baseline’s item tax codes?',
    one: 'code',
    many: 'codes',
    columns: ['Baseline', 'Code', 'Treated as', 'Holds'],
    figure: true,
  }),
  items: words('Items', {
    question: 'Does every item stand under its tax code in every system?',
    one: 'item',
    many: 'items',
    columns: ['Baseline', 'Code', 'Category', 'Tax code'],
  }),
  parties: words('Parties', {
    question: 'Is everybody exempt who should be, and nobody else?',
    one: 'party',
    many: 'parties',
    columns: ['Baseline', 'Standing', 'For', 'Certificate'],
  }),
  accounts: words('Accounts', {
    question: 'Does every kind of amount go to an account of the right type?',
    one: 'posting rule',
    many: 'posting rules',
    columns: ['Posting rule', 'Kind of amount', 'Account type', 'Account'],
  }),
  methods: words('Payment methods', {
    question: 'Do the systems know the same payment methods?',
    one: 'method',
    many: 'methods',
    columns: ['Baseline', 'Code', 'Kind', 'Clearing'],
  }),
  locations: words('Places', {
    question: 'Is every outlet where the baseline has it, and does its day end then?',
    one: 'place',
    many: 'places',
    columns: ['Baseline', 'Code', 'Taxed by', 'Day ends'],
    figure: true,
  }),
  dimensions: words('Dimensions', {
    question: 'Do the systems have every value of the tracking dimensions?',
    one: 'value',
    many: 'values',
    columns: ['Baseline', 'Dimension', 'Dimension', 'Code'],
  }),
}

/** A text with the spaces that nobody sees: before, after, and doubled. */
export function withSpaces(text: string): string {
  return text.replace(/^ +| +$| {2,}/g, (spaces) => '␣'.repeat(spaces.length))
}

/** What can be done to many rows at once. */
export const BULK_WORDS: Readonly<
  Record<
    BulkAction,
    {
      readonly label: string
      readonly title: string
      readonly act: (many: number) => string
      readonly after: string
    }
  >
> = {
  link: {
    label: 'Accept their links',
    title: 'Accept clear links',
    act: (n) => `Accept ${count(n, 'link')}`,
    after:
      'Only what is clear is accepted: one candidate, by more than a name that nearly matches. Every month is proved anew.',
  },
  send: {
    label: 'Send the baseline’s values',
    title: 'Send the baseline’s values to the systems',
    act: (n) => `Send ${count(n, 'change')}`,
    after:
      'They are sent one by one, and the systems are pulled afterwards. What documents were charged with stays as it is.',
  },
  create: {
    label: 'Make them there',
    title: 'Make what the systems lack',
    act: (n) => `Make ${count(n, 'object')}`,
    after: 'What is made in a system is removed there, if it is to go again.',
  },
  open: {
    label: 'Give them accounts',
    title: 'Accounts for what goes nowhere yet',
    act: (n) => `Give ${count(n, 'kind of amount', 'kinds of amount')} an account`,
    after:
      'The rules take their accounts first; then the ledger is asked to make those that it lacks. What is made there is removed there, if it is to go again; the rules are taken back here.',
  },
  adopt: {
    label: 'Take the systems’ values',
    title: 'Take the systems’ values into the baseline',
    act: (n) => `Take over ${count(n, 'value')}`,
    after: 'Nothing is sent. What was agreed before stays readable; every month is proved anew.',
  },
  'take-in': {
    label: 'Take them into the baseline',
    title: 'Take what only systems have into the baseline',
    act: (n) => `Take in ${count(n, 'object')}`,
    after: 'Each is linked to where it came from. Nothing is sent.',
  },
  leave: {
    label: 'Leave their findings',
    title: 'Leave findings as they are',
    act: (n) => `Leave ${count(n, 'finding')}`,
    after: 'They count no more, in any month, and stay in sight under “left as they are”.',
  },
}

/** What a batch of changes did. */
/** Where a row of a grid is seen through its versions. */
export const AGREED_AS: Readonly<Record<AlignKind, AgreedKind>> = {
  rates: 'combinedRates',
  agencies: 'agencies',
  codes: 'itemTaxCodes',
  items: 'items',
  parties: 'parties',
  accounts: 'postingRules',
  methods: 'paymentMethods',
  locations: 'locations',
  dimensions: 'dimensions',
}

export const BATCH_WORDS: Readonly<Record<string, string>> = {
  link: 'Linked',
  linked: 'Linked',
  unlinked: 'Took back the link of',
  generic: 'Held all customers to be',
  left: 'Left:',
  'taken-up': 'Took up again:',
  leave: 'Left the findings of',
  send: 'Sent',
  create: 'Made',
  open: 'Gave accounts to',
  adopt: 'Took over',
  'take-in': 'Took in',
  'new-rate': 'Entered the rate',
  'agreed-upon': 'Agreed upon:',
  'said-who-collects': 'Said who collects in',
  copied: 'Took from another legal entity:',
  decided: 'Decided:',
  'post-to': 'Posted elsewhere:',
  certificate: 'Recorded the certificate',
  'component-percent': 'Sent the percent of',
  'liability-account': 'Sent the account of',
}

export const SEVERITY_WORDS: Readonly<Record<Severity, string>> = {
  stops: 'stops documents',
  costs: 'puts tax at stake',
  settle: 'to settle',
}
