import type { NewRateGround } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import { emptyDraft, percentInAll, requestOf, type Draft } from './draft.ts'
import NewRateForm from './NewRateForm.vue'

afterEach(() => vi.unstubAllGlobals())

const place = (code: string, percent: string | null, more: object = {}): NewRateGround['places'][number] => ({
  code,
  name: code,
  level: 'region',
  parent: null,
  percent,
  country: 'XA',
  region: 'XA-WN',
  rounds: true,
  ...more,
})
const ground: NewRateGround = {
  places: [
    place('WN', '5.50'),
    place('CITY', '2.00', { parent: 'WN' }),
    place('FAR', null, { rounds: false }),
  ],
  agencies: [{ code: 'WRO', name: 'Wendover Revenue', account: '2210', registered: 'W-1' }],
  accounts: [{ number: '2216', name: 'Tax of Sallow' }],
}
const draft = (changes: Partial<Draft>): Draft => ({ ...emptyDraft('2026-09'), ...changes })

describe('a new rate', () => {
  test.each<[string, Partial<Draft>, string]>([
    ['nothing yet', {}, ''],
    ['places that are there alone', { withPlace: false, jurisdictions: ['WN', 'CITY'] }, '7.50'],
    ['no place at all', { withPlace: false }, ''],
    ['its own alone', { percent: '0.85' }, '0.85'],
    ['its own beside others', { jurisdictions: ['WN', 'CITY'], percent: ' 0.85 ' }, '8.35'],
    ['tax on tax', { jurisdictions: ['WN', 'CITY'], percent: '10', onTopOf: ['WN'] }, '18.05'],
    [
      'on top of what it is not charged with',
      { jurisdictions: ['CITY'], percent: '10', onTopOf: ['WN'] },
      '12.00',
    ],
    ['what is no percent', { jurisdictions: ['WN'], percent: '7,5' }, ''],
    ['half typed', { jurisdictions: ['WN'], percent: '' }, ''],
  ])('comes to, of %s', (_, changes, percent) => {
    expect(percentInAll(draft(changes), ground)).toBe(percent)
  })

  test.each<[string, Partial<Draft>, boolean, boolean, object]>([
    [
      'no place',
      { withPlace: false, jurisdictions: ['WN'], to: '2026-12-31' },
      false,
      false,
      { place: null, to: '2026-12-31' },
    ],
    [
      'postal codes one by one',
      { country: 'XA', region: 'XA-WN', postalCodes: '40999, 41000;41001  ', percent: ' 1 ' },
      true,
      false,
      {
        place: {
          percent: '1',
          rounding: null,
          covers: ['40999', '41000', '41001'].map((postalCode) => ({
            country: 'XA',
            region: 'XA-WN',
            postalCode,
          })),
        },
      },
    ],
    [
      'a whole region',
      { country: 'XA', region: 'XA-WN' },
      true,
      false,
      { place: { covers: [{ country: 'XA', region: 'XA-WN' }] } },
    ],
    ['a whole country', { country: 'XA' }, true, false, { place: { covers: [{ country: 'XA' }] } }],
    [
      'how it rounds, only where nobody says yet',
      { roundingLevel: 'line', tie: 'half-even' },
      true,
      true,
      { place: { rounding: { level: 'line', unit: 'component', tie: 'half-even' } } },
    ],
    [
      'a known agency',
      { agency: 'WRO', agencyCode: 'typed before' },
      true,
      false,
      { place: { agency: { is: 'known', code: 'WRO' } } },
    ],
    [
      'a new agency, not registered yet',
      { agencyCode: ' SLD ', agencyName: 'Sallow', account: '2216', registration: ' ' },
      false,
      false,
      { place: { agency: { is: 'new', code: 'SLD', name: 'Sallow', account: '2216', registration: null } } },
    ],
  ])('is sent with %s', (_, changes, isKnown, needsRounding, wanted) => {
    expect(requestOf(draft(changes), { isKnown, needsRounding })).toMatchObject(wanted)
  })

  it('is filled in from what it is charged with, says what it comes to, and keeps what was typed when it is refused', async () => {
    const asked = answers({ '/new-rate': ground, '/path': PATH })
    const { page } = await mountIn(NewRateForm)
    await page.get('[data-new-rate]').trigger('click')
    await flushPromises()
    const form = page.get('[data-rate-form]')
    expect(form.findAll('.places label').map((one) => one.text())).toEqual(['WN 5.50 %', 'CITY 2.00 %'])
    await form.get('.places input').setValue(true)
    expect((form.get('input[placeholder="XA-WN"]').element as HTMLInputElement).value).toBe('XA-WN')
    // Nothing above the place tells how it rounds before it lies in one that does.
    expect(form.text()).not.toContain('Rounded by')
    await form.get('input[inputmode=decimal]').setValue('0.85')
    expect(form.text()).toContain('6.35 % in all.')
    vi.unstubAllGlobals()
    answers({
      '/new-rate': {
        status: 409,
        title: 'WN, of the same places, exists already.',
        detail: 'Use another name.',
      },
    })
    await form.trigger('submit')
    await flushPromises()
    expect(form.get('[role=alert]').text()).toMatch(/^WN, of the same places/)
    expect((form.get('input[inputmode=decimal]').element as HTMLInputElement).value).toBe('0.85')
    expect(asked.filter(({ path }) => path.endsWith('/new-rate'))).toHaveLength(1)
  })
})
