import { describe, expect, it, test } from 'vitest'
import { NOTHING_AGREED } from '../drafting/draft.ts'
import type { Baseline, Jurisdiction } from './baseline.ts'
import { answerOn, collectingStanding, type CollectingStanding, type Shown } from './collecting.ts'
import type { CollectingAnswer } from './registering.ts'

const SEEN: Shown = { own: 0, marketplace: 0, charged: 0n, registered: false }

describe('who collects', () => {
  test.each<[CollectingAnswer | null, Partial<Shown>, CollectingStanding]>([
    [null, {}, 'quiet'],
    [null, { registered: true }, 'agrees'],
    [null, { own: 1 }, 'unsaid'],
    [null, { marketplace: 1 }, 'unsaid'],
    [null, { own: 1, charged: 5n, registered: true }, 'agrees'],
    [null, { own: 1, charged: 5n }, 'unsaid'],
    ['we', { own: 3, charged: 5n, registered: true }, 'agrees'],
    ['we', { registered: true }, 'agrees'],
    ['we', { own: 3, charged: 5n }, 'not-registered'],
    ['we', {}, 'not-registered'],
    ['another', { marketplace: 3 }, 'agrees'],
    ['another', { marketplace: 3, registered: true }, 'agrees'],
    ['another', { marketplace: 3, own: 1 }, 'own-sales'],
    ['another', { own: 1, charged: 5n }, 'charged'],
    ['nobody', {}, 'agrees'],
    ['nobody', { own: 3 }, 'agrees'],
    ['nobody', { registered: true }, 'registered'],
    // Credited tax was charged as well.
    ['nobody', { own: 3, charged: -5n, registered: true }, 'charged'],
  ])('where %s is said, and %o seen: %s', (answer, seen, standing) => {
    expect(collectingStanding(answer, { ...SEEN, ...seen })).toBe(standing)
  })

  it('is said of a region, else of the country that it lies in, on a day', () => {
    const place = (id: string, parentId: string | null): Jurisdiction => ({
      ...{ id, code: id, name: id, level: parentId === null ? 'country' : 'region' },
      ...{ parentId, agencyId: null, covers: [] },
    })
    const said = (jurisdictionId: string, answer: CollectingAnswer, from: string, to: string | null) => ({
      ...{ id: `${jurisdictionId}${from}`, jurisdictionId, answer, why: null, valid: { from, to } },
    })
    const baseline: Baseline = {
      ...NOTHING_AGREED,
      jurisdictions: [place('XA', null), place('WN', 'XA'), place('TK', 'XA')],
      collecting: [
        said('XA', 'nobody', '2026-01-01', null),
        said('WN', 'another', '2026-03-01', '2026-06-30'),
        said('WN', 'we', '2026-07-01', null),
      ],
    }
    const on = (id: string, day: string): unknown => answerOn(baseline, id, day)
    expect(on('TK', '2026-02-01')).toEqual({ answer: 'nobody', of: 'XA' })
    expect(on('TK', '2025-12-31')).toBeNull()
    expect(on('WN', '2026-02-28')).toEqual({ answer: 'nobody', of: 'XA' })
    expect(on('WN', '2026-06-30')).toEqual({ answer: 'another', of: 'WN' })
    expect(on('WN', '2026-07-01')).toEqual({ answer: 'we', of: 'WN' })
  })
})
