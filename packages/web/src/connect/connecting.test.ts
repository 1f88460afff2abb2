import type { AskedView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH, type Mounted } from '../../test/mounting.ts'
import ConnectForm from './ConnectForm.vue'
import ConnectPage from './ConnectPage.vue'

afterEach(() => vi.unstubAllGlobals())

const ASKED: AskedView = {
  product: 'Combwright Books',
  company: { id: 'lk', name: 'Larkspur' },
  webAddress: null,
  baseCurrency: 'EUR',
  timeZone: 'America/Chicago',
  offers: ['accounts', 'agencies'],
  lacks: ['journal entries'],
  takes: [],
  twins: ['Old books'],
  checks: [
    {
      code: 'base-currency',
      group: 'Money',
      question: 'Is its base currency the entity’s?',
      why: '',
      mend: 'Connect another company.',
      blocks: true,
      state: 'fails',
      fact: 'EUR here, USD for the legal entity',
    },
  ],
}
const at = { path: '/larkspur/2026-09/connect', role: 'administrator' } as const

async function fill({ page }: Mounted, fields: Readonly<Record<string, string>>): Promise<void> {
  for (const [name, value] of Object.entries(fields)) await page.find(`[name=${name}]`).setValue(value)
}
async function submit({ page }: Mounted): Promise<void> {
  await page.find('form').trigger('submit')
  await flushPromises()
}
const LEDGER = {
  role: 'ledger',
  name: ' Wendover books ',
  address: 'http://books.example/b',
  token: 'sealed-thing',
}
const writes = (asked: ReturnType<typeof answers>): typeof asked => asked.filter((a) => a.method !== 'GET')

describe('connecting a system', () => {
  it('shows who answers, what it lacks, what it fails and what it may be a second time, before it is kept', async () => {
    const asked = answers({ '/asked': ASKED, '/systems/wendover-books': {}, '/path': PATH })
    const mounted = await mountIn(ConnectForm, at)
    await fill(mounted, LEDGER)
    await submit(mounted)
    const panel = mounted.page.find('[data-asked]').text()
    for (const words of [
      'Combwright Books answers, for the company Larkspur',
      'It may be the same as Old books',
      'It has no journal entries.',
      'nothing: it is read alone',
      'Connect another company.',
    ])
      expect(panel).toContain(words)
    const body = { ...LEDGER, name: 'Wendover books' }
    expect(writes(asked)).toEqual([
      { method: 'POST', path: '/api/entities/larkspur/months/2026-09/systems/wendover-books/asked', body },
    ])
    await submit(mounted)
    expect(writes(asked).slice(1)).toEqual([
      { method: 'PUT', path: '/api/entities/larkspur/systems/wendover-books', body },
    ])
  })

  it.each(['address', 'token', 'name'])(
    'asks again where the %s is another than was asked',
    async (field) => {
      const asked = answers({ '/asked': ASKED, '/path': PATH })
      const mounted = await mountIn(ConnectForm, at)
      await fill(mounted, LEDGER)
      await submit(mounted)
      await fill(mounted, { [field]: 'http://other.example' })
      expect(mounted.page.find('[data-asked]').exists()).toBe(false)
      await submit(mounted)
      expect(writes(asked).map((a) => a.method)).toEqual(['POST', 'POST'])
    },
  )

  it('takes no name under which another is connected, and says what to do', async () => {
    answers({ '/path': PATH })
    const mounted = await mountIn(ConnectForm, {
      ...at,
      props: { taken: [{ id: 'wendover-books', name: 'Wendover books' }] },
    })
    await fill(mounted, LEDGER)
    expect(mounted.page.find('.note.bad').text()).toContain('Wendover books is connected under that name')
    expect(mounted.page.find('button[type=submit]').attributes('disabled')).toBeDefined()
  })

  it('keeps one without a bridge by what is said of it', async () => {
    const asked = answers({ '/files': {}, '/path': PATH })
    const mounted = await mountIn(ConnectForm, at)
    await fill(mounted, { role: 'pos', name: 'Quay till' })
    await mounted.page.find('[name=byFiles]').setValue(true)
    await submit(mounted)
    expect(writes(asked)).toEqual([
      {
        method: 'PUT',
        path: '/api/entities/larkspur/systems/quay-till/files',
        body: {
          ...{ role: 'pos', name: 'Quay till', company: 'Larkspur' },
          ...{ baseCurrency: 'USD', timeZone: 'America/Chicago' },
        },
      },
    ])
  })

  it('says why a bridge was not asked, and keeps nothing', async () => {
    const asked = answers({
      '/asked': { status: 502, title: 'It does not answer.', detail: 'See that it runs.' },
      '/path': PATH,
    })
    const mounted = await mountIn(ConnectForm, at)
    await fill(mounted, LEDGER)
    await submit(mounted)
    expect(mounted.page.find('[role=alert]').text()).toBe('It does not answer. See that it runs.')
    expect(writes(asked)).toHaveLength(1)
  })

  it.each([
    ['administrator', 'Connect the ledger first', true],
    ['preparer', 'An administrator of the legal entity connects', false],
  ] as const)('begins with nothing connected, for a %s', async (role, says, may) => {
    answers({ '/connect': { currency: 'USD', systems: [], disconnected: [] }, '/path': PATH })
    const { page } = await mountIn(ConnectPage, { ...at, role })
    expect(page.find('.empty').text()).toContain(says)
    expect(page.findAll('button').some((b) => b.text() === 'Connect a system')).toBe(may)
  })
})
