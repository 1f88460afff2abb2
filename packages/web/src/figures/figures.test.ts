import type { Limits } from '@axion/contract'
import { mount } from '@vue/test-utils'
import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { defineComponent, h } from 'vue'
import { mountIn, NO_LIMITS } from '../../test/mounting.ts'
import { subtract } from './sums.ts'
import FallingNumber from './FallingNumber.vue'
import { count, isNil } from './format.ts'
import StateMark from './StateMark.vue'
import VoiceMark from './VoiceMark.vue'
import YesVerdict from './YesVerdict.vue'

describe('figures', () => {
  test.each([
    ['10.00', '0.05', '9.95'],
    ['0', '0.01', '-0.01'],
    ['-5.10', '-5.10', '0.00'],
    ['980', '1000', '-20'],
    ['9007199254740993.01', '0.02', '9007199254740992.99'],
  ])('%s less %s is %s', (a, b, result) => expect(subtract(a, b)).toBe(result))

  it('subtract undoes itself, exactly', () => {
    const amount = fc.bigInt({ min: -(10n ** 20n), max: 10n ** 20n }).map((n) =>
      subtract(
        `${n < 0n ? '-' : ''}${String(n < 0n ? -n : n)
          .padStart(3, '0')
          .replace(/(\d\d)$/, '.$1')}`,
        '0.00',
      ),
    )
    fc.assert(
      fc.property(amount, amount, (a, b) => {
        expect(subtract(a, subtract(a, b))).toBe(b)
      }),
    )
  })

  test.each([
    ['0.00', true],
    ['-0.00', true],
    ['0', true],
    ['0.01', false],
    ['-0.10', false],
  ])('%s is nil: %s', (text, nil) => expect(isNil(text)).toBe(nil))

  it('counts in words', () => {
    expect([count(1, 'agency', 'agencies'), count(2, 'agency', 'agencies'), count(1200, 'document')]).toEqual(
      ['1 agency', '2 agencies', '1,200 documents'],
    )
  })

  it('gives each voice a shape of its own, and each state a word', () => {
    const shapes = (['stated', 'expected', 'booked'] as const).map(
      (voice) => mount(VoiceMark, { props: { voice } }).find('svg > *').element.tagName,
    )
    expect(new Set(shapes.map((s) => s.toLowerCase()))).toEqual(new Set(['circle', 'path', 'rect']))
    for (const state of ['holds', 'breaks', 'open', 'asks'] as const)
      expect(mount(StateMark, { props: { state } }).text()).not.toBe('')
  })

  it('draws the falling number, the newest bar standing out', () => {
    const history = [
      { at: 'a', share: 1 },
      { at: 'b', share: 0.5 },
      { at: 'c', share: 0 },
    ]
    const bars = mount(FallingNumber, { props: { history } }).findAll('rect')
    expect(bars).toHaveLength(3)
    expect(Number(bars[0]?.attributes('height'))).toBeGreaterThan(Number(bars[1]?.attributes('height')))
    expect(bars[2]?.classes()).toContain('last')
  })
})

describe('a yes', () => {
  test.each<[string, Partial<Limits>, string]>([
    ['of everything', {}, 'Yes. All agree'],
    [
      'without a system that was not pulled',
      { notPulled: ['Tills'] },
      'Yes, of what was read. All agree; Tills has not been pulled',
    ],
    [
      'with what is from before, and what could not be read',
      { failed: ['Ledger', 'Billing'], unread: 1 },
      'Yes, of what was read. All agree; the last pull of Ledger and Billing failed; 1 object could not be read',
    ],
    [
      'is none over a change that is still to be proved',
      { older: '2026-10-02T10:00:00Z' },
      'Not known. These figures are from before a change of Oct 2, 5:00 AM, which is still to be proved',
    ],
    [
      'is none where nothing was pulled',
      { notPulled: ['Ledger'], all: true },
      'Not known yet. Pull the systems in Connect',
    ],
  ])('%s', async (_, limits, words) => {
    const { page } = await mountIn(
      defineComponent(
        () => () => h('p', [h(YesVerdict, { limits: { ...NO_LIMITS, ...limits } }, () => 'All agree')]),
      ),
    )
    expect(page.text().replace(/\s+/g, ' ').replace(/ ;/g, ';')).toBe(words)
  })
})
