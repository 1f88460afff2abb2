import type { DecisionRow, DecisionsView, SeenView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import DecisionsPage from './DecisionsPage.vue'

afterEach(() => vi.unstubAllGlobals())

const row = (more: Partial<DecisionRow>): DecisionRow => ({
  key: 'agency:WRO',
  about: 'agency',
  name: 'Wendover Revenue Office',
  called: [],
  standing: 'agreed',
  doubts: [],
  options: [{ key: 'one', says: 'as WRO', systems: ['Ledger', 'Billing'] }],
  waitsFor: [],
  rests: { documents: 90, tax: '8392.30' },
  against: { documents: 0, tax: '0.00', named: [] },
  ...more,
})
const HOLLIS = row({
  key: 'place:HOLLIS',
  about: 'place',
  name: 'Hollis County',
  standing: 'open',
  doubts: ['the systems differ'],
  options: [
    { key: '1.45', says: '1.45 %; in Fenwick Falls', systems: ['Billing'] },
    { key: '1.25', says: '1.25 %; in Fenwick Falls', systems: ['Ledger'] },
  ],
  against: { documents: 2, tax: '12.40', named: [{ unit: 'billing/1', number: 'LA-1' }] },
})
const FENWICK = row({ key: 'rate:FEN', about: 'rate', name: 'Fenwick Falls', waitsFor: ['Hollis County'] })
const HIVE = row({ key: 'item:HIVE', about: 'item', name: 'Cedar hive', standing: 'alone' })
const TOOLS = row({ key: 'rate:TOOLS', about: 'rate', name: 'Hand tools', standing: 'open', options: [] })
const VIEW: DecisionsView = {
  currency: 'USD',
  revision: 'seen',
  documents: 100,
  of: 120,
  bought: 3,
  explained: { now: 40, drafted: 95 },
  unexplained: [{ unit: 'billing/9', number: 'LA-9' }],
  asked: {
    registrations: [
      { agency: 'WRO', name: 'Wendover Revenue Office', charged: '8392.30' },
      { agency: 'HCT', name: 'Hollis County Treasurer', charged: '1393.47' },
    ],
    certificates: [{ party: 'cus_1', name: 'Ostler', reason: 'resale', documents: 3, regions: ['WN'] }],
    regions: [
      { id: 'WN', name: 'Wendover' },
      { id: 'QL', name: 'Quill' },
    ],
    later: { registrations: 0, certificates: 2 },
  },
  decisions: [row({}), HOLLIS, FENWICK, HIVE, TOOLS],
}
const at = { path: '/larkspur/2026-09/align/decisions' }
const SEEN: SeenView = {
  currency: 'USD',
  resting: { tax: '8392.30', alone: '0.00', things: 3 },
  groups: [
    {
      ...{ id: 'WRO', name: 'Wendover Revenue Office', tax: '8392.30', revision: 'r1', files: [] },
      things: [
        { says: 'Wendover: 5.50 %', standing: 'seen', seenIn: ['Ledger', 'Billing'], checked: null },
        { says: 'FOOD: exempt in Wendover', standing: 'alone', seenIn: ['Billing'], checked: null },
      ],
    },
    {
      ...{ id: 'HCT', name: 'Hollis County Treasurer', tax: '1393.47', revision: 'r2' },
      files: [{ id: 'f1', name: 'table 7.pdf', size: 81_920, person: 'Ines', at: '2026-09-02T10:00:00Z' }],
      things: [
        {
          ...{ says: 'Hollis County: 1.45 %', standing: 'checked', seenIn: ['Billing'] },
          checked: { against: 'Rate table 7', on: '2026-09-02', person: 'Ines' },
        },
      ],
    },
  ],
}
const shown = async (view: DecisionsView, role: 'preparer' | 'viewer' = 'preparer') => {
  const asked = answers({
    '/decisions': view,
    '/decisions/seen': SEEN,
    '/batches': { batches: [] },
    '/path': PATH,
  })
  const { page } = await mountIn(DecisionsPage, { ...at, role })
  return { page, taken: () => asked.filter(({ method }) => method === 'POST').map(({ body }) => body) }
}

describe('decisions', () => {
  it('say how much is explained, and what is to be answered, accepted and asked', async () => {
    const { page } = await shown(VIEW)
    expect(page.find('[data-verdict]').text()).toContain(
      '40 of 100 documents explained to the cent by what is agreed, 95 with the draft; 1 of 5 decisions to answer',
    )
    expect(page.find('[data-explained]').text()).toBe('40 agreed55 drafted5 not explained')
    expect(page.find('[data-aside]').text()).toBe('Not looked at: 20 older documents; 3 purchases.')
    const asked = page.find('[aria-label="What no system can tell"]').text()
    for (const one of [
      'Wendover Revenue Office8,392.30',
      'Ostlerresale3',
      'The certificate of 2 parties will be asked as well',
      'Where 1 rate holds',
      'Hand tools',
      'LA-9',
    ])
      expect(asked).toContain(one)
    const hollis = page.find('[data-decision="place:HOLLIS"]').text()
    for (const one of ['the systems differ', '1.45 %', 'Billing', '1.25 %', '12.40 USD of tax', 'LA-1'])
      expect(hollis).toContain(one)
  })

  it('are accepted at once where nothing they rest on is still to be answered', async () => {
    const { page, taken } = await shown(VIEW)
    expect(page.find('[data-batch=agreed-rate]').text()).toContain('waits for Hollis County')
    expect(page.find('[data-batch=agreed-rate]').find('.do').exists()).toBe(false)
    await page.find('[data-take-agreed]').trigger('click')
    await flushPromises()
    await page.find('[data-batch=alone-item] .do').trigger('click')
    await flushPromises()
    expect(taken()).toEqual([
      { revision: 'seen', take: [{ key: 'agency:WRO', option: 'one' }] },
      { revision: 'seen', take: [{ key: 'item:HIVE', option: 'one' }] },
    ])
  })

  it('are answered by the side that somebody chose', async () => {
    const { page, taken } = await shown(VIEW)
    await page.find('input[value="1.25"]').setValue(true)
    await page.find('[aria-label="Accept for Hollis County"]').trigger('click')
    await flushPromises()
    expect(taken()).toEqual([{ revision: 'seen', take: [{ key: 'place:HOLLIS', option: '1.25' }] }])
  })

  it('ask for what a person knows, pasted down a column, and keep what is whole at once', async () => {
    const { page, taken } = await shown(VIEW)
    expect(page.find('[data-keep-answers]').attributes('disabled')).toBeDefined()
    const first = page.find('[aria-label="Number of the registration with Wendover Revenue Office"]')
    await first.trigger('paste', { clipboardData: { getData: () => 'W-1\t2025-02-01\r\nH-2\n' } })
    const day = page.find('[aria-label="First day of the registration with Hollis County Treasurer"]')
    // Half an answer is none: the form asks for its day.
    expect([day.attributes('required') !== undefined, page.find('[data-keep-answers]').text()]).toEqual([
      true,
      'Keep 1 answer',
    ])
    await page
      .findAll('button')
      .find((one) => one.text() === 'the same for the rest')
      ?.trigger('click')
    await page.find('[aria-label="Number of the certificate of Ostler"]').setValue(' R-9 ')
    await page.find('[aria-label="First day of the certificate of Ostler"]').setValue('2026-01-01')
    // A certificate for no region is none: the form asks for one.
    const region = page.find('input[value="WN"]')
    await region.setValue(false)
    expect([region.attributes('required') !== undefined, page.find('[data-keep-answers]').text()]).toEqual([
      true,
      'Keep 2 answers',
    ])
    await region.setValue(true)
    await page.find('[aria-label="Another region of the certificate of Ostler"]').setValue('QL')
    await page.find('form[aria-label=Answers]').trigger('submit')
    await flushPromises()
    expect(taken()).toEqual([
      {
        registrations: [
          { agency: 'WRO', number: 'W-1', from: '2025-02-01' },
          { agency: 'HCT', number: 'H-2', from: '2025-02-01' },
        ],
        certificates: [
          { party: 'cus_1', number: 'R-9', regions: ['WN', 'QL'], from: '2026-01-01', to: null },
        ],
      },
    ])
  })

  it('stand on the word of systems until somebody reads an agency’s own text', async () => {
    const { page, taken } = await shown(VIEW)
    const [open, checked] = [page.find('[data-seen=WRO]'), page.find('[data-seen=HCT]')]
    expect([open.attributes('data-state'), checked.attributes('data-state')]).toEqual(['alone', 'checked'])
    expect(open.text()).toContain('the word of one system')
    expect(checked.text()).toContain('Ines in “Rate table 7”, September 2, 2026')
    expect(checked.find('a').attributes('href')).toMatch(/\/attached\/f1$/)
    expect(
      page.find('[aria-label="Attach a file to what was read of Hollis County Treasurer"]').exists(),
    ).toBe(true)
    await open.find('button').trigger('click')
    expect(page.find('[aria-label="Seen in systems"] ul').text()).toContain(
      'FOOD: exempt in Wendover the word of one system; seen in Billing',
    )
    await open.find('input').setValue('Bulletin 12')
    await page.find('[aria-label="Day on which Wendover Revenue Office was read"]').setValue('2026-09-20')
    expect(page.find('[data-keep-checks]').text()).toBe('Keep 1 check')
    await page.find('form[aria-label=Checks]').trigger('submit')
    await flushPromises()
    expect(taken()).toEqual([
      { checks: [{ id: 'WRO', revision: 'r1', against: 'Bulletin 12', on: '2026-09-20' }] },
    ])
  })

  it('are looked at alone by a viewer', async () => {
    const { page } = await shown(VIEW, 'viewer')
    expect(page.findAll('main .do')).toEqual([])
    expect(page.find('fieldset').attributes('disabled')).toBeDefined()
    expect([page.findAll('[data-seen=HCT] a').length, page.findAll('input[type=file]').length]).toEqual([
      1, 0,
    ])
  })

  test.each<[string, Partial<DecisionsView>, string]>([
    ['nothing pulled', { documents: 0, of: 0, decisions: [] }, 'Nothing yet.'],
    [
      'all taken',
      { decisions: [] },
      'Nothing more. All that can be drafted is in the baseline, which explains 40 of 100 documents to the cent; 3 answers no system can give',
    ],
    ['no sale', { documents: 0, of: 0 }, '5 decisions. No sale was pulled that could show whether they hold'],
  ])('say in a sentence where they stand: %s', async (_, other, verdict) => {
    const { page } = await shown({ ...VIEW, ...other })
    expect(page.find('[data-verdict]').text()).toContain(verdict)
  })
})
