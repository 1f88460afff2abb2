import type { AskedView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import ChangesPage from './ChangesPage.vue'
import InvitationPage from './InvitationPage.vue'
import InviteForm from './InviteForm.vue'

afterEach(() => vi.unstubAllGlobals())

const ASKED = {
  product: 'Combwright Till',
  company: { id: 'larkspur', name: 'Larkspur' },
  webAddress: null,
  baseCurrency: 'USD',
  timeZone: 'America/Chicago',
  offers: ['items'],
  lacks: ['locations'],
  takes: [],
  twins: [],
  checks: [],
} satisfies AskedView
const at = { path: '/larkspur/2026-09/connect' }

describe('an invitation', () => {
  it('is made with a role and a name, and its link shown', async () => {
    const asked = answers({ '/invitations': { link: '/invitation/larkspur.abc', days: 7 }, '/path': PATH })
    const { page } = await mountIn(InviteForm, at)
    await page.find('button').trigger('click')
    await page.find('select').setValue('pos')
    await page.find('input').setValue(' Quay till, second ')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')?.body).toEqual({
      systemId: 'quay-till-second',
      role: 'pos',
      name: 'Quay till, second',
    })
    expect(page.find('[data-link] code').text()).toMatch(/\/invitation\/larkspur\.abc$/)
  })

  it('says who invites to what, and to which company the system turned out to be bound', async () => {
    const asked = answers({
      '/api/invitations/undefined': {
        entity: 'Larkspur',
        system: 'Quay till',
        role: 'pos',
        by: 'Marit Soll',
        until: '2026-10-09T00:00:00Z',
      },
      '/api/invitations/undefined/asked': ASKED,
      '/path': PATH,
    })
    const { page } = await mountIn(InvitationPage, at)
    expect(page.text()).toContain('Marit Soll of Larkspur asks you to connect the pos system “Quay till”')
    for (const [place, value] of [
      [0, 'https://till.example/bridge'],
      [1, 'a long token'],
    ] as const)
      await page.findAll('input')[place]?.setValue(value)
    await page.find('form').trigger('submit')
    await flushPromises()
    // Who answers is seen before anything is kept.
    expect(page.find('[data-asked]').text()).toContain('Combwright Till answers, for the company Larkspur')
    expect(page.find('[data-done]').exists()).toBe(false)
    await page.find('form').trigger('submit')
    await flushPromises()
    const body = { address: 'https://till.example/bridge', token: 'a long token' }
    expect(asked.filter((a) => a.method === 'POST')).toEqual([
      { method: 'POST', path: '/api/invitations/undefined/asked', body },
      { method: 'POST', path: '/api/invitations/undefined', body },
    ])
    expect(page.find('[data-done]').exists()).toBe(true)
  })

  it('that is not there any more says so', async () => {
    answers({ '/path': PATH })
    const { page } = await mountIn(InvitationPage, at)
    expect(page.find('[role="alert"]').text()).not.toBe('')
  })
})

describe('what changed in the systems', () => {
  const change = (changes: object): object => ({
    id: '9',
    at: '2026-10-02T12:00:00Z',
    system: 'Ledger',
    resource: 'tax-rates',
    kind: 'changed',
    label: 'Fenwick',
    fields: [{ field: 'percent', from: '7.25', to: '7.45' }],
    ...changes,
  })
  it('is told field by field, filtered in the address, and goes on into the past', async () => {
    const asked = answers({
      '/changes': {
        changes: [change({}), change({ id: '8', kind: 'removed', fields: [] })],
        systems: [{ id: 'ledger', name: 'Ledger' }],
        resources: ['tax-rates', 'agencies'],
        next: '8',
      },
      '/path': PATH,
    })
    const { page } = await mountIn(ChangesPage, { path: '/larkspur/2026-09/changes' })
    expect(page.findAll('tbody tr').map((row) => row.text())).toEqual([
      expect.stringContaining('percent 7.25 → 7.45'),
      expect.stringContaining('taken away there'),
    ])
    await page.find('select[aria-label="Of what"]').setValue('agencies')
    await flushPromises()
    await page
      .findAll('button')
      .find((b) => b.text() === 'Older changes')
      ?.trigger('click')
    await flushPromises()
    expect(asked.map((a) => a.path.split('?')[1]).filter((q) => q !== undefined)).toEqual([
      '',
      'resource=agencies',
      'resource=agencies&before=8',
    ])
  })

  it('says when nothing did', async () => {
    answers({ '/changes': { changes: [], systems: [], resources: [], next: null }, '/path': PATH })
    const { page } = await mountIn(ChangesPage, { path: '/larkspur/2026-09/changes' })
    expect(page.find('.empty').text()).toContain('Nothing changed yet')
  })
})
