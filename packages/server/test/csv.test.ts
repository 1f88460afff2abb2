import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { csvOf, csvTable } from '../src/tables/csv.ts'

const out = (cell: string): string => csvOf(['A', 'B'], [[cell, 'x']])
/** The row as it comes in again. */
const back = (cells: readonly string[]): readonly string[] | undefined =>
  csvTable(Buffer.from(csvOf(['A', 'B'], [cells])), 'x.csv').rows[0]?.cells

describe('CSV', () => {
  test.each([
    '=1+1',
    '+A1',
    '-A1',
    '@x',
    '\tx',
    '\r=x',
    '\n=x',
    '  =x',
    '\u00a0=x',
    '＝1',
    '＋1',
    '－1',
    '＠x',
    "'=x",
  ])('guards %j', (cell) => {
    expect(out(cell).split('\r\n').slice(1).join('\r\n')).toMatch(/^"?'/)
    expect(back([cell, 'x'])).toEqual([cell, 'x'])
  })

  test.each(['-12.50', '+3', '1,284.16', 'a = b', "'quoted'"])('leaves %j as it is', (cell) =>
    expect(out(cell)).not.toContain(`'${cell}`),
  )

  it('comes in as it went out, whatever it holds', () => {
    const cell = fc.oneof(
      fc.string({ unit: 'binary' }).filter((text) => !text.includes('\0') && text.isWellFormed()),
      fc.string({ unit: fc.constantFrom(...' =+-@\t\r\n",;\'0９＝x') }),
    )
    fc.assert(
      fc.property(cell, cell, (a, b) => {
        // A row of blanks is none.
        expect(back([a, b, 'x'])).toEqual([a, b, 'x'])
      }),
      { numRuns: 500 },
    )
  })
})
