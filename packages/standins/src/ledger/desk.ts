import type { FastifyInstance } from 'fastify'
import { toText, toUnits } from '../shared/exact.ts'
import {
  escape,
  faultsSection,
  field,
  finder,
  form,
  foundAmong,
  page,
  select,
  table,
} from '../shared/desk.ts'
import { FAULTS, type FaultName, type Faults } from '../shared/faults.ts'
import { Refusal } from '../shared/problems.ts'
import type { Store, Writer } from '../shared/store.ts'
import type { StoredEntry } from './bookings.ts'
import type { LedgerAccount, LedgerAgency, LedgerRate, LedgerSettings } from './books.ts'

interface DeskDeps {
  readonly store: Store
  readonly faults: Faults
  readonly base: string
  settings(): Promise<LedgerSettings>
}

/** The ledger's desk: its settings, rates, accounts and entries, changed by hand as a bookkeeper would. */
export function ledgerDesk(app: FastifyInstance, { store, faults, settings, base }: DeskDeps): void {
  app.get<{ Querystring: { find?: string } }>('/desk', async (request, reply) => {
    const { find = '' } = request.query
    const [now, rates, agencies, accounts, entries] = await Promise.all([
      settings(),
      store.all<LedgerRate>('tax-rates'),
      store.all<LedgerAgency>('agencies'),
      store.all<LedgerAccount>('accounts'),
      store.all<StoredEntry>('journal-entries'),
    ])
    const body = [
      settingsSection(base, now),
      ratesSection(base, rates),
      roundingSection(base, rates),
      agenciesSection(base, agencies, accounts),
      journalSection(base, accounts),
      faultsSection(base, await faults.switches()),
      entriesSection(
        base,
        find,
        foundAmong(entries, find, ({ id, value }) => `${id} ${value.memo}`),
      ),
    ]
    return reply.type('text/html').send(page('Combwright Books', now.company.name, body.join('')))
  })
  const back = `${base}/desk`

  app.post<{
    Body: {
      keepsDocumentNumbers: string
      lockedThrough: string
      taxComputation: 'by-rate' | 'as-given'
      exchange?: LedgerSettings['exchange']
      credits?: LedgerSettings['credits']
      inside?: LedgerSettings['inside']
      mostLines?: string
    }
  }>('/desk/settings', async (request, reply) => {
    const now = await settings()
    const {
      keepsDocumentNumbers,
      lockedThrough,
      taxComputation,
      exchange = now.exchange,
      credits = now.credits,
      inside = now.inside,
      mostLines,
    } = request.body
    await store.setSetting('settings', {
      ...now,
      keepsDocumentNumbers: keepsDocumentNumbers === 'yes',
      lockedThrough: lockedThrough || null,
      taxComputation,
      exchange,
      credits,
      inside,
      mostLines: mostLines === undefined ? now.mostLines : mostLines === 'all' ? null : Number(mostLines),
    })
    return reply.redirect(`${back}#settings`, 303)
  })

  app.post<{ Body: { id: string; component: string; percent: string } }>(
    '/desk/rates',
    async (request, reply) => {
      const { id, component, percent } = request.body
      if (!/^\d{1,2}(\.\d{1,6})?$/.test(percent))
        throw new Refusal(400, 'bad-percent', `"${percent}" is no percent.`)
      await store.write(async (writer) => {
        const rate = (await writer.get<LedgerRate>('tax-rates', id))?.value
        if (!rate?.components)
          throw new Refusal(404, 'unknown-rate', `There is no rate ${id} with components.`)
        const components = rate.components.map((c, at) => (String(at) === component ? { ...c, percent } : c))
        await writer.put('tax-rates', id, {
          ...rate,
          components,
          percent: addPercents(components.map((c) => c.percent)),
        })
      })
      return reply.redirect(`${back}#rates`, 303)
    },
  )

  app.post<{ Body: { id: string; rounds: string } }>('/desk/rounding', async (request, reply) => {
    const { id, rounds } = request.body
    await store.write(async (writer) => {
      const rate = (await writer.get<LedgerRate>('tax-rates', id))?.value
      if (!rate) throw new Refusal(404, 'unknown-rate', `There is no rate ${id}.`)
      const { rounds: _was, ...rest } = rate
      await writer.put('tax-rates', id, rounds === 'line' ? { ...rest, rounds } : rest)
    })
    return reply.redirect(`${back}#rounding`, 303)
  })

  app.post<{ Body: { id: string; account: string; name?: string } }>(
    '/desk/agencies',
    async (request, reply) => {
      const { id, account, name } = request.body
      await store.write(async (writer) => {
        const agency = (await writer.get<LedgerAgency>('agencies', id))?.value
        await writer.put('agencies', id, {
          ...agency,
          ...(name ? { name } : {}),
          liabilityAccountId: account,
        })
      })
      return reply.redirect(`${back}#agencies`, 303)
    },
  )

  app.post<{ Body: { id: string; action: string; line?: string; credit?: string; date?: string } }>(
    '/desk/entries',
    async (request, reply) => {
      const { id, action, line, credit = '', date = '' } = request.body
      await store.write(async (writer) => {
        const entry = (await writer.get<StoredEntry>('journal-entries', id))?.value
        if (!entry) throw new Refusal(404, 'unknown-entry', `There is no entry ${id}.`)
        if (action === 'copy') return copyEntry(writer, entry)
        if (action === 'change' && !/^\d{1,12}(\.\d{1,3})?$/.test(credit))
          throw new Refusal(400, 'bad-amount', `"${credit}" is no amount.`)
        const lines = action === 'change' ? withCredit(entry, Number(line), credit) : entry.lines
        const postingDate = action === 'date' ? requireDate(date) : entry.postingDate
        const booking =
          entry.bookingId === null ? undefined : await writer.get<object>('bookings', entry.bookingId)
        const revision =
          booking && entry.bookingId ? await writer.put('bookings', entry.bookingId, booking.value) : null
        await writer.put('journal-entries', id, {
          ...entry,
          lines,
          postingDate,
          voided: action === 'void' || entry.voided,
          bookingRevision: revision,
          changedBy: 'the desk',
          changedAt: new Date().toISOString(),
        })
      })
      return reply.redirect(`${back}?find=${id}#entry-${id}`, 303)
    },
  )

  app.post<{ Body: Record<'date' | 'memo' | 'debit' | 'credit' | 'amount', string> }>(
    '/desk/journal',
    async (request, reply) => {
      const { date, memo, debit, credit, amount } = request.body
      if (!/^\d{1,12}(\.\d{1,3})?$/.test(amount))
        throw new Refusal(400, 'bad-amount', `"${amount}" is no amount.`)
      const { baseCurrency } = await settings()
      await store.write(async (writer) => {
        const id = String(await writer.nextNumber('entry-number', 48001))
        const units = toUnits(amount, baseCurrency)
        const [nil, text] = [toText(0n, baseCurrency), toText(units, baseCurrency)]
        const line = {
          description: memo,
          agencyId: null,
          taxRateId: null,
          base: null,
          baseDebit: null,
          baseCredit: null,
          dimensionIds: [],
        }
        await writer.put('journal-entries', id, {
          number: id,
          bookingId: null,
          externalId: null,
          bookingRevision: null,
          postingDate: requireDate(date),
          currency: baseCurrency,
          baseCurrency,
          memo,
          voided: false,
          changedBy: 'the desk',
          changedAt: new Date().toISOString(),
          webAddress: null,
          lines: [
            { ...line, accountId: debit, debit: text, credit: nil },
            { ...line, accountId: credit, debit: nil, credit: text },
          ],
        } satisfies StoredEntry)
      })
      return reply.redirect(`${back}#entries`, 303)
    },
  )

  app.post<{ Body: { name: string; requests: string } }>('/desk/faults', async (request, reply) => {
    const { name, requests } = request.body
    if (!(name in FAULTS) || !/^-?\d{1,6}$/.test(requests))
      throw new Refusal(400, 'bad-fault', 'No such fault.')
    await faults.set(name as FaultName, Number(requests))
    return reply.redirect(`${back}#faults`, 303)
  })
}

/** Books an entry once more, as a bookkeeper does who did not see that it was there. */
async function copyEntry(writer: Writer, entry: StoredEntry): Promise<void> {
  const bookingId = String(await writer.nextNumber('booking-number', 7001))
  const id = String(await writer.nextNumber('entry-number', 48001))
  const bookingRevision = await writer.put('bookings', bookingId, {
    externalId: entry.externalId,
    number: entry.number,
    entryId: id,
    state: 'posted',
    key: null,
  })
  await writer.put('journal-entries', id, {
    ...entry,
    number: id,
    bookingId,
    bookingRevision,
    changedBy: 'the desk',
    changedAt: new Date().toISOString(),
  })
}

function requireDate(text: string): string {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) throw new Refusal(400, 'bad-date', `"${text}" is no date.`)
  return text
}

/** A line's credit as somebody typed it; the receivable, which is the first line, takes the difference. */
function withCredit({ lines, currency }: StoredEntry, at: number, credit: string): StoredEntry['lines'] {
  const difference = toUnits(credit, currency) - toUnits(lines[at]?.credit ?? '0', currency)
  return lines.map((line, place) =>
    place === at
      ? { ...line, credit: toText(toUnits(credit, currency), currency) }
      : place === 0
        ? { ...line, debit: toText(toUnits(line.debit, currency) + difference, currency) }
        : line,
  )
}

function settingsSection(base: string, now: LedgerSettings): string {
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

function ratesSection(base: string, rates: readonly { id: string; value: LedgerRate }[]): string {
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

function roundingSection(base: string, rates: readonly { id: string; value: LedgerRate }[]): string {
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

function agenciesSection(
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

function journalSection(base: string, accounts: readonly { id: string; value: LedgerAccount }[]): string {
  const options = accounts.map((a) => [a.id, `${a.value.number} ${a.value.name}`] as const)
  const fields = `${field('date', '', 'Date of the entry', 'type="date" required')} ${field('memo', '', 'Memo', 'required placeholder="Memo"')} ${select('debit', 'Debit account', options)} ${select('credit', 'Credit account', options)} ${field('amount', '', 'Amount of the entry', 'size="8" required placeholder="Amount"')}`
  return `<section id="journal"><h2>Entry by hand</h2>${form(`${base}/desk/journal`, fields, 'Enter it')}</section>`
}

function entriesSection(
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

function addPercents(percents: readonly string[]): string {
  const total = percents.reduce((sum, text) => {
    const [whole = '0', fraction = ''] = text.split('.')
    return sum + BigInt(whole) * 1_000_000n + BigInt(fraction.padEnd(6, '0'))
  }, 0n)
  return `${total / 1_000_000n}.${(total % 1_000_000n)
    .toString()
    .padStart(6, '0')
    .replace(/0{1,4}$/, '')}`
}
