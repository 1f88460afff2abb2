import { randomUUID } from 'node:crypto'
import { Booking } from '@axion/contract'
import { z } from 'zod'
import { must, mustRefuse } from '../report.ts'
import { mustBook, type Trial } from './trial.ts'

const Found = z.object({ items: z.array(Booking) })

/** A booking is answered, shows in the journal once, and is found again. */
export async function postingChecks(trial: Trial): Promise<void> {
  const { report, request, made, entriesOf, receivable, income } = trial
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
      mustBook(entry.value, { receivable: receivable.id, income: income.id, amount: '100.00', sign: 1n })
    },
  )
  await keyChecks(trial)
  await lookUpChecks(trial)
}

/** The same key does the same once. */
async function keyChecks({ report, client, about, request, made, entriesOf }: Trial): Promise<void> {
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
}

/** A booking is found by its external id. */
async function lookUpChecks({ report, client, about, request, made, toVoid }: Trial): Promise<void> {
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
}
