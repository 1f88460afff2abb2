import { indexBaseline, type Baseline } from '@axion/core'
import { describe, expect, it, test } from 'vitest'
import { baseline } from '../../core/test/baseline.ts'
import { Asking, type Question } from '../src/proof/asking.ts'
import { setUpOf } from '../src/proof/grounds.ts'
import { answerTo, askedDeparting, askedIndex, askedSystem, type Answering } from '../src/proof/questions.ts'
import { answeringOf } from '../src/proof/restsOn.ts'
import type { DepartingRows } from '../src/setUp/departing.ts'
import { holdingOf, type HoldingRows, type SystemRow } from '../src/setUp/held.ts'

/** What is asked of buyers and suppliers whom nothing is agreed about, and what of that changes once one of them is known. */
interface Known {
  readonly baseline?: Partial<Baseline>
  readonly links?: HoldingRows['links']
  readonly departing?: DepartingRows['parties']
}
const row = { system_id: 'billing', role: 'billing', name: 'Billing' } as SystemRow

function answering({ baseline: more = {}, links = [], departing = [] }: Known = {}): Answering {
  const setUp = setUpOf(
    { entityId: 'larkspur', currency: 'USD' },
    indexBaseline({ ...baseline, parties: [], certificates: [], ...more }),
    [{ row, ...holdingOf({ objects: [], links, codes: [] }) }],
  )
  return answeringOf(setUp, { items: [], parties: departing })
}

type Ask = (of: Answering, asking: Asking, id: string) => unknown
const ASKED: Readonly<Record<string, readonly [Ask, (id: string) => Known]>> = {
  party: [
    (of, asking, id) => askedIndex(of.index, asking).party(id),
    (id) => ({ baseline: { parties: [{ id, name: id, claims: 'farm', catchAll: false, address: null }] } }),
  ],
  'the certificates of one': [
    (of, asking, id) => askedIndex(of.index, asking).certificatesOf(id),
    (id) => ({
      baseline: {
        certificates: [
          {
            id: 'c',
            number: '1',
            partyId: id,
            reason: 'farm',
            regionIds: [],
            valid: { from: '2020-01-01', to: null },
          },
        ],
      },
    }),
  ],
  'whom a source’s stands for': [
    (of, asking, id) => of.systems.map((held) => askedSystem(held, asking).partyOf(id)),
    (id) => ({
      links: [{ kind: 'party', objectId: id, baselineId: 'somebody' }] as unknown as HoldingRows['links'],
    }),
  ],
  'whether a source exempts one otherwise': [
    (of, asking, id) => askedDeparting(of.departing, asking).party('billing', id),
    (id) => ({ departing: [[`billing ${id}`, { objectId: id, certificates: 'everyone' }]] }),
  ],
  'a posting rule for one': [
    (of, asking, id) =>
      askedIndex(of.index, asking).postingRule('revenue', null, { by: 'party', id }, '2026-09-10'),
    (id) => ({
      baseline: {
        postingRules: [
          ...baseline.postingRules,
          {
            id: 'own',
            kind: 'revenue',
            agencyId: null,
            only: { by: 'party', id },
            account: '4010',
            valid: { from: '2020-01-01', to: null },
          },
        ],
      },
    }),
  ],
}

function asked(ask: Ask, of: Answering, ids: readonly string[], asking = new Asking()): Question[] {
  const noted = new Set<Question>()
  asking.noting(noted, () => ids.forEach((id) => ask(of, asking, id)))
  return [...noted]
}
const answers = (questions: readonly Question[], of: Answering): string[] =>
  questions.map(({ text }) => JSON.stringify(answerTo(text, of)) ?? 'nothing')

describe('who is not known', () => {
  test.each(Object.entries(ASKED))('is asked of as one of a crowd: %s', (_, [ask, known]) => {
    const before = answering()
    const ids = Array.from({ length: 5000 }, (_, at) => `customer ${at}`)
    const questions = asked(ask, before, ids)
    expect(questions.length).toBeGreaterThan(500)
    expect(questions.length).toBeLessThanOrEqual(1024)

    // One becomes known: what was asked of it is answered otherwise, and what was asked of all other crowds is not.
    const after = answering(known('customer 7'))
    const [was, is] = [answers(questions, before), answers(questions, after)]
    const changed = questions.filter((_, at) => was[at] !== is[at])
    expect(changed).toEqual(
      asked(ask, before, ['customer 7']).map((one) => expect.objectContaining(one) as object),
    )
  })

  test.each(Object.entries(ASKED))(
    'and once known, by itself; forgotten, the answer is another: %s',
    (_, [ask, known]) => {
      const of = answering(known('customer 7'))
      const [own] = asked(ask, of, ['customer 7'])
      expect(own?.text).toContain('customer 7')
      const [crowd] = asked(ask, of, ['customer 8'])
      expect(crowd?.text).not.toContain('customer 8')
      expect(answers([own as Question], of)).not.toEqual(answers([own as Question], answering()))
    },
  )

  it('of two that are known, each changes its own crowd alone', () => {
    const [ask, known] = ASKED['party'] as (typeof ASKED)[string]
    const one = answering(known('a'))
    const other = answering(known('b'))
    const questions = asked(ask, answering(), ['a', 'b', 'c'])
    const [first, second] = [answers(questions, one), answers(questions, other)]
    expect([first[0] !== second[0], first[1] !== second[1], first[2] === second[2]]).toEqual([
      true,
      true,
      true,
    ])
  })

  const ruled = (from: string): Known => ({
    baseline: {
      postingRules: [
        ...baseline.postingRules,
        {
          id: 'own',
          kind: 'revenue',
          agencyId: null,
          only: { by: 'party', id: 'customer 7' },
          account: '4010',
          valid: { from, to: null },
        },
      ],
    },
  })
  const linked = (baselineId: string): Known => ({
    links: [{ kind: 'party', objectId: 'customer 7', baselineId }] as unknown as HoldingRows['links'],
  })
  test.each<[string, string, Known, Known]>([
    [
      'a rule that began later begins sooner',
      'a posting rule for one',
      ruled('2026-10-01'),
      ruled('2026-09-01'),
    ],
    [
      'what stood for itself stands for another',
      'whom a source’s stands for',
      linked('customer 7'),
      linked('somebody'),
    ],
  ])('who was answered as nobody is answered otherwise: %s', (_, asks, before, after) => {
    const [ask] = ASKED[asks] as (typeof ASKED)[string]
    const questions = asked(ask, answering(before), ['customer 7'])
    expect(questions).toHaveLength(1)
    expect(answers(questions, answering(after))).not.toEqual(answers(questions, answering(before)))
  })
})
