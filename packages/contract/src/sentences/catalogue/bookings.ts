import type { FactTable } from '@axion/core'
import { on, sentence, type Said } from './sentence.ts'

/** What stops, or is said of, a booking. */
export const BOOKINGS_FACTS = {
  AXION_ITEM_TO_TAKE_IN: { item: true, document: false, under: true },
  AXION_ITEM_TAKEN_IN: { item: true, document: false, under: true },
  AXION_NOT_READY: { checks: true },
  AXION_LEDGER_REFUSED: { detail: true, reason: false },
  AXION_LEDGER_BUSY: { attempts: true, detail: true },
  AXION_EDITED_IN_LEDGER: {},
  AXION_IN_DOUBT: { why: false },
  AXION_FORETOLD_AMOUNT: {
    number: false,
    ledger: true,
    agency: true,
    by: true,
    would: true,
    should: true,
    currency: false,
  },
  AXION_FORETOLD_ACCOUNT: { ledger: true, agency: true, theirs: true, ours: true, number: false },
  AXION_FORETOLD_REFUSAL: { ledger: true, why: true, number: false },
  AXION_NOT_THERE: { person: true },
  AXION_ACCOUNT_NOT_IN_LEDGER: { account: true },
  AXION_NO_LEDGER: {},
  AXION_DIMENSION_NOT_IN_LEDGER: { dimension: true, document: false },
  AXION_DOUBTED: { document: true },
} as const satisfies FactTable

export const BOOKINGS: Said<typeof BOOKINGS_FACTS> = {
  AXION_ITEM_TO_TAKE_IN: sentence(
    422,
    (f) =>
      `The item “${f['item']}”${on(f)} is not in the baseline: posting takes it in, under ${f['under']}.`,
    'Take it in from Align under another code first, if that is not what it is.',
  ),
  AXION_ITEM_TAKEN_IN: sentence(
    422,
    (f) =>
      `The item “${f['item']}”${on(f)} was not in the baseline: the posting took it in, under ${f['under']}.`,
    'See that it is right; the latest changes of Align take it back.',
  ),
  AXION_NOT_READY: sentence(
    409,
    (f) => `Nothing is posted while a check fails: ${f['checks']}`,
    'Mend them, then check again in Connect.',
  ),
  AXION_LEDGER_REFUSED: sentence(
    422,
    (f) => `The ledger refused it: ${f['detail']}`,
    'Mend what it names, in the ledger or in Align, then retry.',
  ),
  AXION_LEDGER_BUSY: sentence(
    503,
    (f) => `The ledger did not take it after ${f['attempts']} attempts: ${f['detail']}`,
    'Nothing was booked. Retry when the ledger is well.',
  ),
  AXION_EDITED_IN_LEDGER: sentence(
    409,
    () => 'Somebody changed it in the ledger after it was booked, so it was not replaced.',
    'Pull the ledger, look at the change, then retry.',
  ),
  AXION_IN_DOUBT: sentence(
    409,
    (f) => `It was being sent, and nobody knows yet whether the ledger booked it. ${f['why'] ?? ''}`.trim(),
    'Look it up again, or look for it in the ledger and say that it is not there; it is never sent again by itself.',
  ),
  AXION_FORETOLD_AMOUNT: sentence(
    422,
    (f) =>
      f['number'] === undefined
        ? `${f['ledger']} will book another tax for ${f['agency']}, ${f['by']}.`
        : `${f['ledger']} will book ${f['would']}, not ${f['should']}, for ${f['agency']}, ${f['by']}.`,
    'Send it the right rate from Align first, or correct what the source charged.',
  ),
  AXION_FORETOLD_ACCOUNT: sentence(
    422,
    (f) =>
      `${f['ledger']} will book the tax of ${f['agency']} on ${f['theirs']}. It belongs on ${f['ours']}.`,
    'Send it the right account from Align first.',
  ),
  AXION_FORETOLD_REFUSAL: sentence(
    422,
    (f) => `${f['ledger']} will refuse it: ${f['why']}.`,
    'Mend that there or in Align first, and pull it.',
  ),
  AXION_NOT_THERE: sentence(
    409,
    (f) => `${f['person']} looked for it in the ledger, and it is not there.`,
    'Post it again.',
  ),
  AXION_ACCOUNT_NOT_IN_LEDGER: sentence(
    422,
    (f) => `The ledger has no account ${f['account']}.`,
    'Create it there, or change the posting rule.',
  ),
  AXION_NO_LEDGER: sentence(409, () => 'No ledger is connected.', 'Connect one in Connect.'),
  AXION_DIMENSION_NOT_IN_LEDGER: sentence(
    422,
    (f) => `The ledger has no ${f['dimension']} in use, which a rule puts on ${f['document'] ?? 'it'}.`,
    'Make it there or switch it on, from Align, dimensions; or change the rule.',
  ),
  AXION_DOUBTED: sentence(
    409,
    (f) => `${f['document']} is to be proved anew: what is stored of it is not what it comes to.`,
    'Pull and prove again; if it comes back, report it.',
  ),
}
