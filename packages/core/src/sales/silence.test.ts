import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { silenceOf } from './silence.ts'

const day = (at: number): string => new Date(Date.UTC(2026, 7, 10 + at)).toISOString().slice(0, 10)
const on = (days: readonly number[], many = 3): Map<string, number> =>
  new Map(days.map((at) => [day(at), many]))
const range = (from: number, to: number, step = 1): number[] =>
  Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, at) => from + at * step)

describe('a stream of documents (A5)', () => {
  test.each<[string, Map<string, number>, number, string | null]>([
    ['every day, up to the last', on(range(0, 40)), 40, null],
    ['every day, and none on the last', on(range(0, 39)), 40, day(39)],
    ['every day, stopped a week ago', on(range(0, 33)), 40, day(33)],
    [
      'closed on two days a week, after those',
      on(range(0, 40).filter((at) => ![5, 6].includes(at % 7))),
      41,
      null,
    ],
    [
      'closed on two days a week, a day longer',
      on(range(0, 38).filter((at) => ![5, 6].includes(at % 7))),
      42,
      day(38),
    ],
    ['once a week, six days after', on(range(0, 35, 7)), 41, null],
    ['once a week, and the seventh day went by', on(range(0, 35, 7)), 42, day(35)],
    ['now and then, longer than ever before', on([0, 3, 4, 15, 16, 20, 24]), 37, null],
    ['now and then, and twice as long as ever', on([0, 3, 4, 15, 16, 20, 24]), 46, day(24)],
    ['an early pause longer than twice the usual one', on([0, 10, 14, 18, 22, 26]), 38, null],
    ['pauses of just twice the usual one', on([0, 2, 4, 6, 8, 12]), 17, null],
    ['on just every other day', on([0, 1, 2, 3, 4, 8]), 12, day(8)],
    [
      'a day of which it says that there were none',
      new Map([...on(range(0, 39)), [day(40), 0]]),
      40,
      day(39),
    ],
    ['more after the last day', new Map([...on(range(0, 39)), [day(45), 3]]), 40, day(39)],
    ['just enough in the weeks looked at', on(range(2, 6)), 57, day(6)],
    ['one of them before those weeks', on(range(1, 5)), 57, null],
    ['too few to know', on([0, 1, 2, 3]), 40, null],
    ['nothing at all', new Map(), 40, null],
    ['long ago, beyond the weeks looked at', on(range(0, 20)), 90, null],
  ])('%s', (_, received, last, since) => expect(silenceOf(received, day(last))?.since ?? null).toBe(since))

  it('says how many come on such a weekday', () => {
    const received = new Map(range(0, 40).map((at) => [day(at), (at % 7) + 1]))
    expect(silenceOf(received, day(42))).toEqual({ since: day(40), days: 2, usual: { least: 1, most: 7 } })
  })

  test.each<[string, (at: number) => number, number, number, { least: number; most: number }]>([
    ['of that weekday alone', (at) => at + 1, 40, 41, { least: 7, most: 35 }],
    ['of a whole week after a week', (at) => (at < 7 ? 9 : at % 7), 40, 50, { least: 1, most: 9 }],
    ['of all days, where there were none on such a weekday', (at) => at + 1, 4, 5, { least: 1, most: 5 }],
  ])('says how many come on such a day: %s', (_, many, until, last, usual) => {
    const received = new Map(range(0, until).map((at) => [day(at), many(at)]))
    expect(silenceOf(received, day(last))?.usual).toEqual(usual)
  })

  it('is never silent on a day with documents, and stays silent until the next', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 50 }), { minLength: 5 }),
        fc.integer({ min: 0, max: 6 }),
        (days, more) => {
          const received = on(days)
          const last = Math.max(...days)
          expect(silenceOf(received, day(last))).toBeNull()
          if (silenceOf(received, day(last + more)))
            expect(silenceOf(received, day(last + more + 1))?.since ?? day(last)).toBe(day(last))
        },
      ),
    )
  })
})
