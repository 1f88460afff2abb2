import type { CauseView, RemedyPreview, TieOutView, TriedRemedy } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { bookAll, demoPair, makeReadyWorld, MONTH, type World } from './world.ts'

/** The demo's own ledger, with every convention and mistake of its own, over a month of every kind of document. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld({ ...demoPair(), links: ['agencies', 'rates', 'items'] })
  await bookAll(world)
})
afterAll(() => world.close())

const tieOut = (): Promise<TieOutView> => world.ok('GET', `${MONTH}/tie-out`)
const tried = (cause: CauseView): Promise<TriedRemedy[]> =>
  world.ok('GET', `${MONTH}/mend/tried?cause=${encodeURIComponent(cause.key)}`)
const units = (text: string): bigint => BigInt(text.replace('.', ''))

async function mend(remedy: object): Promise<void> {
  const { revision } = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, { remedy })
  expect(await world.run('/mend', { remedy, revision })).toMatchObject({ state: 'done', failed: 0 })
}

describe('remedies are tried before they are shown', () => {
  it('what would come out as wrong as before comes last, with the reason; what would change nothing is not there', async () => {
    const { causes } = await tieOut()
    const seen: [string, TriedRemedy[]][] = []
    for (const cause of causes.filter((one) => one.remedies.length > 0))
      seen.push([cause.key, await tried(cause)])
    for (const [key, of] of seen) {
      const leaves = of.map((one) => one.leaves > 0)
      expect([key, leaves]).toEqual([key, [...leaves].sort()])
      expect([
        key,
        of.every((one) => one.leaves === 0 || one.why !== null || one.remedy.kind === 'correct'),
      ]).toEqual([key, true])
    }
    // A ledger that holds another percent, or takes credits for sales, makes the same of the same once more.
    const of = (start: string): TriedRemedy[] => seen.find(([key]) => key.startsWith(start))?.[1] ?? []
    expect(of('booked: component-percent').map((one) => one.remedy.kind)).toEqual([
      'component-percent',
      'correct',
      'book-again',
    ])
    expect(of('booked: sign').map((one) => [one.remedy.kind, one.leaves > 0])).toEqual([
      ['correct', false],
      ['book-again', true],
    ])
  })

  it('the first remedy of every cause is carried out at the ledger, and its money goes', async () => {
    const done: string[] = []
    for (let turn = 0; turn < 20; turn++) {
      const before = await tieOut()
      const cause = before.causes.find((one) => one.remedies.length > 0)
      if (!cause) break
      const [first] = await tried(cause)
      // What a ledger does by a way of its own that nothing here reaches is changed there first.
      if ((first?.leaves ?? 0) > 0) {
        expect([cause.key, (await tried(cause)).map((one) => one.remedy.kind)]).toEqual([
          'booked: exchange-at-one',
          ['book-again'],
        ])
        await world.ledgerSql(
          `update setting set value = value || '{"exchange": "as-stated"}' where name = 'settings'`,
        )
      }
      await mend(first?.remedy ?? {})
      const after = await tieOut()
      expect([cause.key, after.causes.some((one) => one.key === cause.key)]).toEqual([cause.key, false])
      expect([cause.key, units(before.unproved) - units(after.unproved)]).toEqual([
        cause.key,
        units(cause.unproved),
      ])
      done.push(`${cause.key.split('|')[0] ?? ''} by ${first?.remedy.kind ?? ''}`)
    }
    expect(new Set(done).size).toBeGreaterThan(7)
    expect((await tieOut()).causes.filter((one) => one.remedies.length > 0)).toEqual([])
  })
})
