import { pass, type Rule } from './rule.ts'

/** Whether a document is found again. */
export const IDENTITY_CHECKS: readonly Rule[] = [
  {
    code: 'keeps-numbers',
    group: 'Identity',
    roles: ['ledger'],
    blocks: true,
    question: 'Will a document keep its number?',
    why: 'With a number of the ledger’s own, nobody can find an invoice on both sides, and doubles go unseen.',
    mend: 'On the ledger’s settings page, let it keep the number of the document.',
    test: ({ settings }) =>
      pass({
        holds: settings.keepsDocumentNumbers,
        fact: settings.keepsDocumentNumbers
          ? 'It keeps the number of the document'
          : 'It gives every document a number of its own',
      }),
  },
  {
    code: 'finds-bookings',
    group: 'Identity',
    roles: ['ledger'],
    blocks: false,
    question: 'Can a booking be found again?',
    why: 'When an answer is lost, only a look-up tells whether the booking was made.',
    mend: 'Ask the maker of the bridge for look-ups; until then such a booking stays in doubt.',
    test: ({ about }) =>
      pass({
        holds: about.findsByExternalId && about.longestLateCommitSeconds !== null,
        fact: about.findsByExternalId
          ? about.longestLateCommitSeconds === null
            ? 'By external id, with no limit on late commits'
            : `By external id, at the latest ${about.longestLateCommitSeconds} s after`
          : 'Not by external id',
      }),
  },
  {
    code: 'pairs-credits',
    group: 'Identity',
    roles: ['ledger'],
    blocks: false,
    question: 'Is pairing credits with invoices left to us?',
    why: 'A ledger that pairs by itself may close the wrong invoice.',
    mend: 'Switch automatic application of credits off.',
    test: ({ settings }) =>
      pass({
        holds: !settings.pairsCreditsItself,
        fact: settings.pairsCreditsItself ? 'It pairs them itself' : 'It leaves it to us',
      }),
  },
]
