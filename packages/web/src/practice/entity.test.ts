import type { EntityView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import FirstPage from '../people/FirstPage.vue'
import ClosedNote from '../shell/ClosedNote.vue'
import { useSession } from '../shell/session.ts'
import { slugOf } from '../shell/slug.ts'
import { sampleOf } from './choices.ts'
import EntityPage from './EntityPage.vue'
import FoundPage from './FoundPage.vue'

afterEach(() => vi.unstubAllGlobals())

const ENTITY: EntityView = {
  id: 'larkspur',
  name: 'Larkspur',
  country: 'XA',
  currency: 'USD',
  timeZone: 'America/Chicago',
  locale: 'en-US',
  yearBegins: null,
  closedOn: null,
}
const MONTH = { unproved: '0.00', documents: 1, apart: 0, notYet: 0, resting: false }
const SESSION = {
  person: { name: 'Kofi Imre', email: 'k@example.org', runsPractice: true, mustChange: false },
  entities: [{ ...ENTITY, id: 'sorrel-mill', role: 'administrator', today: '2026-10-02' }],
}

it.each([
  ['Sorrel Mill, Ltd.', 'sorrel-mill-ltd'],
  ['  Äpfel & Öl ', 'apfel-ol'],
  ['会计', ''],
  ['x'.repeat(80), 'x'.repeat(60)],
])('“%s” stands in addresses as “%s”', (name, slug) => expect(slugOf(name, 60)).toBe(slug))

it.each([
  ['en-US', '−1,284.16 · September 30, 2026'],
  ['de-DE', '−1.284,16 · 30. September 2026'],
  ['not a tag', null],
])('%s writes %s', (locale, sample) => expect(sampleOf(locale)).toBe(sample))

describe('founding a legal entity', () => {
  it('asks for what its books are reckoned by, and goes on to connect its systems', async () => {
    const asked = answers({ '/api/entities': { id: 'sorrel-mill' }, '/api/session': SESSION, '/path': PATH })
    const { page, router } = await mountIn(FoundPage)
    const session = useSession()
    session.view = session.view && { ...session.view, person: SESSION.person }
    await page.vm.$nextTick()
    for (const [name, value] of [
      ['name', 'Sorrel Mill'],
      ['country', 'other'],
      ['currency', 'EUR'],
      ['timeZone', 'Europe/Lisbon'],
      ['locale', 'pt-PT'],
      ['yearBegins', '4'],
    ] as const)
      await page.find(`[name=${name}]`).setValue(value)
    await page.find('[name=otherCountry]').setValue('xb')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: '/api/entities',
      body: {
        ...{ id: 'sorrel-mill', name: 'Sorrel Mill', country: 'XB', currency: 'EUR' },
        ...{ timeZone: 'Europe/Lisbon', locale: 'pt-PT', yearBegins: 4 },
      },
    })
    expect(router.currentRoute.value).toMatchObject({
      name: 'connect',
      params: { entity: 'sorrel-mill', month: '2026-09' },
    })
  })

  it('is left to those who run the practice', async () => {
    answers({})
    const { page } = await mountIn(FoundPage)
    expect(page.find('form').exists()).toBe(false)
    expect(page.text()).toContain('Ask them to found it')
  })
})

describe('a legal entity', () => {
  it.each([
    ['administrator', null, true, 'Close this legal entity'],
    ['administrator', '2026-09-30', false, 'Open it again'],
    ['preparer', null, false, null],
  ] as const)('for a %s, closed %s', async (role, closedOn, keeps, button) => {
    answers({ '/api/entities/larkspur': { ...ENTITY, closedOn }, '/path': PATH })
    const { page } = await mountIn(EntityPage, { role })
    expect(page.find('fieldset').attributes('disabled') === undefined).toBe(keeps)
    expect(page.findAll('button[type=button]').map((b) => b.text())).toEqual(button ? [button] : [])
    expect(page.find('[data-verdict]').text()).toContain(closedOn ? 'Closed since' : 'Open.')
  })

  it('is renamed, and closed only after what that means was said', async () => {
    const asked = answers({
      '/api/entities/larkspur': ENTITY,
      '/api/entities/larkspur/closed': ENTITY,
      '/api/entities/larkspur/months': {
        months: [
          { ...MONTH, month: '2026-09', state: 'open' },
          { ...MONTH, month: '2026-08', state: 'proved' },
        ],
      },
      '/api/session': { ...SESSION, entities: [{ ...SESSION.entities[0], id: 'larkspur' }] },
      '/path': PATH,
    })
    const { page } = await mountIn(EntityPage, { role: 'administrator' })
    await page.find('[name=name]').setValue('Larkspur & Daughters')
    await page.find('form').trigger('submit')
    await flushPromises()
    const button = (words: string): ReturnType<typeof page.find> => {
      const found = page.findAll('button').find((b) => b.text() === words)
      if (!found) throw new Error(`no button says ${words}`)
      return found
    }
    await button('Close this legal entity').trigger('click')
    expect(page.text()).toContain('Nothing is pulled, agreed, posted or mended in it any more')
    await flushPromises()
    expect(page.find('[data-open-months]').text()).toBe('Not proved, and left so: September 2026.')
    await button('Close Larkspur').trigger('click')
    await flushPromises()
    expect(asked.filter((a) => a.method === 'PUT')).toEqual([
      {
        method: 'PUT',
        path: '/api/entities/larkspur',
        body: { name: 'Larkspur & Daughters', locale: 'en-US', yearBegins: null },
      },
      { method: 'PUT', path: '/api/entities/larkspur/closed', body: { closed: true } },
    ])
  })

  it('that is closed says so on every page', async () => {
    answers({ '/path': PATH })
    const { page } = await mountIn(ClosedNote)
    expect(page.find('[data-closed]').exists()).toBe(false)
    const session = useSession()
    session.view = session.view && {
      ...session.view,
      entities: session.view.entities.map((one) => ({ ...one, closedOn: '2026-06-30' })),
    }
    await page.vm.$nextTick()
    expect(page.find('[data-closed]').text()).toContain('Closed since June 30, 2026.')
  })
})

describe('the first administrator', () => {
  const fill = async (
    again: string,
  ): Promise<{ readonly posts: number; readonly at: unknown; readonly text: string }> => {
    const asked = answers({ '/api/first/undefined': { waits: true }, '/api/session': SESSION })
    const { page, router } = await mountIn(FirstPage)
    const values = ['Ines Aldous', 'ines@example.org', 'a long password', again]
    for (const [place, value] of values.entries()) await page.findAll('input')[place]?.setValue(value)
    await page.find('form').trigger('submit')
    await flushPromises()
    return {
      posts: asked.filter((a) => a.method === 'POST').length,
      at: router.currentRoute.value.name,
      text: page.text(),
    }
  }
  it('begins, and goes on to found a legal entity', async () => {
    expect(await fill('a long password')).toMatchObject({ posts: 1, at: 'found' })
  })
  it('types the password twice alike, or nothing is sent', async () => {
    const { posts, text } = await fill('another password')
    expect(posts).toBe(0)
    expect(text).toContain('The two passwords differ')
  })
  it('whose link was used is told where to go', async () => {
    answers({})
    const { page } = await mountIn(FirstPage)
    expect(page.find('[role=alert]').exists()).toBe(true)
    expect(page.text()).toContain('Sign in')
  })
})
