import { randomUUID } from 'node:crypto'
import {
  Booking,
  type About,
  type Account,
  type BookingRequest,
  type JournalEntry,
  type Settings,
} from '@axion/contract'
import { formatAmount, parseAmount, dayAfter } from '@axion/core'
import { must, type Report } from '../report.ts'
import type { Answer, Client } from '../client.ts'

interface Made {
  readonly booking: Booking
  readonly answer: Answer
}

/** What the checks of bookings share: a request that is right, what was made of it, and where it is seen. */
export interface Trial {
  readonly report: Report
  readonly client: Client
  readonly about: About
  readonly settings: Settings
  readonly receivable: { readonly id: string }
  readonly income: { readonly id: string }
  /** A request of its own each time, changed as asked. */
  request(changes?: Partial<BookingRequest>, net?: string): BookingRequest
  /** Posts a request, whatever comes of it. */
  offered(body: BookingRequest): Promise<Answer>
  /** Posts a request, which is voided in the end. */
  made(body: BookingRequest, key?: string): Promise<Made>
  entriesOf(externalId: string): Promise<{ sequence: string; value: JournalEntry }[]>
  /** All that was made so far. */
  readonly toVoid: readonly { readonly id: string; readonly externalId: string }[]
}

/** Null where there is no account to book to. */
export async function trialOf(
  report: Report,
  client: Client,
  about: About,
  settings: Settings,
): Promise<Trial | null> {
  const accounts = (await client.all('accounts'))
    .filter((i) => !i.removed)
    .map((i) => ({ id: i.id, ...(i.value as Account) }))
  const receivable = accounts.find((a) => a.type === 'receivable')
  const income = accounts.find((a) => a.type === 'income')
  if (!receivable || !income) return null
  const run = randomUUID()
  let count = 0
  const request = (changes: Partial<BookingRequest> = {}, net = '100.00'): BookingRequest => {
    const id = `conformance/${run}/${++count}/invoice`
    return {
      externalId: id,
      number: `TEST-${count}-${run.slice(0, 8)}`,
      kind: 'invoice',
      postingDate: openDate(settings),
      currency: settings.baseCurrency,
      exchangeRate: null,
      party: { id: 'conformance', name: 'Conformance test' },
      receivableAccountId: receivable.id,
      reimbursed: null,
      memo: 'Conformance test, may be deleted',
      pricesIncludeTax: false,
      journal: null,
      taxes: about.taxComputation === 'as-given' ? [] : null,
      lines: [
        {
          id: '1',
          kind: 'goods',
          description: 'Test',
          accountId: income.id,
          quantity: '1',
          net: inCurrency(net, settings.baseCurrency),
          taxable: inCurrency('0', settings.baseCurrency),
          gross: null,
          taxRate: null,
          dimensionIds: [],
        },
      ],
      ...changes,
    }
  }
  const offered = (body: BookingRequest, key: string = randomUUID()): Promise<Answer> =>
    client.ask('POST', '/bookings', { body, headers: { 'idempotency-key': key } })
  const post = async (body: BookingRequest, key?: string): Promise<Made> => {
    const answer = await offered(body, key)
    must(
      answer.status === 201,
      `POST /bookings answers ${answer.status}: ${JSON.stringify(answer.body).slice(0, 200)}`,
    )
    return { booking: Booking.parse(answer.body), answer }
  }
  const entriesOf = async (externalId: string): Promise<{ sequence: string; value: JournalEntry }[]> =>
    (await client.all('journal-entries'))
      .filter((i) => !i.removed && (i.value as JournalEntry).externalId === externalId)
      .map((i) => ({ sequence: i.sequence, value: i.value as JournalEntry }))
  const toVoid: { id: string; externalId: string }[] = []
  const made = async (body: BookingRequest, key?: string): Promise<Made> => {
    const result = await post(body, key)
    toVoid.push({ id: result.booking.id, externalId: body.externalId })
    return result
  }
  return { report, client, about, settings, receivable, income, request, offered, made, entriesOf, toVoid }
}

/** @throws where an entry does not book so much to the receivable and to income */
export function mustBook(
  entry: JournalEntry,
  {
    receivable,
    income,
    amount,
    sign,
  }: {
    readonly receivable: string
    readonly income: string
    readonly amount: string
    readonly sign: 1n | -1n
  },
): void {
  const of = (accountId: string): bigint =>
    entry.lines
      .filter((l) => l.accountId === accountId)
      .reduce((s, l) => s + parseAmount(l.debit, entry.currency) - parseAmount(l.credit, entry.currency), 0n)
  const units = parseAmount(inCurrency(amount, entry.currency), entry.currency)
  must(
    of(receivable) === units * sign && of(income) === -units * sign,
    `its lines do not debit ${amount} to the receivable and credit it to income${sign < 0n ? ', the other way round' : ''}`,
  )
}

/** The first day that is not locked, today at the earliest. */
function openDate({ lockedThrough }: Settings): string {
  const today = new Date().toISOString().slice(0, 10)
  if (lockedThrough === null || lockedThrough < today) return today
  return dayAfter(lockedThrough)
}

/** An amount with as many digits as its currency has. */
export function inCurrency(text: string, currency: string): string {
  const digits = formatAmount(0n, currency).split('.')[1]?.length ?? 0
  const [whole = '0', fraction = ''] = text.split('.')
  return digits === 0 ? whole : `${whole}.${fraction.padEnd(digits, '0').slice(0, digits)}`
}

/** Whether two amounts of a currency are the same. */
export function same(a: string, b: string, currency: string): boolean {
  return parseAmount(inCurrency(a, currency), currency) === parseAmount(inCurrency(b, currency), currency)
}
