import { randomUUID } from 'node:crypto'
import { Booking } from '@axion/contract'
import { must, mustRefuse } from '../report.ts'
import type { Answer } from '../client.ts'
import { inCurrency, mustBook, type Trial } from './trial.ts'

/** A booking is replaced under its revision. */
export async function replacingChecks({
  report,
  client,
  request,
  made,
  entriesOf,
  receivable,
  income,
}: Trial): Promise<void> {
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
      mustBook(entries[0].value, { receivable: receivable.id, income: income.id, amount: '250.00', sign: 1n })
    },
  )
}
