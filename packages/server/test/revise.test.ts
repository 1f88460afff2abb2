import { parsePercent } from '@axion/core'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { loadBaseline } from '../src/baseline/load.ts'
import { revise } from '../src/baseline/revise.ts'
import { changing } from '../src/database/connection.ts'
import { makeWorld, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeWorld()))
afterAll(() => world.close())

const inLarkspur: <T>(work: Parameters<typeof changing<T>>[2]) => Promise<T> = (work) =>
  changing(world.services.database, 'larkspur', work)
const days = Array.from(
  { length: 24 },
  (_, at) => `${2025 + Math.floor(at / 12)}-${String((at % 12) + 1).padStart(2, '0')}-15`,
)

describe('a revision of the baseline', () => {
  it('holds from its day on and leaves the days before as they were, whatever came before it', async () => {
    const revision = fc.record({
      month: fc.integer({ min: 0, max: 23 }),
      percent: fc.integer({ min: 1, max: 99 }),
    })
    await fc.assert(
      fc.asyncProperty(fc.array(revision, { minLength: 1, maxLength: 5 }), async (revisions) => {
        // Rolled back each time, so that every run begins with the demo's baseline.
        await expect(
          inLarkspur(async (books) => {
            const model = new Map(days.map((day) => [day, parsePercent('5.5')]))
            for (const { month, percent } of revisions) {
              const from = `${2025 + Math.floor(month / 12)}-${String((month % 12) + 1).padStart(2, '0')}-01`
              const index = await loadBaseline(books)
              const until = index.rateOn('WN', from)?.valid.to ?? '9999-12-31'
              await revise(books, {
                table: 'rate_version',
                objectId: 'WN',
                values: { percent: `${percent}.00` },
                from,
              })
              for (const day of days)
                if (day >= from && day <= until) model.set(day, parsePercent(`${percent}.00`))
            }
            const index = await loadBaseline(books)
            for (const [day, percent] of model) expect(index.rateOn('WN', day)?.percent, day).toBe(percent)
            throw new Error('enough')
          }),
        ).rejects.toThrow('enough')
      }),
      { numRuns: 15 },
    )
  })

  it('keeps what was agreed before readable by when it was recorded', async () => {
    const before = new Date().toISOString()
    await inLarkspur((books) =>
      revise(books, {
        table: 'party',
        objectId: 'cus_kestrel',
        values: { claims: null },
        from: null,
      }),
    )
    const claims = async (at: string | null): Promise<string | null | undefined> =>
      (await inLarkspur((books) => loadBaseline(books, at))).party('cus_kestrel')?.claims
    expect([await claims(before), await claims(null)]).toEqual(['farm-use', null])
  })

  it('refuses an object that is not there, and a day on which nothing holds', async () => {
    const refused = (
      table: 'item' | 'rate_version',
      objectId: string,
      from: string | null,
    ): Promise<unknown> =>
      inLarkspur((books) => revise(books, { table, objectId, values: { name: 'x' }, from })).then(
        () => null,
        (error: { code?: string }) => error.code,
      )
    expect([
      await refused('item', 'nothing', null),
      await refused('rate_version', 'WN', '1999-01-01'),
    ]).toEqual(['AXION_NOT_FOUND', 'AXION_NOT_FOUND'])
  })
})
