import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { fitsCutOff, learnCutOff, tradingDayOf, type DatedSale, type LearntCutOff } from './tradingDay.ts'

const CHICAGO = 'America/Chicago'

test.each<[string, string, string, string | null, string, string, boolean]>([
  ['a night past midnight', '2026-09-02T01:40:00-05:00', CHICAGO, '03:00', '2026-09-02', '2026-09-01', false],
  ['on the cut-off', '2026-09-02T03:00:00-05:00', CHICAGO, '03:00', '2026-09-02', '2026-09-02', false],
  ['a minute before it', '2026-09-02T02:59:59-05:00', CHICAGO, '03:00', '2026-09-02', '2026-09-01', false],
  ['no cut-off', '2026-09-02T01:40:00-05:00', CHICAGO, null, '2026-09-02', '2026-09-02', false],
  ['told in another offset', '2026-09-02T06:40:00Z', CHICAGO, '03:00', '2026-09-02', '2026-09-01', false],
  [
    'a night that crosses a month end',
    '2026-10-01T00:10:00-05:00',
    CHICAGO,
    '03:00',
    '2026-10-01',
    '2026-09-30',
    true,
  ],
  [
    'a night that crosses a year end',
    '2027-01-01T02:00:00-06:00',
    CHICAGO,
    '03:00',
    '2027-01-01',
    '2026-12-31',
    true,
  ],
  // Clocks jump from 02:00 to 03:00: a cut-off of 02:30 falls on the jump.
  ['before the jump', '2026-03-08T01:59:00-06:00', CHICAGO, '02:30', '2026-03-08', '2026-03-07', false],
  ['at the jump', '2026-03-08T03:00:00-05:00', CHICAGO, '02:30', '2026-03-08', '2026-03-08', false],
  // 01:00 to 02:00 comes twice: the reading decides, both times.
  ['01:40, the first time', '2026-11-01T01:40:00-05:00', CHICAGO, '01:30', '2026-11-01', '2026-11-01', false],
  ['01:10, the second time', '2026-11-01T01:10:00-06:00', CHICAGO, '01:30', '2026-11-01', '2026-10-31', true],
  [
    '01:40, the second time',
    '2026-11-01T01:40:00-06:00',
    CHICAGO,
    '01:30',
    '2026-11-01',
    '2026-11-01',
    false,
  ],
  ['a leap day', '2028-03-01T00:30:00+00:00', 'UTC', '04:00', '2028-03-01', '2028-02-29', true],
])('%s', (_, soldAt, zone, cutOff, calendarDay, tradingDay, acrossMonths) =>
  expect(tradingDayOf(soldAt, zone, cutOff)).toEqual({ calendarDay, tradingDay, acrossMonths }),
)

it('is the calendar day or the day before it, and the same wherever the instant was written down', () => {
  const minutes = fc.integer({ min: Date.UTC(2025, 0, 1) / 60_000, max: Date.UTC(2028, 0, 1) / 60_000 })
  const time = fc
    .tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }))
    .map((parts) => parts.map((n) => String(n).padStart(2, '0')).join(':'))
  fc.assert(
    fc.property(
      minutes,
      time,
      fc.constantFrom(CHICAGO, 'Asia/Kathmandu', 'Australia/Lord_Howe', 'UTC'),
      (minute, cutOff, zone) => {
        const instant = new Date(minute * 60_000)
        const day = tradingDayOf(instant.toISOString(), zone, cutOff)
        const shifted = `${new Date(instant.getTime() + 330 * 60_000).toISOString().slice(0, 19)}+05:30`
        expect(tradingDayOf(shifted, zone, cutOff)).toEqual(day)
        const gap = (Date.parse(day.calendarDay) - Date.parse(day.tradingDay)) / 86_400_000
        expect([0, 1]).toContain(gap)
        expect(day.acrossMonths).toBe(gap === 1 && day.calendarDay.endsWith('-01'))
      },
    ),
  )
})

describe('the end of a day, learnt from sales (K17)', () => {
  const sale = (time: string, date: string, number = time): DatedSale => ({
    number,
    soldAt: `2026-09-02T${time}:00-05:00`,
    timeZone: 'America/Chicago',
    date,
  })
  const own = '2026-09-02'
  const before = '2026-09-01'
  test.each<[string, DatedSale[], LearntCutOff]>([
    [
      'lies between the last sale of the day before and the first of its own',
      [sale('01:40', before), sale('02:59', before), sale('03:05', own), sale('18:00', own)],
      { after: '02:59', until: '03:05', odd: [] },
    ],
    [
      'is at the first sale at the latest, where all are dated to their own day',
      [sale('01:05', own), sale('09:00', own)],
      { after: null, until: '01:05', odd: [] },
    ],
    [
      'is after the last, where all are dated to the day before',
      [sale('01:05', before)],
      { after: '01:05', until: null, odd: [] },
    ],
    [
      'leaves the fewest out, where none fits all',
      [
        sale('01:40', before),
        sale('02:00', own, 'odd'),
        sale('02:20', before),
        sale('02:30', before),
        sale('09:00', own),
      ],
      { after: '02:30', until: '09:00', odd: ['odd'] },
    ],
    [
      'is the earlier of two that leave out as many',
      [sale('00:30', own), sale('01:00', before)],
      { after: null, until: '00:30', odd: ['01:00'] },
    ],
    [
      'is not to be told from a sale of another day, or from none',
      [sale('10:00', '2026-08-20')],
      { after: null, until: null, odd: ['10:00'] },
    ],
    ['is not to be told from none', [], { after: null, until: null, odd: [] }],
  ])('%s', (_, sales, learnt) => expect(learnCutOff(sales)).toEqual(learnt))

  test.each<[string | null, string | null, string | null, boolean]>([
    ['03:00', null, null, true],
    ['03:00', '03:00', null, false],
    ['03:01', '03:00', null, true],
    ['03:00', null, '03:00', true],
    ['03:01', null, '03:00', false],
    ['05:00', '02:00', '04:00', false],
    ['01:00', '02:00', '04:00', false],
    ['04:00', '02:00', '04:00', true],
    // Midnight is the beginning of the day: not after a sale at that minute, and before every later one.
    [null, '00:00', null, false],
    [null, null, '00:00', true],
  ])('%s is between %s and %s: %s', (cutOff, after, until, fits) =>
    expect(fitsCutOff(cutOff, { after, until })).toBe(fits),
  )

  it('finds the cut-off that sales were dated by, whatever it was', () => {
    const time = fc
      .integer({ min: 0, max: 24 * 60 - 1 })
      .map(
        (minute) =>
          `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`,
      )
    fc.assert(
      fc.property(fc.array(time, { minLength: 1, maxLength: 20 }), time, (times, cutOff) => {
        const learnt = learnCutOff(
          times.map((at) =>
            sale(at, tradingDayOf(`2026-09-02T${at}:00-05:00`, 'America/Chicago', cutOff).tradingDay),
          ),
        )
        expect([learnt.odd, fitsCutOff(cutOff, learnt)]).toEqual([[], true])
      }),
    )
  })
})
