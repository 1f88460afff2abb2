import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { nearName } from './folding.ts'
import { NearIndex } from './nearIndex.ts'

const indexOf = (names: readonly string[]): NearIndex<string> =>
  new NearIndex(names.map((name) => [name, name] as const))

describe('names that nearly match', () => {
  // Few letters, so that pieces meet by chance as well.
  const name = fc.string({ unit: fc.constantFrom('a', 'b', 'c', 'é', ' '), maxLength: 14 })
  const edited = fc
    .tuple(name, fc.array(fc.tuple(fc.nat(14), fc.constantFrom('', 'a', 'x', 'xy')), { maxLength: 3 }))
    .map(([of, edits]): readonly [string, string] => [
      of,
      edits.reduce((text, [at, put]) => text.slice(0, at) + put + text.slice(at + 1), of),
    ])

  it('are those that a comparison of each with each finds', () => {
    fc.assert(
      fc.property(fc.array(edited, { minLength: 1, maxLength: 12 }), (pairs) => {
        const names = [...new Set(pairs.map(([of]) => of))]
        const index = indexOf(names)
        for (const [, wanted] of pairs)
          expect([...index.near(wanted)].sort()).toEqual(
            names.filter((other) => nearName(wanted, other)).sort(),
          )
      }),
      { numRuns: 300 },
    )
  })

  test.each<[string, string[], string, string[]]>([
    [
      'two that share a piece',
      ['Hollis County', 'Hollis Countx'],
      'Hollis Countz',
      ['Hollis Countx', 'Hollis County'],
    ],
    ['a letter lost at the beginning', ['Brandt Transit'], 'randt Transit', ['Brandt Transit']],
    ['two letters put in at the beginning', ['Brandt Transit'], 'xxBrandt Transit', ['Brandt Transit']],
    ['a letter lost at the end', ['Brandt Transit'], 'Brandt Transi', ['Brandt Transit']],
    ['two too many', ['Brandt Transit'], 'xxBrandt Trans', []],
    ['the same after folding is not near, but the same', ['Brandt Transit'], 'brandt  transit', []],
    ['shorter than three letters', ['ab'], 'a', []],
  ])('%s', (_, names, wanted, found) => expect([...indexOf(names).near(wanted)].sort()).toEqual(found))
})
