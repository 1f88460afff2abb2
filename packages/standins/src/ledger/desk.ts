import type { FastifyInstance } from 'fastify'
import { toText, toUnits } from '../shared/exact.ts'
import { faultsSection, foundAmong, page } from '../shared/desk.ts'
import { FAULTS, type FaultName, type Faults } from '../shared/faults.ts'
import { Refusal } from '../shared/problems.ts'
import type { Store, Writer } from '../shared/store.ts'
import type { StoredEntry } from './bookings.ts'
import type { LedgerAccount, LedgerAgency, LedgerRate, LedgerSettings } from './shapes.ts'

import {
  addPercents,
  agenciesSection,
  entriesSection,
  journalSection,
  ratesSection,
  roundingSection,
  settingsSection,
} from './sections.ts'

interface DeskDeps {
  readonly store: Store
  readonly faults: Faults
  readonly base: string
  settings(): Promise<LedgerSettings>
}

/** The ledger's desk: its settings, rates, accounts and entries, changed by hand as a bookkeeper would. */
export function ledgerDesk(app: FastifyInstance, deps: DeskDeps): void {
  deskPage(app, deps)
  settingsActs(app, deps)
  rateActs(app, deps)
  entryActs(app, deps)
  journalActs(app, deps)
}

function deskPage(app: FastifyInstance, { store, faults, settings, base }: DeskDeps): void {
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
}

function settingsActs(app: FastifyInstance, { store, faults, settings, base }: DeskDeps): void {
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
    return reply.redirect(`${base}/desk#settings`, 303)
  })

  app.post<{ Body: { name: string; requests: string } }>('/desk/faults', async (request, reply) => {
    const { name, requests } = request.body
    if (!(name in FAULTS) || !/^-?\d{1,6}$/.test(requests))
      throw new Refusal(400, 'bad-fault', 'No such fault.')
    await faults.set(name as FaultName, Number(requests))
    return reply.redirect(`${base}/desk#faults`, 303)
  })
}

function rateActs(app: FastifyInstance, { store, base }: DeskDeps): void {
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
      return reply.redirect(`${base}/desk#rates`, 303)
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
    return reply.redirect(`${base}/desk#rounding`, 303)
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
      return reply.redirect(`${base}/desk#agencies`, 303)
    },
  )
}

/** What stands there is changed, voided, moved or doubled. */
function entryActs(app: FastifyInstance, { store, base }: DeskDeps): void {
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
      return reply.redirect(`${base}/desk?find=${id}#entry-${id}`, 303)
    },
  )
}

/** Entries made by hand. */
function journalActs(app: FastifyInstance, { store, settings, base }: DeskDeps): void {
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
      return reply.redirect(`${base}/desk#entries`, 303)
    },
  )
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
