import { describe, expect, it } from 'vitest'
import type { Assumption, AssumptionKind } from './causes/index.ts'
import { ranked } from './diagnose.ts'

/** Only kinds are ranked by: what else an assumption holds is no matter here. */
const one = (...kinds: readonly AssumptionKind[]): { readonly assumptions: readonly Assumption[] } => ({
  assumptions: kinds.map((kind) => ({ kind }) as Assumption),
})
const order = (
  of: readonly ReturnType<typeof one>[],
  explains: (kind: AssumptionKind | undefined) => number = () => 1,
): string[] =>
  ranked(of, ({ assumptions }) => explains(assumptions[0]?.kind)).map(({ assumptions }) =>
    assumptions.map(({ kind }) => kind).join(' + '),
  )

describe('equals that explain a difference (K10)', () => {
  it('that explain as much stand by how plausible they are: what a system’s snapshot shows first', () => {
    expect(order([one('rounding'), one('rate-date'), one('component-percent'), one('sign')])).toEqual([
      'component-percent',
      'sign',
      'rate-date',
      'rounding',
    ])
  })

  it('stand by how many of the month’s other differences they explain before that', () => {
    expect(
      order([one('component-percent'), one('rounding')], (kind) => (kind === 'rounding' ? 3 : 1)),
    ).toEqual(['rounding', 'component-percent'])
  })

  it('of one assumption come before those of two, whose less plausible one counts', () => {
    expect(
      order([one('component-percent', 'rounding'), one('one-agency'), one('flat-rate', 'sign')]),
    ).toEqual(['one-agency', 'flat-rate + sign', 'component-percent + rounding'])
  })
})
