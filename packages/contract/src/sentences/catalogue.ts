import { FAULT_FACTS, type Facts, type FactsIn, type FactTable, type FaultCode } from '@axion/core'

/** Codes of what the application itself refuses or remarks on, beside the core's. */
export const APPLICATION_FACTS = {
  AXION_BAD_REQUEST: { path: false, problem: false },
  AXION_NOT_FOUND: { what: false },
  AXION_SIGN_IN: {},
  AXION_WRONG_SIGN_IN: {},
  AXION_PASSWORD_TEMPORARY: {},
  AXION_TOO_MANY_REQUESTS: {},
  AXION_FORBIDDEN: { role: false },
  AXION_CROSS_SITE: {},
  AXION_INTERNAL: { reference: true },
  AXION_STALE: { what: true },
  AXION_BASELINE_INCONSISTENT: { where: true, what: true },
  AXION_BASELINE_OVERLAP: { what: true },
  AXION_ADDRESS_NOT_ALLOWED: { address: true },
  AXION_BRIDGE_DOWN: { system: true },
  AXION_BRIDGE_TIMEOUT: { system: true, seconds: true },
  AXION_BRIDGE_REFUSED: { system: true, detail: true },
  AXION_BRIDGE_MALFORMED: { system: true, path: true, problem: true },
  AXION_BRIDGE_VERSION: { system: true, theirs: true, ours: true },
  AXION_BRIDGE_ROLE: { system: true, theirs: true, ours: true },
  AXION_BRIDGE_TOKEN: { system: true },
  AXION_BAD_OBJECT: { system: true, object: true, problem: true, label: false },
  AXION_NOT_NOW: {},
  AXION_PULL_BROKE: { system: true, resource: true, detail: true },
  AXION_PULL_CANCELLED: { system: true },
  AXION_NOT_READY: { checks: true },
  AXION_NOTHING_TO_DO: { what: false },
  AXION_UNDER_WAY: { person: false },
  AXION_LEDGER_REFUSED: { detail: true, reason: false },
  AXION_LEDGER_BUSY: { attempts: true, detail: true },
  AXION_EDITED_IN_LEDGER: {},
  AXION_IN_DOUBT: { why: false },
  AXION_NOT_THERE: { person: true },
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
  AXION_OWN_REVIEW: { document: true },
  AXION_RUN_FAILED: { detail: true },
  AXION_ACCOUNT_NOT_IN_LEDGER: { account: true },
  AXION_NO_LEDGER: {},
  AXION_ALREADY_EXISTS: { what: true },
  AXION_LAST_ADMINISTRATOR: {},
  AXION_CREATED_UNSURE: { what: true, system: true },
  AXION_CANNOT_TAKE_IN: { what: true, why: true },
  AXION_LACKS_LINK: { system: true, what: true },
  AXION_NOT_UNDONE: { what: true, why: true },
  AXION_ACCOUNT_UNFIT: { name: true, account: true, type: true, wanted: true },
  AXION_DIMENSION_NOT_IN_LEDGER: { dimension: true, document: false },
  AXION_FILE_UNREADABLE: { file: true, problem: true },
  AXION_FILE_MAPPING: { file: true, problem: true },
  AXION_FILE_BAD_ROWS: { rows: true },
  AXION_TOO_LARGE: {},
  AXION_OTHER_COMPANY: { system: true, before: true, now: true },
  AXION_ITEM_TO_TAKE_IN: { item: true, document: false, under: true },
  AXION_ITEM_TAKEN_IN: { item: true, document: false, under: true },
  AXION_OLDER_THAN_SOURCE: { system: true, problem: true, document: false },
  AXION_ENTRY_UNREADABLE: { system: true, problem: true, document: false },
  AXION_NEVER_READ: { system: true, problem: true, document: false },
  AXION_AGENCY_NOT_THERE: { agency: true, system: true, document: false },
  AXION_DOUBTED: { document: true },
  AXION_FROM_WHEN: { rows: true, month: true },
  AXION_ENDED_BEFORE: { what: true, to: true, day: true },
} as const satisfies FactTable
export type ApplicationCode = keyof typeof APPLICATION_FACTS
export const APPLICATION_CODES = Object.keys(APPLICATION_FACTS) as ApplicationCode[]
export type Code = FaultCode | ApplicationCode
/** The facts that a code's sentence has, and those that it may have. */
export type FactsOf<C extends Code> = FactsIn<(typeof FAULT_FACTS & typeof APPLICATION_FACTS)[C]>

export interface Sentence<F = Facts> {
  /** HTTP status when it is an answer to a request. */
  readonly status: number
  /** What happened, with the facts in it. */
  readonly says: (facts: F) => string
  /** What to do about it. */
  readonly mend: string
}

const on = ({ document }: { readonly document?: string }): string => (document ? ` on ${document}` : '')
const withArticle = (noun: string): string => `${/^[aeiou]/i.test(noun) ? 'an' : 'a'} ${noun}`
const sentence = <F>(status: number, says: (facts: F) => string, mend: string): Sentence<F> => ({
  status,
  says,
  mend,
})

/** Every code's sentence, in one place and one language. */
export const CATALOGUE: { readonly [C in Code]: Sentence<FactsOf<C>> } = {
  AXION_NOT_A_DECIMAL: sentence(
    400,
    (f) => `"${f['text']}" is no plain decimal.`,
    'Write it with digits and a point.',
  ),
  AXION_RATE_OUT_OF_RANGE: sentence(
    400,
    (f) => `${f['percent']} % is no rate: it must lie between 0 and 100 with at most six places.`,
    'Correct the rate where it is kept.',
  ),
  AXION_DIVISION_BY_NIL: sentence(
    500,
    () => 'A quotient has a nil divisor.',
    'Report it with the document it came from.',
  ),
  AXION_ALLOCATION_WITHOUT_WEIGHT: sentence(
    422,
    () => 'An amount cannot be spread over parts that are all nil.',
    'Correct the document at its source.',
  ),
  AXION_ALLOCATION_OF_BOTH_SIGNS: sentence(
    422,
    () => 'Sales and returns cannot be allocated together.',
    'Report it with the document it came from.',
  ),
  AXION_UNKNOWN_CURRENCY: sentence(
    400,
    (f) => `"${f['currency']}" is no ISO 4217 currency.`,
    'Correct the currency at its source.',
  ),
  AXION_NOT_AN_AMOUNT: sentence(
    400,
    (f) => `"${f['text']}" is no amount in ${f['currency']}.`,
    'Correct the amount at its source.',
  ),
  AXION_AMOUNT_TOO_LARGE: sentence(
    400,
    (f) => `${f['text']} ${f['currency']}${on(f)} is more than is kept, here or in the books’ currency.`,
    'Correct the amount, or the rate of exchange, at its source.',
  ),
  AXION_NOT_A_DATE: sentence(
    400,
    (f) => `"${f['text']}" is no calendar date.`,
    'Correct the date at its source.',
  ),
  AXION_JOURNAL_OUT_OF_BALANCE: sentence(
    422,
    (f) => `The amounts${on(f)} do not add up.`,
    'Correct the document at its source.',
  ),
  AXION_NO_POSTING_RULE: sentence(
    422,
    (f) => `No posting rule sends ${f['kind']}${f['agency'] ? ` for ${f['agency']}` : ''} to an account.`,
    'Add the rule to the baseline.',
  ),
  AXION_NO_JURISDICTION: sentence(
    422,
    (f) => `No ${f['level']} in the baseline covers ${f['address']}.`,
    'Add the jurisdiction or its cover to the baseline.',
  ),
  AXION_TWO_JURISDICTIONS: sentence(
    422,
    (f) => `${f['jurisdictions']} cover ${f['address']} equally.`,
    'Make one cover narrower in the baseline.',
  ),
  AXION_JURISDICTION_WITHOUT_AGENCY: sentence(
    422,
    (f) => `${f['jurisdiction']} has a rate and no agency to pay.`,
    'Name its agency in the baseline.',
  ),
  AXION_PLUS4_NEEDED: sentence(
    422,
    (f) => `${f['jurisdiction']} needs the +4 of ${f['address']}.`,
    'Complete the postal code at its source.',
  ),
  AXION_NO_RATE_ON_DATE: sentence(
    422,
    (f) => `${f['jurisdiction']} has no rate on ${f['date']}.`,
    'Add the rate version to the baseline.',
  ),
  AXION_NO_CODE_RULE: sentence(
    422,
    (f) => `${f['jurisdiction']} has no rule for item tax code ${f['itemTaxCode']} on ${f['date']}.`,
    'Add the rule to the baseline.',
  ),
  AXION_NO_ITEM_TAX_CODE: sentence(
    422,
    (f) => `Line ${f['line']}${on(f)} has no item tax code.`,
    'Give the item a code in the baseline.',
  ),
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
  AXION_NO_ROUNDING_PLACE: sentence(
    422,
    (f) => `No rounding place is agreed for ${f['region']}.`,
    'Add it to the baseline.',
  ),
  AXION_TAX_WITHOUT_REGISTRATION: sentence(
    422,
    (f) => `Tax was charged${on(f)} for ${f['agency']}, where there is no registration.`,
    'Register, or refund the tax.',
  ),
  AXION_RATE_NOT_LINKED: sentence(
    422,
    (f) => `The rate "${f['rate']}"${on(f)} is linked to nothing in the baseline.`,
    'Link it in Align.',
  ),
  AXION_AGENCY_NOT_LINKED: sentence(
    422,
    (f) => `The agency "${f['agency']}"${on(f)} is linked to nothing in the baseline.`,
    'Link it in Align.',
  ),
  AXION_SPLIT_NOT_STATED: sentence(
    422,
    (f) => `The rate "${f['rate']}"${on(f)} states a total and no split between agencies.`,
    'Link it in Align; the split is then allocated over the expected parts.',
  ),
  AXION_STATED_NOT_EXPECTED: sentence(
    422,
    (f) =>
      `The source charged ${f['stated'] ?? 'other tax'}${on(f)}; the baseline expects ${f['expected'] ?? 'another amount'}.`,
    'Compare the rates in Align before sending.',
  ),
  AXION_LIMIT_IN_OTHER_CURRENCY: sentence(
    422,
    (f) =>
      `The rule of ${f['jurisdiction']} for line ${f['line']}${on(f)} has its limits in ${f['limitCurrency'] || 'no currency'}, not in ${f['currency']}.`,
    'Add a rule in that currency to the baseline.',
  ),
  AXION_NO_PAYMENT_DATE: sentence(
    422,
    (f) =>
      `${f['region']} taxes by the date of payment, and ${f['document'] ?? 'the document'} is not paid yet.`,
    'Nothing to do before it is paid.',
  ),
  AXION_SHIPPING_WITHOUT_GOODS: sentence(
    422,
    (f) => `Shipping${on(f)} follows the goods, and there are none: it is taxed at the standard rate.`,
    'See that the document is whole.',
  ),
  AXION_EXEMPTION_WITHOUT_CERTIFICATE: sentence(
    422,
    (f) =>
      `${f['party']} claims to be exempt (${f['reason']}), and has no certificate for ${f['region']} on ${f['date']}.`,
    'Ask for the certificate, or charge the tax.',
  ),
  AXION_CATCH_ALL_CLAIMS: sentence(
    422,
    (f) => `${f['party']} stands for many buyers and cannot be exempt.`,
    'Put the sale under the buyer’s own name.',
  ),
  AXION_REASON_NOT_ACCEPTED: sentence(
    422,
    (f) => `${f['region']} does not accept the reason “${f['reason']}” of ${f['party']}.`,
    'Charge the tax, or correct the certificate’s reason.',
  ),
  AXION_ORIGINAL_UNKNOWN: sentence(
    422,
    (f) =>
      `Nobody knows what ${f['document'] ?? 'the credit note'} credits: it is worked out by its own date.`,
    'Name the original at the source.',
  ),
  AXION_LINE_NOT_ON_ORIGINAL: sentence(
    422,
    (f) => `Line ${f['line']}${on(f)} is not on ${f['original']}: it is worked out by itself.`,
    'Correct the line at the source.',
  ),
  AXION_CREDITED_BEYOND: sentence(
    422,
    (f) => `More is credited${on(f)} than ${f['original']} has left.`,
    'Correct the credit note at the source.',
  ),
  AXION_NO_EXCHANGE_RATE: sentence(
    422,
    (f) => `${f['document'] ?? 'The document'} is in ${f['currency']} and states no exchange rate.`,
    'Enter the rate at the source.',
  ),
  AXION_PRICE_WITHOUT_SOLUTION: sentence(
    422,
    (f) => `No net amount gives the price of line ${f['line']}${on(f)} with its tax inside.`,
    'Correct the price, or the rule’s limits.',
  ),
  AXION_SHIPPING_FOLLOWS_OPEN_GOODS: sentence(
    422,
    (f) => `Shipping line ${f['line']}${on(f)} follows goods of which a line is not decided.`,
    'Decide how those goods are taxed.',
  ),
  AXION_BAD_REQUEST: sentence(
    400,
    (f) => `${f['path'] || 'The request'} ${f['problem'] ?? 'cannot be read'}.`,
    'Correct it and send it again.',
  ),
  AXION_NOT_FOUND: sentence(
    404,
    (f) => `There is no ${f['what'] ?? 'such thing'} here.`,
    'Check the address; it may have been removed.',
  ),
  AXION_SIGN_IN: sentence(401, () => 'Nobody is signed in.', 'Sign in.'),
  AXION_WRONG_SIGN_IN: sentence(
    401,
    () => 'This e-mail address and password do not belong together.',
    'Try again, or ask an administrator.',
  ),
  AXION_PASSWORD_TEMPORARY: sentence(
    403,
    () => 'Your password was set by somebody else.',
    'Choose one of your own first.',
  ),
  AXION_TOO_MANY_REQUESTS: sentence(429, () => 'Too many attempts.', 'Wait a minute, then try again.'),
  AXION_FORBIDDEN: sentence(
    403,
    (f) => `This needs the role of ${withArticle(f['role'] ?? 'member')}.`,
    'Ask an administrator of the legal entity.',
  ),
  AXION_CROSS_SITE: sentence(
    403,
    () => 'The request did not come from Axion’s own pages.',
    'Send the header X-Axion-Request with it.',
  ),
  AXION_INTERNAL: sentence(
    500,
    (f) => `Something failed here (reference ${f['reference']}). Nothing was changed.`,
    'Try again; if it stays, look up the reference in the server’s log.',
  ),
  AXION_STALE: sentence(409, (f) => `${f['what']} was changed meanwhile.`, 'Look at it again, then decide.'),
  AXION_BASELINE_INCONSISTENT: sentence(
    422,
    (f) => `${f['where']} names ${f['what']}, which the baseline does not have.`,
    'Add it, or correct the name.',
  ),
  AXION_BASELINE_OVERLAP: sentence(
    422,
    (f) => `Two versions of ${f['what']} hold on the same day.`,
    'End one before the other begins.',
  ),
  AXION_ADDRESS_NOT_ALLOWED: sentence(
    422,
    (f) => `The address ${f['address']} is not on the list of allowed bridges.`,
    'Add it to AXION_BRIDGES, or use another.',
  ),
  AXION_BRIDGE_DOWN: sentence(
    502,
    (f) => `${f['system']} does not answer at its address.`,
    'See that it runs, then try again.',
  ),
  AXION_BRIDGE_TIMEOUT: sentence(
    504,
    (f) => `${f['system']} took longer than ${f['seconds']} seconds to answer.`,
    'Try again when it is less busy.',
  ),
  AXION_BRIDGE_REFUSED: sentence(
    502,
    (f) => `${f['system']} refused: ${f['detail']}`,
    'Mend it there, then try again.',
  ),
  AXION_BRIDGE_MALFORMED: sentence(
    502,
    (f) => `${f['system']} answered ${f['path']} in another shape than the contract: ${f['problem']}.`,
    'Have its bridge corrected; docs/bridge.md has the shape.',
  ),
  AXION_BRIDGE_VERSION: sentence(
    502,
    (f) => `${f['system']} speaks version ${f['theirs']} of the bridge contract, Axion ${f['ours']}.`,
    'Bring the bridge to the same version.',
  ),
  AXION_BRIDGE_ROLE: sentence(
    422,
    (f) => `${f['system']} is a system for ${f['theirs']}, not for ${f['ours']}.`,
    'Connect it under its own role.',
  ),
  AXION_BRIDGE_TOKEN: sentence(
    502,
    (f) => `${f['system']} does not accept the token.`,
    'Connect it again with a new token.',
  ),
  AXION_BAD_OBJECT: sentence(
    422,
    (f) =>
      `${f['system']} holds ${f['object']} in a shape that cannot be read: ${f['problem']}. It was left out; the rest was taken.`,
    'Correct it in that system, then pull again.',
  ),
  AXION_NOT_NOW: sentence(
    503,
    () => 'That could not be done just now: others are at the same, or the database is coming back.',
    'Nothing was changed. Try again in a moment.',
  ),
  AXION_PULL_BROKE: sentence(
    500,
    (f) => `What ${f['system']} has of ${f['resource']} could not be taken over: ${f['detail']}`,
    'What was known of it stays. The log has more; pull again, and report it if it stays so.',
  ),
  AXION_PULL_CANCELLED: sentence(
    409,
    (f) => `${f['system']} was not read to its end: somebody cancelled the pull.`,
    'Pull again when it suits.',
  ),
  AXION_NOT_READY: sentence(
    409,
    (f) => `${f['checks']} must pass before anything is posted.`,
    'Mend them, then check again in Connect.',
  ),
  AXION_NOTHING_TO_DO: sentence(
    409,
    (f) => `There is nothing to ${f['what'] ?? 'do'}.`,
    'Look at the list again.',
  ),
  AXION_UNDER_WAY: sentence(
    409,
    (f) => `${f['person'] ?? 'Somebody'} started the same already, and it is under way.`,
    'Wait for it to end, then look again.',
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
  AXION_OWN_REVIEW: sentence(
    403,
    (f) => `You keep the difference of ${f['document']} yourself.`,
    'Somebody else reviews it.',
  ),
  AXION_NOT_THERE: sentence(
    409,
    (f) => `${f['person']} looked for it in the ledger, and it is not there.`,
    'Post it again.',
  ),
  AXION_RUN_FAILED: sentence(
    500,
    (f) => `The run stopped: ${f['detail']}`,
    'What was done stays done. Start it again for the rest.',
  ),
  AXION_ACCOUNT_NOT_IN_LEDGER: sentence(
    422,
    (f) => `The ledger has no account ${f['account']}.`,
    'Create it there, or change the posting rule.',
  ),
  AXION_NO_LEDGER: sentence(409, () => 'No ledger is connected.', 'Connect one in Connect.'),
  AXION_LAST_ADMINISTRATOR: sentence(
    409,
    () => 'The legal entity would be left without an administrator.',
    'Make somebody else administrator first.',
  ),
  AXION_CREATED_UNSURE: sentence(
    502,
    (f) =>
      `The connection was lost while ${f['what']} was being created in ${f['system']}: it may be there, or not.`,
    'Pull: what was created shows itself. Sending it once more makes no second one.',
  ),
  AXION_CANNOT_TAKE_IN: sentence(
    422,
    (f) => `${f['what']} cannot be taken into the baseline: ${f['why']}.`,
    'Link it to what it stands for, or mend it in its system first.',
  ),
  AXION_LACKS_LINK: sentence(
    422,
    (f) => `${f['system']} holds nothing that is linked to ${f['what']}, which it needs for this.`,
    'Link or create that first.',
  ),
  AXION_DIMENSION_NOT_IN_LEDGER: sentence(
    422,
    (f) => `The ledger has no ${f['dimension']} in use, which a rule puts on ${f['document'] ?? 'it'}.`,
    'Make it there or switch it on, from Align, dimensions; or change the rule.',
  ),
  AXION_ACCOUNT_UNFIT: sentence(
    422,
    (f) => `${f['name']} cannot go to ${f['account']}: it is ${f['type']}, and should be ${f['wanted']}.`,
    'Choose an account of the right type.',
  ),
  AXION_FILE_UNREADABLE: sentence(
    422,
    (f) => `${f['file']} cannot be read: ${f['problem']}.`,
    'Nothing was taken. Correct the file, or save it as CSV in UTF-8 or as XLSX.',
  ),
  AXION_FILE_MAPPING: sentence(
    422,
    (f) => `${f['file']}: ${f['problem']}.`,
    'Choose the column that holds it.',
  ),
  AXION_FILE_BAD_ROWS: sentence(
    409,
    (f) => `${f['rows']} rows of the file cannot be taken.`,
    'Correct them in the file, or say that the good ones are enough.',
  ),
  AXION_DOUBTED: sentence(
    409,
    (f) => `${f['document']} is to be proved anew: what is stored of it is not what it comes to.`,
    'Pull and prove again; if it comes back, report it.',
  ),
  AXION_FROM_WHEN: sentence(
    409,
    (f) =>
      `${f['rows']} ${f['rows'] === '1' ? 'row' : 'rows'} would be otherwise, or gone, for months before ${f['month']} too, proved ones included.`,
    'Say from which day it is so, or that it always was.',
  ),
  AXION_ENDED_BEFORE: sentence(
    422,
    (f) => `${f['what']} ends on ${f['to']}, so it cannot be otherwise from ${f['day']} on.`,
    'Say an earlier day, or that it always was so.',
  ),
  AXION_TOO_LARGE: sentence(
    413,
    () => 'What was sent is larger than is taken here.',
    'Nothing was taken. Send it in parts, or smaller.',
  ),
  AXION_OTHER_COMPANY: sentence(
    409,
    (f) => `${f['system']} was bound to ${f['before']}, and this bridge is bound to ${f['now']}.`,
    'Connect it under a name of its own; what is known of the other stays with the other.',
  ),
  AXION_NOT_UNDONE: sentence(
    409,
    (f) => `${f['what']} cannot be taken back: ${f['why']}.`,
    'Look at it as it stands now, then decide.',
  ),
  AXION_OLDER_THAN_SOURCE: sentence(
    422,
    (f) =>
      `${f['system']} has changed it, and the change cannot be read (${f['problem']}): what is shown is the version before.`,
    'Correct it at its source; the next pull reads it again.',
  ),
  AXION_ENTRY_UNREADABLE: sentence(
    422,
    (f) => `An entry behind it in ${f['system']} cannot be read: ${f['problem']}.`,
    'Correct it there; the next pull reads it again.',
  ),
  AXION_NEVER_READ: sentence(
    422,
    (f) => `${f['system']} has it, and it cannot be read: ${f['problem']}. Its amounts are not known.`,
    'Correct it at its source; the next pull reads it again.',
  ),
  AXION_AGENCY_NOT_THERE: sentence(
    422,
    (f) => `It names the agency “${f['agency']}”, which is not in ${f['system']}.`,
    'Enter the agency there, or correct the rate; then pull again.',
  ),
  AXION_ALREADY_EXISTS: sentence(
    409,
    (f) => `${f['what']} exists already.`,
    'Use another name, or change the one there is.',
  ),
}

/** A code with its facts, in words. */
export function say(code: Code, facts: Facts): { readonly says: string; readonly mend: string } {
  const { says, mend } = CATALOGUE[code] as Sentence
  return { says: says(facts), mend }
}

/** A code with the facts that its sentence needs, to be said later. */
export function saying<C extends Code>(code: C, facts: FactsOf<C>): { code: C; facts: Facts } {
  return { code, facts: facts as Facts }
}
