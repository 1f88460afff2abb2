import { describe, expect, test } from 'vitest'
import fc from 'fast-check'
import { placeOf } from '../determination/place.ts'
import type { CombinedRate, Cover, Jurisdiction, Level } from './baseline.ts'
import { overlappingPlaces, sameRates } from './overlaps.ts'

const place = (id: string, level: Level, ...covers: Cover[]): Jurisdiction => ({
  ...{ id, name: id, level, parentId: null, agencyId: null },
  covers,
})
const wn = { country: 'XA', region: 'XA-WN' }
const zip = (postalCode: string, from?: string, to?: string): Cover => ({
  ...wn,
  postalCode,
  ...(from && to ? { plus4: { from, to } } : {}),
})

describe('places that are covered twice', () => {
  test.each<[string, Jurisdiction[], string[][]]>([
    [
      'nothing twice',
      [place('A', 'city', { ...wn, city: 'Quay' }), place('B', 'city', { ...wn, city: 'Fen' })],
      [],
    ],
    [
      'a city in any case',
      [place('A', 'city', { ...wn, city: 'Port  Quay' }), place('B', 'city', { ...wn, city: 'port quay' })],
      [['A', 'B']],
    ],
    ['of another level', [place('A', 'city', zip('40217')), place('B', 'county', zip('40217'))], []],
    [
      'districts, which stack',
      [place('A', 'district', zip('40217')), place('B', 'district', zip('40217'))],
      [],
    ],
    [
      'one narrower than the other',
      [place('A', 'city', zip('40217')), place('B', 'city', zip('40217', '0001', '0099'))],
      [],
    ],
    [
      'ranges that meet',
      [place('A', 'city', zip('40217', '0001', '0099')), place('B', 'city', zip('40217', '0099', '0200'))],
      [['A', 'B']],
    ],
    [
      'ranges that do not',
      [place('A', 'city', zip('40217', '0001', '0099')), place('B', 'city', zip('40217', '0100', '0200'))],
      [],
    ],
    [
      'a postal code with its region and without',
      [place('A', 'city', zip('40217')), place('B', 'city', { country: 'XA', postalCode: '40217' })],
      [['A', 'B']],
    ],
    [
      'of two regions',
      [place('A', 'city', zip('40217')), place('B', 'city', { ...zip('40217'), region: 'XA-BK' })],
      [],
    ],
    ['the same twice in one', [place('A', 'city', zip('40217'), zip('40217'))], []],
    [
      'regions',
      [place('A', 'region', wn), place('B', 'region', wn), place('C', 'country', { country: 'XA' })],
      [['A', 'B']],
    ],
  ])('%s', (_, jurisdictions, ids) => {
    expect(overlappingPlaces(jurisdictions).map((one) => one.ids)).toEqual(ids)
  })

  test('are said wherever an address would be in two of one level', () => {
    const cover = fc.record(
      {
        country: fc.constant('XA'),
        region: fc.constantFrom('XA-WN', 'XA-BK'),
        city: fc.constantFrom('Fen', 'Quay'),
        postalCode: fc.constantFrom('1', '2'),
      },
      { requiredKeys: ['country'] },
    )
    const some = fc.array(fc.tuple(fc.constantFrom<Level>('region', 'county', 'city'), cover), {
      minLength: 1,
      maxLength: 5,
    })
    fc.assert(
      fc.property(some, (drawn) => {
        const jurisdictions = drawn.map(([level, one], at) => place(`J${at}`, level, one))
        const overlaps = overlappingPlaces(jurisdictions)
        for (const region of ['XA-WN', 'XA-BK'])
          for (const city of ['Fen', 'Quay'])
            for (const postalCode of ['1', '2']) {
              const twice = placeOf({ country: 'XA', region, city, postalCode }, jurisdictions).findings.some(
                ({ code }) => code === 'AXION_TWO_JURISDICTIONS',
              )
              if (twice) expect(overlaps.length).toBeGreaterThan(0)
            }
      }),
    )
  })
})

test.each<[string, Partial<CombinedRate>, string[][]]>([
  ['in another order', { jurisdictionIds: ['B', 'A'] }, [['R', 'S']]],
  ['on other days', { valid: { from: '2027-01-01', to: null } }, []],
  ['for one code alone', { itemTaxCode: 'GROCERY' }, []],
  ['of more places', { jurisdictionIds: ['A', 'B', 'C'] }, []],
])('rates of the same places, %s', (_, changes, ids) => {
  const rate: CombinedRate = {
    ...{ id: 'R', code: 'R', name: 'R', jurisdictionIds: ['A', 'B'], itemTaxCode: null },
    valid: { from: '2026-01-01', to: '2026-12-31' },
  }
  expect(sameRates([rate, { ...rate, id: 'S', ...changes }]).map((one) => one.ids)).toEqual(ids)
})
