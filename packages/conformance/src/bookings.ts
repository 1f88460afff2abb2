import { randomUUID } from 'node:crypto'
import {
  Booking,
  type About,
  type Account,
  type Agency,
  type BookingRequest,
  type Dimension,
  type JournalEntry,
  type Settings,
  type TaxRate,
} from '@axion/contract'
import { formatAmount, parseAmount, dayAfter } from '@axion/core'
import { z } from 'zod'
import { must, mustRefuse, type Report } from './report.ts'
import type { Answer, Client } from './client.ts'
import { balancesHold } from './content.ts'

const Found = z.object({ items: z.array(Booking) })
const AT_ONCE = 12

interface Made {
  readonly booking: Booking
  readonly answer: Answer
}

/** Posting, repeating, replacing and voiding; each test booking is voided in the end, where the ledger voids. */
export async function bookingChecks(
  report: Report,
  client: Client,
  about: About,
  settings: Settings,
): Promise<void> {
  const accounts = (await client.all('accounts'))
    .filter((i) => !i.removed)
    .map((i) => ({ id: i.id, ...(i.value as Account) }))
  const receivable = accounts.find((a) => a.type === 'receivable')
  const income = accounts.find((a) => a.type === 'income')
  if (!receivable || !income)
    return report.skip('bookings', 'there is no receivable or no income account to book to')
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
  const post = async (body: BookingRequest, key: string = randomUUID()): Promise<Made> => {
    const answer = await client.ask('POST', '/bookings', { body, headers: { 'idempotency-key': key } })
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

  await report.rule(
    'a booking answers 201 with its revision as ETag, and shows in the journal once, balanced',
    async () => {
      const body = request()
      const { booking, answer } = await made(body)
      must(answer.headers.get('etag') === `"${booking.revision}"`, 'the ETag is not the revision in quotes')
      const [entry, more] = await entriesOf(body.externalId)
      must(entry && !more, 'its journal entry is not there once')
      must(
        entry.value.bookingId === booking.id &&
          entry.value.bookingRevision === booking.revision &&
          !entry.value.voided,
        'the entry does not name its booking and revision',
      )
      must(
        entry.value.postingDate === body.postingDate && entry.value.currency === body.currency,
        'the entry has another date or currency',
      )
      mustBook(entry.value, receivable.id, income.id, '100.00', 1n)
    },
  )
  if (about.idempotency === null) report.skip('idempotency keys', 'it keeps none')
  else {
    await report.rule(
      'the same key with the same request does nothing and answers the same; with another request it is refused with 409',
      async () => {
        const [body, key] = [request(), randomUUID()]
        const first = await made(body, key)
        const again = await client.ask('POST', '/bookings', { body, headers: { 'idempotency-key': key } })
        must(
          again.status === 201 && JSON.stringify(Booking.parse(again.body)) === JSON.stringify(first.booking),
          'the second answer is another',
        )
        must((await entriesOf(body.externalId)).length === 1, 'it was booked twice')
        mustRefuse(
          await client.ask('POST', '/bookings', {
            body: { ...body, memo: 'another' },
            headers: { 'idempotency-key': key },
          }),
          409,
          'the key with another request',
        )
        const { items } = Found.parse((await client.ask('GET', `/bookings?idempotencyKey=${key}`)).body)
        must(items.length === 1 && items[0]?.id === first.booking.id, 'it is not found by its key')
      },
    )
  }
  if (about.findsByExternalId) {
    await report.rule(
      'a booking is found by its external id, and nothing by one that is not there',
      async () => {
        const { booking, externalId } = {
          ...(await made(request())),
          externalId: toVoid.at(-1)?.externalId ?? '',
        }
        const find = async (id: string): Promise<Booking[]> =>
          Found.parse((await client.ask('GET', `/bookings?externalId=${encodeURIComponent(id)}`)).body).items
        must(
          (await find(externalId)).some((b) => b.id === booking.id),
          'it is not found',
        )
        must(
          (await find('conformance/none/1/invoice')).length === 0,
          'something is found under an id that was never used',
        )
      },
    )
  } else report.skip('look-up by external id', 'it declares none')
  await report.rule(
    'a booking is replaced under its revision alone: 428 without If-Match, 412 with an older one',
    async () => {
      const body = request()
      const { booking } = await made(body)
      const [before] = await entriesOf(body.externalId)
      const put = (headers: Record<string, string>): Promise<Answer> =>
        client.ask('PUT', `/bookings/${encodeURIComponent(booking.id)}`, {
          body: {
            ...body,
            lines: body.lines.map((l) => ({ ...l, net: inCurrency('250.00', body.currency) })),
          },
          headers: { 'idempotency-key': randomUUID(), ...headers },
        })
      mustRefuse(await put({}), 428, 'a replacement without If-Match')
      mustRefuse(
        await put({ 'if-match': `"${booking.revision}0"` }),
        412,
        'a replacement under another revision',
      )
      const replaced = Booking.parse((await put({ 'if-match': `"${booking.revision}"` })).body)
      must(
        replaced.id === booking.id && replaced.revision !== booking.revision,
        'the revision did not change',
      )
      const entries = await entriesOf(body.externalId)
      must(
        entries.length === 1 && entries[0] && BigInt(entries[0].sequence) > BigInt(before?.sequence ?? '0'),
        'the entry did not move to a higher sequence, once',
      )
      mustBook(entries[0].value, receivable.id, income.id, '250.00', 1n)
    },
  )
  await report.rule(
    'an account that there is not, and a rate that there is not, are refused with 422, and nothing is written',
    async () => {
      const unknown = request()
      mustRefuse(
        await client.ask('POST', '/bookings', {
          body: { ...unknown, lines: unknown.lines.map((l) => ({ ...l, accountId: 'no-such-account' })) },
          headers: { 'idempotency-key': randomUUID() },
        }),
        422,
        'an unknown account',
      )
      if (about.taxComputation === 'by-rate')
        mustRefuse(
          await client.ask('POST', '/bookings', {
            body: {
              ...unknown,
              lines: unknown.lines.map((l) => ({ ...l, taxRate: { name: 'no such rate' } })),
            },
            headers: { 'idempotency-key': randomUUID() },
          }),
          422,
          'an unknown rate',
        )
      must((await entriesOf(unknown.externalId)).length === 0, 'something was written all the same')
    },
  )
  const [dimension] = about.resources.includes('dimensions')
    ? (await client.all('dimensions')).filter((i) => !i.removed && (i.value as Dimension).active)
    : []
  if (!dimension)
    report.skip(
      'tracking dimensions on a line',
      about.resources.includes('dimensions') ? 'it has no value in use' : 'it has none',
    )
  else {
    await report.rule(
      'a value of a tracking dimension stands on the line that was given it, and one that there is not is refused with 422',
      async () => {
        const body = request()
        const under = (id: string): BookingRequest => ({
          ...body,
          lines: body.lines.map((l) => ({ ...l, dimensionIds: [id] })),
        })
        mustRefuse(
          await client.ask('POST', '/bookings', {
            body: under('no-such-value'),
            headers: { 'idempotency-key': randomUUID() },
          }),
          422,
          'a value that there is not',
        )
        await made(under(dimension.id))
        const [entry] = await entriesOf(body.externalId)
        must(
          entry?.value.lines.find((l) => l.accountId === income.id)?.dimensionIds.includes(dimension.id) ===
            true,
          'the line in the journal does not have it',
        )
      },
    )
  }
  await report.rule('a credit note stands on the other side', async () => {
    const body = request({ kind: 'credit-note' })
    await made(body)
    const [entry] = await entriesOf(body.externalId)
    must(entry, 'it is not in the journal')
    mustBook(entry.value, receivable.id, income.id, '100.00', -1n)
  })
  await report.rule(
    'a correction is written as its journal says, and refused where that does not balance',
    async () => {
      const nil = inCurrency('0', settings.baseCurrency)
      const line = (accountId: string, debit: string, credit: string) => ({
        accountId,
        description: 'Test',
        agencyId: null,
        debit: inCurrency(debit, settings.baseCurrency),
        credit: inCurrency(credit, settings.baseCurrency),
        base: null,
      })
      const body = request({
        kind: 'correction',
        lines: [],
        taxes: null,
        journal: [line(income.id, '7.00', '0'), line(receivable.id, '0', '7.00')],
      })
      await made(body)
      const [entry] = await entriesOf(body.externalId)
      must(
        entry?.value.lines.some(
          (l) =>
            l.accountId === income.id &&
            same(l.debit, '7.00', body.currency) &&
            same(l.credit, nil, body.currency),
        ),
        'its lines are not those that were handed over',
      )
      mustRefuse(
        await client.ask('POST', '/bookings', {
          body: request({
            kind: 'correction',
            lines: [],
            taxes: null,
            journal: [line(income.id, '7.00', '0'), line(receivable.id, '0', '6.00')],
          }),
          headers: { 'idempotency-key': randomUUID() },
        }),
        422,
        'a correction that does not balance',
      )
    },
  )
  await taxChecks(report, client, about, request, made, entriesOf)
  await currencyChecks(report, client, about, settings, request, made, entriesOf)
  await report.rule(
    'a reader that follows the sequence misses nothing of what is posted at once',
    async () => {
      const bodies = Array.from({ length: AT_ONCE }, () => request())
      let after = (await client.all('journal-entries')).at(-1)?.sequence ?? '0'
      const seen = new Set<string>()
      let writing = true
      const look = async (): Promise<void> => {
        for (const item of await client.all('journal-entries', after, 3)) {
          seen.add((item.value as JournalEntry | null)?.externalId ?? '')
          after = item.sequence
        }
      }
      const reader = (async () => {
        while (writing) await look()
      })()
      await Promise.all(bodies.map((body) => made(body)))
      writing = false
      await reader
      await look()
      const missed = bodies.filter((b) => !seen.has(b.externalId)).length
      must(missed === 0, `${missed} of ${AT_ONCE} were never seen`)
    },
  )
  if (!about.voids) {
    const [any] = toVoid
    await report.rule('a ledger without voids refuses one', async () =>
      must(
        any !== undefined &&
          (
            await client.ask('POST', `/bookings/${any.id}/void`, {
              body: {},
              headers: { 'if-match': '"1"', 'idempotency-key': randomUUID() },
            })
          ).status >= 400,
        'it was taken',
      ),
    )
    return
  }
  await report.rule(
    'a void goes by the revision, leaves the entry voided, and counts in no balance',
    async () => {
      for (const { id } of toVoid) {
        const path = `/bookings/${encodeURIComponent(id)}/void`
        mustRefuse(
          await client.ask('POST', path, { body: {}, headers: { 'idempotency-key': randomUUID() } }),
          428,
          'a void without If-Match',
        )
        const revision =
          (await client.all('journal-entries'))
            .map((i) => i.value as JournalEntry | null)
            .find((e) => e?.bookingId === id)?.bookingRevision ?? ''
        const answer = await client.ask('POST', path, {
          body: {},
          headers: { 'if-match': `"${revision}"`, 'idempotency-key': randomUUID() },
        })
        must(Booking.parse(answer.body).state === 'voided', `the void of ${id} answers ${answer.status}`)
      }
      const own = (await client.all('journal-entries'))
        .map((i) => i.value as JournalEntry | null)
        .filter((e) => toVoid.some((b) => b.id === e?.bookingId))
      must(own.length === toVoid.length && own.every((e) => e?.voided), 'an entry is gone, or stands')
      await balancesHold(client, settings)
    },
  )
}

type Entries = (externalId: string) => Promise<{ sequence: string; value: JournalEntry }[]>
type Make = (body: BookingRequest) => Promise<Made>

async function taxChecks(
  report: Report,
  client: Client,
  about: About,
  request: (changes?: Partial<BookingRequest>, net?: string) => BookingRequest,
  made: Make,
  entriesOf: Entries,
): Promise<void> {
  const rates = (await client.all('tax-rates'))
    .filter((i) => !i.removed)
    .map((i) => ({ id: i.id, ...(i.value as TaxRate) }))
    .filter((r) => r.active && (r.components ?? []).some((c) => c.perUnit === null && Number(c.percent) > 0))
  const agencies = new Map(
    (await client.all('agencies')).filter((i) => !i.removed).map((i) => [i.id, i.value as Agency]),
  )
  const rate = rates.find((r) => r.components?.every((c) => agencies.get(c.agencyId)?.liabilityAccountId))
  if (about.taxComputation === 'by-rate' && rate) {
    await report.rule(
      'computes tax by rate: a tax line for each agency, on its base, in its liability account',
      async () => {
        const body = request({})
        const taxed = {
          ...body,
          lines: body.lines.map((l) => ({ ...l, taxable: l.net, taxRate: { id: rate.id } })),
        }
        await made(taxed)
        const [entry] = await entriesOf(taxed.externalId)
        const tax = entry?.value.lines.filter((l) => l.agencyId !== null) ?? []
        must(
          tax.length > 0 &&
            tax.every((l) => agencies.get(l.agencyId ?? '')?.liabilityAccountId === l.accountId),
          'tax lines are missing, or not in their agency’s account',
        )
        must(
          tax.every((l) => l.base === null || same(l.base, body.lines[0]?.net ?? '', body.currency)),
          'a tax line has another base',
        )
      },
    )
  } else if (about.taxComputation === 'as-given' && agencies.size > 0) {
    await report.rule('writes the taxes that it is given, just as they are', async () => {
      const [agencyId, agency] = [...agencies].find(([, a]) => a.liabilityAccountId !== null) ?? []
      const body = request({})
      const given = {
        agencyId: agencyId ?? '',
        accountId: agency?.liabilityAccountId ?? '',
        base: inCurrency('100.00', body.currency),
        tax: inCurrency('7.13', body.currency),
      }
      await made({ ...body, taxes: [given] })
      const [entry] = await entriesOf(body.externalId)
      must(
        entry?.value.lines.some(
          (l) =>
            l.agencyId === agencyId &&
            l.accountId === given.accountId &&
            same(l.credit, '7.13', body.currency),
        ),
        'the tax line is not there',
      )
    })
  } else report.skip('tax on bookings', 'no rate whose agencies all have an account')
}

async function currencyChecks(
  report: Report,
  client: Client,
  about: About,
  settings: Settings,
  request: (changes?: Partial<BookingRequest>) => BookingRequest,
  made: Make,
  entriesOf: Entries,
): Promise<void> {
  const other = settings.currencies.find((c) => c !== settings.baseCurrency)
  const agencies = (await client.all('agencies')).filter((i) => !i.removed)
  const agency = agencies
    .map((i) => ({ id: i.id, ...(i.value as Agency) }))
    .find((a) => a.liabilityAccountId !== null)
  const digits = (currency: string): number => formatAmount(0n, currency).split('.')[1]?.length ?? 0
  if (
    other &&
    agency &&
    about.taxComputation === 'as-given' &&
    [other, settings.baseCurrency].every((c) => digits(c) === 2)
  )
    await report.rule(
      'each tax line is converted by itself, and the rest of the total over the others',
      async () => {
        const body = request({ currency: other, exchangeRate: '1.0837' })
        const tax = (amount: string) => ({
          agencyId: agency.id,
          accountId: agency.liabilityAccountId ?? '',
          base: inCurrency('90.00', other),
          tax: inCurrency(amount, other),
        })
        await made({
          ...body,
          lines: body.lines.map((l) => ({
            ...l,
            net: inCurrency('90.00', other),
            taxable: inCurrency('90.00', other),
          })),
          taxes: [tax('4.00')],
        })
        const [entry] = await entriesOf(body.externalId)
        const held = entry?.value.lines.find((l) => l.agencyId !== null)?.baseCredit ?? ''
        // 4.00 × 1.0837 = 4.3348.
        must(same(held, '4.33', settings.baseCurrency), `the books hold ${held} of tax, not 4.33`)
      },
    )
  if (!other) return report.skip('another currency', 'none is in use')
  await report.rule(
    'another currency is converted once, and both sides agree in the books’ currency',
    async () => {
      const body = request({ currency: other, exchangeRate: '1.3371' })
      await made({
        ...body,
        lines: body.lines.map((l) => ({
          ...l,
          net: inCurrency('33', other),
          taxable: inCurrency('0', other),
        })),
      })
      const [entry] = await entriesOf(body.externalId)
      const lines = entry?.value.lines ?? []
      const [debits, credits] = [
        lines.map((l) => parseAmount(l.baseDebit ?? '0', settings.baseCurrency)),
        lines.map((l) => parseAmount(l.baseCredit ?? '0', settings.baseCurrency)),
      ].map((of) => of.reduce((s, n) => s + n, 0n))
      // 33 × 1.3371 = 44.1243, rounded half away from zero to what the currency has.
      const expected = parseAmount(
        { 0: '44', 2: '44.12', 3: '44.124' }[
          formatAmount(0n, settings.baseCurrency).split('.')[1]?.length ?? 0
        ] ?? '44.12',
        settings.baseCurrency,
      )
      must(
        debits === credits && debits === expected,
        `the books hold ${debits} and ${credits} minor units, not ${expected}`,
      )
    },
  )
}

function mustBook(
  entry: JournalEntry,
  receivable: string,
  income: string,
  amount: string,
  sign: 1n | -1n,
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
function inCurrency(text: string, currency: string): string {
  const digits = formatAmount(0n, currency).split('.')[1]?.length ?? 0
  const [whole = '0', fraction = ''] = text.split('.')
  return digits === 0 ? whole : `${whole}.${fraction.padEnd(digits, '0').slice(0, digits)}`
}

function same(a: string, b: string, currency: string): boolean {
  return parseAmount(inCurrency(a, currency), currency) === parseAmount(inCurrency(b, currency), currency)
}
