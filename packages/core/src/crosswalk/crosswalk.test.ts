import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import type { Address } from '../baseline/baseline.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import { foldName, nearName } from './folding.ts'
import { NearIndex } from './nearIndex.ts'
import { evidenceFor, propose, type Comparable } from './propose.ts'
import {
  stakeOfAgency,
  stakeOfCodes,
  stakeOfExemption,
  stakeOfLostSplit,
  stakeOfPercents,
  stakeOfPlace,
} from './stake.ts'

const object = (id: string, changes: Partial<Comparable> = {}): Comparable => ({
  id,
  code: null,
  name: id,
  components: null,
  jurisdictions: null,
  ...changes,
})

describe('names', () => {
  test.each([
    ['Hollis County Treasurer', 'Hollis County Tresurer', true],
    ['Port', 'Part', false],
    ['Harbour', 'Harbor', true],
    ['Harbour', 'harbour ', false],
    ['Wendover', 'Tamarack', false],
    // At most a fifth of the longer name: two edits of ten letters, one of five.
    ['abcdefghij', 'abcdefghXY', true],
    ['abcdefghi', 'abcdefgXY', false],
    ['abcdefgh', 'abcdefghXY', true],
    ['abcde', 'abcdX', true],
    ['abcd', 'abcX', false],
    ['abcdefghijklmnopqrst', 'abcdefghijklmnopqXYZ', false],
  ])('%s and %s: near %s', (a, b, near) => expect(nearName(a, b)).toBe(near))

  it('folds width, dashes, case and white space', () => {
    expect(foldName('  Ｐort \u2013  Lennox ')).toBe('port - lennox')
  })

  it('finds by pieces just the names that a comparison with each would find', () => {
    const letters = fc
      .array(fc.constantFrom('a', 'b', 'c', ' ', 'é', '😀'), { maxLength: 14 })
      .map((all) => all.join(''))
    const edited = letters.chain((name) =>
      fc
        .array(fc.tuple(fc.nat({ max: 14 }), fc.constantFrom('', 'a', 'xb')), { maxLength: 2 })
        .map(
          (edits) =>
            [name, edits.reduce((text, [at, by]) => [...text].toSpliced(at, 1, by).join(''), name)] as const,
        ),
    )
    fc.assert(
      fc.property(fc.array(edited, { minLength: 1, maxLength: 8 }), (pairs) => {
        const names = pairs.map(([, other]) => other)
        const index = new NearIndex(names.map((name, at) => [name, at] as const))
        for (const [name] of pairs)
          expect(index.near(name).sort()).toEqual(
            names.flatMap((other, at) => (nearName(name, other) ? [at] : [])),
          )
      }),
      { numRuns: 300 },
    )
  })
})

describe('proposals (K15)', () => {
  const theirs = object('7', {
    code: 'WN-1',
    name: 'Fenwick',
    components: 'state:5.5',
    jurisdictions: 'state',
  })

  it('lists all evidence in its order', () => {
    const ours = object('r', {
      code: 'wn-1',
      name: 'FENWICK',
      components: 'state:5.5',
      jurisdictions: 'state',
    })
    expect(evidenceFor(ours, theirs)).toEqual([
      'same-code',
      'same-name',
      'same-percent-and-components',
      'same-jurisdictions',
    ])
    expect(evidenceFor(object('r', { name: 'Fenwick' }), object('7', { name: 'Fenwik' }))).toEqual([
      'near-name',
    ])
  })

  test.each([
    [
      'stronger evidence wins over more of the weaker',
      [object('a', { code: 'WN-1' }), object('b', { name: 'Fenwick', jurisdictions: 'state' })],
      'proposal',
    ],
    [
      'two with equal evidence are a question',
      [object('a', { name: 'Fenwick' }), object('b', { name: 'fenwick ' })],
      'question',
    ],
    ['no evidence is no proposal', [object('a'), object('b', { code: '' })], 'none'],
  ])('%s', (_, candidates, kind) => expect(propose(theirs, candidates).kind).toBe(kind))

  test.each<[string, Partial<Comparable>, Partial<Comparable>]>([
    ['a code, folded', { code: ' wn–1' }, { code: 'WN-1' }],
    ['a name, folded', { name: 'fenwick ' }, { name: 'FENWICK' }],
    ['components alone', { components: 'state:5.5' }, { components: 'state:5.5' }],
    ['jurisdictions alone', { jurisdictions: 'state' }, { jurisdictions: 'state' }],
    ['a name that nearly matches', { name: 'Tamarack Port' }, { name: 'Tamarak Port' }],
  ])('finds by %s', (_, ours, found) => {
    const wanted = object('ours', { name: 'one', ...ours })
    expect(propose(object('7', { name: 'other', ...found }), [object('else'), wanted])).toMatchObject({
      kind: 'proposal',
      candidate: { id: 'ours', evidence: [expect.any(String)] },
    })
  })

  test.each<[string, Partial<Comparable>]>([
    ['no code', { code: null }],
    ['an empty code', { code: '' }],
    ['no components', { components: null }],
    ['empty jurisdictions', { jurisdictions: '' }],
  ])('nothing is the same by %s on both sides', (_, lacking) => {
    expect(evidenceFor(object('a', lacking), object('b', lacking))).toEqual([])
    expect(propose(object('7', lacking), [object('a', lacking)]).kind).toBe('none')
  })

  it('no code is none, on whichever side', () => {
    const coded = object('a', { code: 'X', components: 'x' })
    expect([...evidenceFor(coded, object('b')), ...evidenceFor(object('b'), coded)]).toEqual([])
  })

  test.each([
    [
      ['c', 'a', 'b'],
      ['a', 'b', 'c'],
    ],
    [
      ['b', 'c', 'a'],
      ['a', 'b', 'c'],
    ],
  ])('equals of a question stand in their order, whatever the baseline’s is', (ids, inOrder) => {
    const found = propose(theirs, [
      ...ids.map((id) => object(id, { name: 'Fenwick', jurisdictions: 'state' })),
      object('0', { name: 'Fenwick' }),
    ])
    expect(found.kind === 'question' && found.candidates.map(({ id }) => id)).toEqual(inOrder)
  })

  it('the strongest is proposed, wherever it stands', () => {
    const strong = object('m', { code: 'wn-1' })
    const weak = [
      object('a', { name: 'Fenwick', components: 'state:5.5' }),
      object('z', { jurisdictions: 'state' }),
    ]
    for (const baseline of [
      [strong, ...weak],
      [...weak, strong],
    ])
      expect(propose(theirs, baseline)).toEqual({
        kind: 'proposal',
        candidate: { id: 'm', evidence: ['same-code'] },
      })
  })
})

describe('at stake', () => {
  const index = indexBaseline(baseline)
  const document = invoice([[396000n, 'GOODS']])
  const determination = determine(document, index)
  it('is tax by the system’s value less tax by the baseline’s', () => {
    expect(
      stakeOfPercents(
        document,
        determination,
        { percents: new Map([['hollow', 1_250_000n]]), itemTaxCode: null },
        index,
      ),
    ).toBe(792n)
    expect(stakeOfPercents(document, determination, { percents: new Map(), itemTaxCode: null }, index)).toBe(
      0n,
    )
    // Too little of one and too much of another are summed apart, and the larger counts: 7.92 short, 3.96 over.
    const both = new Map([
      ['hollow', 1_250_000n],
      ['rail', 600_000n],
    ])
    expect(stakeOfPercents(document, determination, { percents: both, itemTaxCode: null }, index)).toBe(792n)
    const more = new Map([
      ['hollow', 1_250_000n],
      ['rail', 1_000_000n],
    ])
    expect(stakeOfPercents(document, determination, { percents: more, itemTaxCode: null }, index)).toBe(1980n)
    // A rate for one item tax code is charged on it alone.
    expect(stakeOfPercents(document, determination, { percents: more, itemTaxCode: 'FOOD' }, index)).toBe(0n)
    expect(stakeOfLostSplit(determination)).toBe(29502n)
    expect(stakeOfAgency(determination, 'county')).toBe(5742n)
  })

  it('is tax of both lines of a jurisdiction together, and of another outlet’s place', () => {
    const two = invoice([
      [396000n, 'GOODS'],
      [-196000n, 'GOODS'],
    ])
    const percents = new Map([['rail', 1_000_000n]])
    expect(stakeOfPercents(two, determine(two, index), { percents, itemTaxCode: null }, index)).toBe(1000n)
    const port = baseline.homeAddress as Address
    // The city’s 79.20 too much; of the county 57.42 and of the transit district 19.80 too little.
    expect(stakeOfPlace(document, determination, port, index)).toBe(7920n)
    expect(stakeOfPlace(document, determination, { ...port, country: 'XB' }, index)).toBe(0n)
  })

  const shop = invoice(
    [
      [396000n, 'GOODS'],
      [10000n, 'FOOD'],
    ],
    { partyId: 'shop' },
  )
  const exempted = determine(shop, index)
  // Each stake is worked out in its own test.
  test.each<[string, () => bigint, bigint]>([
    [
      'a line under a code that is exempt',
      () => stakeOfCodes(document, determination, new Map([['1', 'FOOD']]), index),
      29502n,
    ],
    [
      'a line under its own code',
      () => stakeOfCodes(document, determination, new Map([['1', 'GOODS']]), index),
      0n,
    ],
    [
      'a line that the document has not',
      () => stakeOfCodes(document, determination, new Map([['9', 'FOOD']]), index),
      0n,
    ],
    [
      'a code without any rule: nobody can say',
      () => stakeOfCodes(document, determination, new Map([['1', 'NONE']]), index),
      0n,
    ],
    [
      'an exemption that only a system has',
      () => stakeOfExemption(document, determination, 'everyone', index),
      29502n,
    ],
    ['a certificate that a system ignores', () => stakeOfExemption(shop, exempted, 'ignored', index), 29502n],
    [
      'a certificate that a system honours too',
      () => stakeOfExemption(shop, exempted, 'everyone', index),
      0n,
    ],
  ])('%s', (_, stake, expected) => expect(stake()).toBe(expected))
})
