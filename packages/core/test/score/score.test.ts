import { describe, expect, it } from 'vitest'
import { score, totals, type Score } from './score.ts'

/** Single faults that are planted a seed, and doubles: a part of what `npm run test:long` and `npm run bench` score. */
const SINGLES = Number(process.env['AXION_SCORE'] ?? '170')
const DOUBLES = Math.ceil(SINGLES / 9)

/** One fixed seed, and one that is fresh in every run and printed. */
const FIXED = 20_260_901
const fresh = Math.floor(Math.random() * 1_000_000_000)

describe.each([
  ['fixed', FIXED],
  ['fresh', fresh],
])('planted faults, %s seed %d', (_, seed) => {
  let result: Score
  it('calls no right document different, and proves no different one', { timeout: 3_600_000 }, () => {
    result = score({ seed, singles: SINGLES, doubles: DOUBLES })
    expect(result).toMatchObject({ calledDifferent: 0, wronglyProved: 0 })
  })
  it('has at least 99 % of single faults’ causes among the equals, and first where the month’s data can tell', () => {
    const { planted, among, tellable, tellableFirst } = totals(result)
    expect(among / planted, result.missed.join('\n')).toBeGreaterThanOrEqual(0.99)
    expect(tellableFirst).toBe(tellable)
  })
  it('finds and sizes every double', () =>
    expect(result.doubles).toMatchObject({ planted: DOUBLES, found: DOUBLES, sized: DOUBLES }))
})
