import type { FAULT_FACTS } from '@axion/core'
import { saleWord } from '../saleKinds.ts'
import { on, sentence, type Said } from './sentence.ts'

/** What the computation refuses or remarks on. */
export const COMPUTATION: Said<typeof FAULT_FACTS> = {
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
  AXION_SALE_KIND_OPEN: sentence(
    422,
    (f) =>
      `Line ${f['line']}${on(f)} is a sale for ${saleWord(f['saleKind'])}, and nobody agreed what such a sale stands under.`,
    'Write a rule over lines that says under which item tax code sales of this kind stand.',
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
}
