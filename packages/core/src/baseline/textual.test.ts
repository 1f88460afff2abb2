import { describe, expect, it, test } from 'vitest'
import { baseline } from '../../test/baseline.ts'
import type { Baseline } from './baseline.ts'
import { textualKeys, textualOf } from './textual.ts'

const saysOf = (of: Baseline): ReadonlyMap<string, string> =>
  new Map(textualOf(of).map(({ kind, object, says }) => [`${kind} ${object}`, says]))
const differing = (of: Baseline): string[] => {
  const before = saysOf(baseline)
  return [...saysOf(of)].filter(([key, says]) => before.get(key) !== says).map(([key]) => key)
}
const [rate] = baseline.rateVersions
const [rule] = baseline.codeRules
if (!rate || !rule) throw new Error('the baseline of the tests has no rate or no rule')

describe('what an agency’s own text says', () => {
  it('is each place’s percents, rounding and rules, and what each code means there', () => {
    expect([...saysOf(baseline).keys()].sort()).toEqual(
      textualKeys(baseline)
        .map(([kind, object]) => `${kind} ${object}`)
        .sort(),
    )
  })

  it('bears the tax of the agency that collects it, and a rule that of all within its place', () => {
    const inside = new Set<string | null>([rule.jurisdictionId])
    for (let before = 0; before !== inside.size;) {
      before = inside.size
      for (const { id, parentId } of baseline.jurisdictions) if (inside.has(parentId)) inside.add(id)
    }
    const agencies = baseline.jurisdictions.flatMap(({ id, agencyId }) =>
      inside.has(id) && agencyId !== null ? [agencyId] : [],
    )
    const all = textualOf(baseline)
    const own = baseline.jurisdictions.find(({ id }) => id === rate.jurisdictionId)?.agencyId
    expect(
      all.find(({ kind, object }) => kind === 'rate' && object === rate.jurisdictionId)?.agencies,
    ).toEqual([own])
    expect(
      all.find(({ kind, place }) => kind === 'rule' && place.id === rule.jurisdictionId)?.agencies,
    ).toEqual([...new Set(agencies)].sort())
  })

  test.each<[string, Baseline, string[]]>([
    [
      'the same in another order, under other ids',
      {
        ...baseline,
        rateVersions: [...baseline.rateVersions].reverse().map((one) => ({ ...one, id: `${one.id}x` })),
        codeRules: [...baseline.codeRules].reverse().map((one) => ({ ...one, id: `${one.id}x` })),
      },
      [],
    ],
    [
      'another percent',
      {
        ...baseline,
        rateVersions: baseline.rateVersions.map((one) =>
          one === rate ? { ...one, percent: (one.percent + 1n) as typeof one.percent } : one,
        ),
      },
      [`rate ${rate.jurisdictionId}`],
    ],
    [
      'another day',
      {
        ...baseline,
        codeRules: baseline.codeRules.map((one) =>
          one === rule ? { ...one, valid: { ...one.valid, to: '2031-01-01' } } : one,
        ),
      },
      [`rule ${rule.jurisdictionId} ${rule.itemTaxCode}`],
    ],
    ['a version less', { ...baseline, roundings: [] }, []],
  ])('is other text where a value is another: %s', (_, of, keys) => {
    expect(differing(of)).toEqual(keys)
  })

  it('ends where places stand in a circle', () => {
    const [first, second] = baseline.jurisdictions
    if (!first || !second) throw new Error('there are no two places')
    const circle = baseline.jurisdictions.map((place) =>
      place === first
        ? { ...place, parentId: second.id }
        : place === second
          ? { ...place, parentId: first.id }
          : place,
    )
    expect(textualOf({ ...baseline, jurisdictions: circle }).length).toBe(textualOf(baseline).length)
  })
})
