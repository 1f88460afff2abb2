import type { GridRow } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import LinkChoice from './LinkChoice.vue'

afterEach(() => vi.unstubAllGlobals())

type Candidates = NonNullable<GridRow['extra']>['candidates']
const row = (candidates: Candidates): GridRow => ({
  id: 'pos t1',
  extra: { systemId: 'pos', system: 'Tills', objectId: 't1', candidates },
  name: 'Merrow county',
  group: '',
  detail: '',
  total: '',
  cells: [],
  findings: [],
  keys: '',
  documents: 0,
  stake: '0.00',
  moved: null,
  shared: false,
})
const NAMES = {
  names: [
    { id: 'A', name: 'Alder Cross' },
    { id: 'B', name: 'Bracken' },
  ],
}

async function mounted(
  candidates: Candidates,
  names = NAMES,
): Promise<{
  readonly page: Awaited<ReturnType<typeof mountIn>>['page']
  readonly linked: string[]
  readonly asked: ReturnType<typeof answers>
}> {
  const linked: string[] = []
  const asked = answers({ '/align/rates/names': names, '/path': PATH })
  const Host = defineComponent({
    setup: () => () =>
      h(LinkChoice, { row: row(candidates), kind: 'rates', onLink: (id: string) => linked.push(id) }),
  })
  return { page: (await mountIn(Host)).page, linked, asked }
}
const candidate = (
  id: string,
  name: string,
  evidence: Candidates[number]['evidence'] = ['near-name'],
): Candidates[number] => ({ id, name, evidence })

describe('what a system’s object is linked to', () => {
  test.each<[string, Candidates, string, boolean, string]>([
    ['nothing to go by', [], '', true, ''],
    [
      'one candidate is chosen already',
      [candidate('A', 'Alder Cross')],
      'Alder Cross (A)',
      false,
      'a name that nearly matches',
    ],
    ['of two nobody is chosen', [candidate('A', 'Alder Cross'), candidate('B', 'Bracken')], '', true, ''],
  ])('%s', async (_, candidates, chosen, closed, why) => {
    const { page, asked } = await mounted(candidates)
    expect([
      page.find('input').element.value,
      page.find('button').attributes('disabled') !== undefined,
    ]).toEqual([chosen, closed])
    expect(page.find('.why').exists() ? page.find('.why').text() : '').toBe(why)
    expect(page.find('input').attributes('placeholder')).toBe(
      candidates.length > 1 ? 'one of 2 candidates' : 'choose what it is',
    )
    // The baseline's names are read when somebody reaches for them.
    expect(asked.some((a) => a.path.includes('/names'))).toBe(false)
  })

  it('offers the candidates, then the rest of the baseline, each once with its code, and links what is chosen', async () => {
    const { page, linked, asked } = await mounted([candidate('B', 'Bracken')])
    await page.find('input').trigger('focus')
    await flushPromises()
    await page.find('input').trigger('focus')
    await flushPromises()
    expect(page.findAll('option').map((o) => o.attributes('value'))).toEqual([
      'Bracken (B)',
      'Alder Cross (A)',
    ])
    expect(asked.filter((a) => a.path.includes('/names'))).toHaveLength(1)
    await page.find('input').setValue('Alder Cross (A)')
    await page.find('button').trigger('click')
    expect(linked).toEqual(['A'])
  })

  it.each([
    ['words that name just one', 'Alder Cross', ['A']],
    ['a code', 'B', ['B']],
    ['half a name', 'Alder', []],
    ['nothing', '', []],
  ])('takes %s', async (_, typed, expected) => {
    const { page, linked } = await mounted([])
    await page.find('input').setValue(typed)
    await flushPromises()
    await page.find('button').trigger('click')
    expect(linked).toEqual(expected)
  })

  it('never rewrites what somebody is still typing, and counts the last answer alone', async () => {
    const { page, linked } = await mounted([], {
      names: [
        { id: 'CARD', name: 'Card' },
        { id: 'WEB', name: 'Card on the web' },
      ],
    })
    const input = page.find('input')
    await input.setValue('Card')
    await flushPromises()
    expect([input.element.value, page.find('button').attributes('disabled')]).toEqual(['Card', undefined])
    await input.setValue('Card on')
    await input.setValue('Card on the web')
    await flushPromises()
    await page.find('button').trigger('click')
    expect([input.element.value, linked]).toEqual(['Card on the web', ['WEB']])
  })

  it('takes nothing where two bear the name, and nothing is chosen any more once the words change', async () => {
    const { page } = await mounted([], {
      names: [
        { id: 'A', name: 'Foldgate Dairy' },
        { id: 'B', name: 'Foldgate Dairy' },
      ],
    })
    const closed = async (typed: string): Promise<boolean> => {
      await page.find('input').setValue(typed)
      await flushPromises()
      return page.find('button').attributes('disabled') !== undefined
    }
    expect([
      await closed('Foldgate Dairy'),
      await closed('Foldgate Dairy (B)'),
      await closed('Foldgate Dairy ('),
    ]).toEqual([true, false, true])
  })
})
