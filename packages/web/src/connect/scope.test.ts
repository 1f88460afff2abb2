import { WHOLE_SCOPE, type ScopePreview, type ScopeView } from '@axion/contract'
import { flushPromises, type VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import ScopePanel from './ScopePanel.vue'
import { saySchedule } from './words.ts'

afterEach(() => vi.unstubAllGlobals())

const some = { documents: 24, tax: '118.40', total: '1950.00' }
const nil = { documents: 0, tax: '0.00', total: '0.00' }
const VIEW: ScopeView = {
  currency: 'USD',
  scope: { ...WHOLE_SCOPE, off: { ...WHOLE_SCOPE.off, places: ['loc_quay'] } },
  changedBy: 'Ada',
  nextPullAt: null,
  comesIn: true,
  parts: {
    channels: [],
    places: [
      { key: 'loc_quay', name: 'Port Lennox quay', ...some },
      { key: 'loc_yard', name: 'Quillby yard', ...some },
    ],
    kinds: [{ key: 'receipt', name: 'receipt', documents: 48, tax: '236.80', total: '3900.00' }],
    statuses: [],
  },
  taken: some,
  tooOld: nil,
  off: some,
  left: [
    {
      number: 'Q-5002',
      party: 'Walk-in',
      date: '2026-09-01',
      why: 'kind-off',
      tax: '4.10',
      total: '67.60',
      booked: false,
    },
  ],
}
const PREVIEW: ScopePreview = {
  currency: 'USD',
  leaves: nil,
  comes: some,
  staysBooked: { documents: 2, tax: '8.20', total: null },
  revision: 'r1',
}

async function opened(
  role: 'administrator' | 'preparer' = 'administrator',
): Promise<{ page: VueWrapper; asked: ReturnType<typeof answers> }> {
  const asked = answers({ '/systems/pos/scope': VIEW, '/scope/preview': PREVIEW, '/path': PATH })
  const { page } = await mountIn(ScopePanel, {
    path: '/larkspur/2026-09/connect',
    role,
    props: { system: 'pos', name: 'Tills', role: 'pos', leftOut: some, schedule: null },
  })
  ;(page.find('details').element as HTMLDetailsElement).open = true
  await page.find('details').trigger('toggle')
  await flushPromises()
  return { page: page as VueWrapper, asked }
}
const words = (page: VueWrapper): string => page.text().replace(/\s+/g, ' ')

describe('the scope of a system', () => {
  it('says what is left out before anybody opens it, and lists it', async () => {
    const { page } = await opened()
    expect(page.find('summary').text().replace(/\s+/g, ' ')).toBe(
      'What of it is taken: 24 documents over 1,950.00, 118.40 of it tax left out of the month; pulled when somebody asks',
    )
    expect(words(page)).toContain('Q-5002Sep 1Walk-inswitched off67.604.10')
    expect(page.findAll('tr.off').map((row) => row.attributes('data-part'))).toEqual(['places:loc_quay'])
  })

  it('keeps a change only as it was seen', async () => {
    const { page, asked } = await opened()
    expect(page.text()).not.toContain('See what this does')
    await page.find('[data-part="places:loc_quay"] input').setValue(true)
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(page.find('[data-preview]').text().replace(/\s+/g, ' ')).toBe(
      'Over all months 24 documents over 1,950.00, 118.40 of it tax would come in. 2 documents, 8.20 of it tax stay booked, and follow their source: withdraw them in Post where they should not.',
    )
    await page.find('button.first').trigger('click')
    await flushPromises()
    expect(asked.find((call) => call.method === 'PUT')?.body).toEqual({ scope: WHOLE_SCOPE, revision: 'r1' })
  })

  it('is only read by who may not change it', async () => {
    const { page } = await opened('preparer')
    expect(page.find('fieldset').attributes('disabled')).toBeDefined()
    expect(page.text()).toContain('An administrator changes it.')
  })

  test.each([
    [null, 'when somebody asks'],
    [{ everyMinutes: 60 }, 'every 60 minutes'],
    [{ at: ['18:00', '06:00'] }, 'at 06:00 and 18:00'],
  ])('says when it is pulled: %j', (schedule, said) => expect(saySchedule(schedule)).toBe(said))
})
