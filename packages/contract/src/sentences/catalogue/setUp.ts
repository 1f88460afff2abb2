import type { FactTable } from '@axion/core'
import { sentence, type Said } from './sentence.ts'

/** What the baseline, links and spreadsheets are refused for. */
export const SET_UP_FACTS = {
  AXION_BASELINE_INCONSISTENT: { where: true, what: true },
  AXION_BASELINE_OVERLAP: { what: true },
  AXION_CANNOT_TAKE_IN: { what: true, why: true },
  AXION_LACKS_LINK: { system: true, what: true },
  AXION_ACCOUNT_UNFIT: { name: true, account: true, type: true, wanted: true },
  AXION_NO_CATCH_ALL: { party: true },
  AXION_FILE_UNREADABLE: { file: true, problem: true },
  AXION_FILE_MAPPING: { file: true, problem: true },
  AXION_FILE_BAD_ROWS: { rows: true },
  AXION_FROM_WHEN: { rows: true, month: true },
  AXION_ENDED_BEFORE: { what: true, to: true, day: true },
  AXION_NOT_UNDONE: { what: true, why: true },
  AXION_NO_OPENING_DAY: {},
  AXION_NO_FIRST_OF_MONTH: { day: true },
  AXION_NOT_OPEN_THEN: { line: true, reference: true, date: true, day: true },
  AXION_TWICE_IN_LIST: { line: true, reference: true },
} as const satisfies FactTable

export const SET_UP: Said<typeof SET_UP_FACTS> = {
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
  AXION_ACCOUNT_UNFIT: sentence(
    422,
    (f) => `${f['name']} cannot go to ${f['account']}: it is ${f['type']}, and should be ${f['wanted']}.`,
    'Choose an account of the right type.',
  ),
  AXION_NO_CATCH_ALL: sentence(
    422,
    (f) => `${f['party']} is one customer, and cannot stand for all others.`,
    'Choose one that stands for many, or make one in the baseline.',
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
  AXION_NOT_UNDONE: sentence(
    409,
    (f) => `${f['what']} cannot be taken back: ${f['why']}.`,
    'Look at it as it stands now, then decide.',
  ),
  AXION_NO_OPENING_DAY: sentence(
    409,
    () => 'Nobody said from which day the books stand here, or no ledger is connected.',
    'Set the opening day in Align, Opening; connect a ledger in Connect.',
  ),
  AXION_NO_FIRST_OF_MONTH: sentence(
    422,
    (f) => `${f['day']} is not the first day of a month.`,
    'Months are proved whole: choose the first of one.',
  ),
  AXION_NOT_OPEN_THEN: sentence(
    422,
    (f) => `Line ${f['line']}, ${f['reference']}, is dated ${f['date']}: the books open on ${f['day']}.`,
    'Leave out what came after the opening day, or correct its date.',
  ),
  AXION_TWICE_IN_LIST: sentence(
    422,
    (f) => `Line ${f['line']}, ${f['reference']}, is there twice.`,
    'Take one of them off, or tell them apart.',
  ),
}
