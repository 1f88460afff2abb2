import { escape, field, finder, form, select, table } from '../shared/desk.ts'
import type { StoredEntry } from './bookings.ts'
import type { LedgerAccount, LedgerAgency, LedgerRate, LedgerSettings } from './shapes.ts'

export function settingsSection(base: string, now: LedgerSettings): string {
  const yesNo = [
    ['yes', 'Keep the number of the document'],
    ['no', 'Give every document a number of our own'],
  ] as const
  const ways = [
    ['by-rate', 'Computed here, from the rate of each line'],
    ['as-given', 'Taken as it is handed over'],
  ] as const
  const fields = `<p>Numbers: ${select('keepsDocumentNumbers', 'Document numbers', yesNo, now.keepsDocumentNumbers ? 'yes' : 'no')}</p>
    <p>Tax: ${select('taxComputation', 'Tax computation', ways, now.taxComputation)}</p>
    <p>Other currencies: ${select(
      'exchange',
      'Exchange rates',
      [
        ['as-stated', 'Converted at the rate on the document'],
        ['at-one', 'Taken over unit for unit'],
      ],
      now.exchange,
    )}</p>
    <p>Credit notes: ${select(
      'credits',
      'Credit notes',
      [
        ['as-credits', 'On the other side'],
        ['as-sales', 'As one more sale'],
      ],
      now.credits,
    )}</p>
    <p>Prices with tax inside: ${select(
      'inside',
      'Prices with tax inside',
      [
        ['taken-out', 'The tax is taken out'],
        ['put-on-top', 'The tax is put on top'],
      ],
      now.inside,
    )}</p>
    <p>Lines of a document: ${select(
      'mostLines',
      'Lines of a document',
      [
        ['all', 'All of them'],
        ['8', 'The first eight'],
      ],
      now.mostLines === null ? 'all' : String(now.mostLines),
    )}</p>
    <p>Locked through: ${field('lockedThrough', now.lockedThrough ?? '', 'Locked through', 'placeholder="not locked"')}</p>`
  return `<section id="settings"><h2>Settings</h2>${form(`${base}/desk/settings`, fields, 'Save settings')}</section>`
}

export function ratesSection(base: string, rates: readonly { id: string; value: LedgerRate }[]): string {
  const rows = rates.flatMap(({ id, value }) =>
    (value.components ?? []).map((c, at) => [
      escape(value.code),
      escape(value.name),
      escape(c.name),
      `${escape(c.percent)} %`,
      form(
        `${base}/desk/rates`,
        `<input type="hidden" name="id" value="${escape(id)}"><input type="hidden" name="component" value="${at}">${field('percent', c.percent, `Percent of ${c.name} in ${value.name}`, 'size="8"')}`,
        'Set',
      ),
    ]),
  )
  return `<section id="rates"><h2>Tax rates</h2>${table(['Code', 'Rate', 'Component', 'Percent', 'Change'], rows)}</section>`
}

export function roundingSection(base: string, rates: readonly { id: string; value: LedgerRate }[]): string {
  const rows = rates.map(({ id, value }) => [
    escape(value.name),
    form(
      `${base}/desk/rounding`,
      `<input type="hidden" name="id" value="${escape(id)}">${select(
        'rounds',
        `Rounding of ${value.name}`,
        [
          ['document', 'once a document'],
          ['line', 'line by line'],
        ],
        value.rounds ?? 'document',
      )}`,
      'Set',
    ),
  ])
  return `<section id="rounding"><h2>Rounding</h2>${table(['Rate', 'Rounded'], rows)}</section>`
}

export function agenciesSection(
  base: string,
  agencies: readonly { id: string; value: LedgerAgency }[],
  accounts: readonly { id: string; value: LedgerAccount }[],
): string {
  const options = accounts
    .filter((a) => a.value.type === 'current-liability')
    .map((a) => [a.id, `${a.value.number} ${a.value.name}`] as const)
  const rows = agencies.map(({ id, value }) => [
    escape(value.name),
    form(
      `${base}/desk/agencies`,
      `<input type="hidden" name="id" value="${escape(id)}">${field('name', value.name, `Name of ${value.name}`, 'size="30"')} ${select('account', `Account of ${value.name}`, options, value.liabilityAccountId ?? '')}`,
      'Set',
    ),
  ])
  return `<section id="agencies"><h2>Tax agencies</h2>${table(['Agency', 'Name, and where it posts to'], rows)}</section>`
}

export function journalSection(
  base: string,
  accounts: readonly { id: string; value: LedgerAccount }[],
): string {
  const options = accounts.map((a) => [a.id, `${a.value.number} ${a.value.name}`] as const)
  const fields = `${field('date', '', 'Date of the entry', 'type="date" required')} ${field('memo', '', 'Memo', 'required placeholder="Memo"')} ${select('debit', 'Debit account', options)} ${select('credit', 'Credit account', options)} ${field('amount', '', 'Amount of the entry', 'size="8" required placeholder="Amount"')}`
  return `<section id="journal"><h2>Entry by hand</h2>${form(`${base}/desk/journal`, fields, 'Enter it')}</section>`
}

export function entriesSection(
  base: string,
  find: string,
  entries: readonly { id: string; value: StoredEntry }[],
): string {
  const rows = entries.map(({ id, value }) => {
    const hidden = (action: string): string =>
      `<input type="hidden" name="id" value="${escape(id)}"><input type="hidden" name="action" value="${action}">`
    const options = value.lines
      .map((l, at) => [String(at), `${l.description}: ${l.credit}`] as const)
      .filter((_, at) => value.lines[at]?.agencyId !== null)
    const change =
      options.length === 0
        ? ''
        : form(
            `${base}/desk/entries`,
            `${hidden('change')}${select('line', `Line of ${id}`, options)}${field('credit', '', `Credit in ${id}`, 'size="8"')}`,
            'Change',
          )
    return [
      `<span id="entry-${escape(id)}">${escape(id)}</span>`,
      form(
        `${base}/desk/entries`,
        `${hidden('date')}${field('date', value.postingDate, `Date of ${id}`, 'size="10"')}`,
        'Move',
      ),
      escape(value.memo),
      value.voided ? 'voided' : 'posted',
      change,
      value.voided
        ? ''
        : `${form(`${base}/desk/entries`, hidden('void'), `Void ${id}`)} ${form(`${base}/desk/entries`, hidden('copy'), `Book ${id} once more`)}`,
    ]
  })
  return `<section id="entries"><h2>Journal entries</h2>${finder(`${base}/desk`, find, 'entry or memo')}${table(['Entry', 'Date', 'Memo', 'State', 'Change a tax line', 'Void'], rows)}</section>`
}

export function addPercents(percents: readonly string[]): string {
  const total = percents.reduce((sum, text) => {
    const [whole = '0', fraction = ''] = text.split('.')
    return sum + BigInt(whole) * 1000000n + BigInt(fraction.padEnd(6, '0'))
  }, 0n)
  return `${total / 1000000n}.${(total % 1000000n)
    .toString()
    .padStart(6, '0')
    .replace(/0{1,4}$/, '')}`
}
