import type { CauseView, KeepPreview, KeptView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import KeepDialog from './KeepDialog.vue'
import KeptDialog from './KeptDialog.vue'

afterEach(() => vi.unstubAllGlobals())

const cause = (headline: string): CauseView => ({
  key: `unexplained ${headline}`,
  facts: { kind: 'unexplained', headline, odd: ['expected'] },
  others: [],
  headline,
  documents: 3,
  unproved: '7.20',
  unprovedNet: '0.00',
  remedies: [],
  asks: false,
  keepable: 2,
  keptWaiting: 0,
  unsearched: { bounded: 0, waiting: 0 },
})
const preview: KeepPreview = { documents: 2, over: '5.20', under: '2.00', currency: 'USD', revision: 'r1' }

async function keeping(headline: string, given: object = preview) {
  const asked = answers({ '/kept/preview': given, '/kept': { documents: 2 }, '/path': PATH })
  const model = ref<CauseView | null>(cause(headline))
  const Host = defineComponent({
    setup: () => () =>
      h(KeepDialog, {
        modelValue: model.value,
        'onUpdate:modelValue': (now: CauseView | null) => (model.value = now),
      }),
  })
  const { page } = await mountIn(Host)
  await flushPromises()
  return { page, asked, model }
}

describe('a difference kept as it is', () => {
  test.each<[string, string, RegExp, string]>([
    [
      'of what was charged',
      'amount',
      /of 2 documents.*5\.20 USD over-collected: it is remitted all the same\.\s?2\.00 USD under-collected: it is still owed\./,
      'Keep it, for review',
    ],
    [
      'of an entry made by hand',
      'orphan',
      /: 2 entries.*5\.20 USD more stands on liability accounts.*2\.00 USD less stands/,
      'Name it, for review',
    ],
  ])('says what it comes to, %s, and wants a reason', async (_, headline, says, word) => {
    const { page, asked, model } = await keeping(headline)
    expect(page.text().replace(/\s+/g, ' ')).toMatch(says)
    const submit = page.get('button[type=submit]')
    expect([submit.text(), submit.attributes('disabled')]).toEqual([word, ''])
    await page.get('textarea').setValue('  ')
    expect(submit.attributes('disabled')).toBe('')
    await page.get('textarea').setValue('Below what a credit costs')
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(asked.find((one) => one.method === 'POST')?.body).toEqual({
      cause: `unexplained ${headline}`,
      reason: 'Below what a credit costs',
      revision: 'r1',
    })
    expect(model.value).toBeNull()
  })

  it('cannot be kept where nothing is left to keep, or the preview is refused', async () => {
    for (const given of [
      { ...preview, documents: 0 },
      { status: 409, title: 'No.', detail: 'Look again.' },
    ]) {
      const { page } = await keeping('amount', given)
      if (page.find('textarea').exists()) await page.get('textarea').setValue('A reason')
      else expect(page.get('[role=alert]').text()).toBe('No. Look again.')
      expect(page.get('button[type=submit]').attributes('disabled')).toBe('')
      page.unmount()
    }
  })
})

const kept = (unit: string, by: string, reviewedBy: string | null): KeptView['documents'][number] => ({
  unit,
  number: unit,
  party: 'Alder Cross Mill',
  over: '1.00',
  under: '0.00',
  kept: { reason: 'Small', by, at: '2026-10-02T12:00:00Z', reviewedBy, reviewedAt: null },
  givenBackWith: null,
})
const documents = [
  kept('mine', 'Kofi Imre', null),
  kept('hers', 'Ada Quill', null),
  kept('hers too', 'Ada Quill', null),
  kept('agreed', 'Ada Quill', 'Kofi Imre'),
  { ...kept('cured', '', null), kept: null, givenBackWith: 'CR-7' },
]

describe('what stands apart', () => {
  test.each<['viewer' | 'preparer' | 'reviewer', Record<string, string>]>([
    ['viewer', { mine: '', hers: '', 'hers too': '', agreed: '', cured: '' }],
    [
      'preparer',
      { mine: 'Take back', hers: 'Take back', 'hers too': 'Take back', agreed: 'Take back', cured: '' },
    ],
    [
      'reviewer',
      {
        mine: 'Take back',
        hers: 'Agree Take back',
        'hers too': 'Agree Take back',
        agreed: 'Take back',
        cured: '',
      },
    ],
  ])('is agreed to by who may, and never by who kept it: a %s', async (role, wanted) => {
    const asked = answers({
      '/kept/review': {},
      '/kept': { currency: 'USD', documents } satisfies KeptView,
      '/path': PATH,
    })
    const { page } = await mountIn(KeptDialog, { props: { modelValue: true }, role })
    const acts = page.findAll('[data-kept-unit]').map((row) => [
      row.attributes('data-kept-unit'),
      row
        .findAll('.act button')
        .map((b) => b.text())
        .join(' '),
    ])
    expect(Object.fromEntries(acts)).toEqual(wanted)
    expect(page.get('[data-kept-unit=cured]').text()).toContain('Given back: CR-7')
    const all = page.findAll('.actions button').find((b) => b.text().startsWith('Agree to all'))
    expect(all?.text()).toBe(role === 'reviewer' ? 'Agree to all 2 documents' : undefined)
    await all?.trigger('click')
    await flushPromises()
    expect(asked.find((one) => one.method === 'POST')?.body).toEqual(
      all ? { units: ['hers', 'hers too'], agree: true } : undefined,
    )
  })

  it('says so where nothing does', async () => {
    answers({ '/kept': { currency: 'USD', documents: [] }, '/path': PATH })
    const { page } = await mountIn(KeptDialog, { props: { modelValue: true } })
    expect(page.text()).toContain('Nothing stands apart in this month.')
  })
})
