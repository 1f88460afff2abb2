import { randomUUID } from 'node:crypto'
import { Booking, type JournalEntry } from '@axion/contract'
import { must, mustRefuse } from '../report.ts'
import { balancesHold } from '../content.ts'
import type { Trial } from './trial.ts'

/** Voids go by the revision; a ledger without them refuses one. All that was made is voided, where the ledger voids. */
export async function voidingChecks({ report, client, about, settings, toVoid }: Trial): Promise<void> {
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
