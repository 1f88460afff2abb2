import type { JournalEntry } from '@axion/contract'
import { must } from '../report.ts'
import type { Trial } from './trial.ts'

const AT_ONCE = 12

/** Nothing is missed of what is posted at once. */
export async function atOnceChecks({ report, client, request, made }: Trial): Promise<void> {
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
}
