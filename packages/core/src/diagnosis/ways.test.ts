import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import {
  determine,
  expectedVoice,
  indexBaseline,
  learnWays,
  parsePercent,
  rateWayKey,
  type Assumed,
  type Assumption,
  type Observed,
  type RoundingPlace,
} from '../index.ts'

const index = indexBaseline(baseline)

/** What a system with ways of its own makes of invoices on these days. */
function observed(days: readonly number[], ways: (day: number) => Assumed): Observed[] {
  return days.map((day) => {
    const date = `2026-09-${String(day).padStart(2, '0')}`
    const document = invoice(
      [
        [BigInt(1015 + day * 37), 'GOODS'],
        [BigInt(995 + day * 11), 'GOODS'],
        [BigInt(333 + day), 'GOODS'],
      ],
      { number: `S-${day}`, documentDate: date, supplyDate: date },
    )
    const determination = determine(document, index)
    return {
      document,
      determination,
      expected: expectedVoice(document, determination, index),
      index,
      voice: expectedVoice(document, determine(document, index, ways(day)), index),
    }
  })
}
const DAYS = Array.from({ length: 20 }, (_, at) => at + 1)
const wrong: Assumption = {
  kind: 'component-percent',
  systemId: 's',
  systemRateId: 'r',
  combinedRateId: 'hollow-rail',
  jurisdictionId: 'hollow',
  percent: parsePercent('1.25'),
}

describe('a system’s ways, learnt from its documents', () => {
  test.each<[string, RoundingPlace]>([
    ['document and component', { level: 'document', unit: 'component', tie: 'half-away' }],
    ['line and component', { level: 'line', unit: 'component', tie: 'half-away' }],
    ['line and combined', { level: 'line', unit: 'combined', tie: 'half-away' }],
    ['document, cut off', { level: 'document', unit: 'component', tie: 'truncate' }],
  ])('where it rounds: %s, and no other level or unit', (_, rounding) => {
    const places = learnWays(
      observed(DAYS, () => ({ rounding })),
      [],
    ).fitting.map((way) => way.place)
    expect(places).toContainEqual(rounding)
    // Without a tie among the documents, nothing tells ties away from nil from ties to even.
    const byDocument = (p: RoundingPlace): boolean => p.level === 'document'
    // Of single articles, neither does anything tell the unit from the line.
    expect(
      places.filter(
        (p) =>
          byDocument(p) !== byDocument(rounding) ||
          p.unit !== rounding.unit ||
          (p.tie === 'truncate') !== (rounding.tie === 'truncate'),
      ),
    ).toEqual([])
  })

  it('with how it takes a rate, as its snapshot holds it or as on another date, where nothing tells them apart', () => {
    const { fitting } = learnWays(
      observed(DAYS, () => ({ percentOf: (id) => (id === 'hollow' ? parsePercent('1.25') : undefined) })),
      [wrong],
    )
    const told = fitting.map(({ rates }) => [...rates].map(([rate, ways]) => [rate, ways.map(rateWayKey)]))
    expect(told.length).toBeGreaterThan(0)
    expect(new Set(told.map((t) => JSON.stringify(t)))).toEqual(
      new Set([JSON.stringify([['hollow-rail', [rateWayKey(wrong as never), 'rate-date|2020-01-01']]])]),
    )
  })

  it('shows places as equals that its documents cannot tell apart', () => {
    const one = observed([3], () => ({}))
    expect(learnWays(one, []).fitting.length).toBeGreaterThan(1)
  })

  it('a silent change shows by its day', () => {
    const { fitting, nearest } = learnWays(
      observed(DAYS, (day) => (day < 13 ? {} : { without: 'rail' })),
      [],
    )
    expect([fitting, nearest?.changedOn, nearest?.unpredicted.length]).toEqual([[], '2026-09-13', 8])
  })

  it('where none fits, the nearest is what predicts most, however they were read', () => {
    const odd = observed(DAYS, (day) => (day % 5 === 0 ? { without: 'rail' } : {}))
    for (const of of [odd, [...odd].reverse()]) {
      const { nearest } = learnWays(of, [])
      expect(nearest?.unpredicted.toSorted()).toEqual(['S-10', 'S-15', 'S-20', 'S-5'])
      // It is predicted again after each: nothing changed for good.
      expect(nearest?.changedOn).toBeNull()
    }
    const silent = observed(DAYS, (day) => (day < 13 ? {} : { without: 'rail' }))
    expect(learnWays([...silent].reverse(), []).nearest?.changedOn).toBe('2026-09-13')
  })

  it('documents that are incomplete, or were rounded nowhere, say nothing', () => {
    const others = observed(DAYS.slice(1), () => ({}))
    const said = learnWays(others, []).fitting
    for (const changes of [{ complete: false }, { rounding: null }])
      for (const spoilt of observed([1], () => ({ without: 'rail' }))) {
        const of = { ...spoilt, determination: { ...spoilt.determination, ...changes } }
        expect(learnWays([of, ...others], []).fitting).toEqual(said)
        expect(learnWays([of], [])).toEqual({ fitting: [], nearest: null })
      }
  })

  it('of departures only percents are ways of taking a rate, and the baseline’s own is named as such', () => {
    const { fitting } = learnWays(
      observed(DAYS, () => ({})),
      [{ kind: 'flat-rate', systemId: 's', systemRateId: 'r', percent: parsePercent('7.45') }],
    )
    const ways = new Set(fitting.flatMap(({ rates }) => [...rates.values()].flat().map(rateWayKey)))
    expect([...ways]).toContain('as the baseline')
    expect([...ways].filter((way) => way.startsWith('flat-rate'))).toEqual([])
    expect(fitting.flatMap(({ rates }) => [...rates.keys()])).toContain('hollow-rail')
  })

  it('knows nothing of nothing', () => expect(learnWays([], [])).toEqual({ fitting: [], nearest: null }))
})
