import type { GridRow } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import LinkChoice from './LinkChoice.vue'

afterEach(() => vi.unstubAllGlobals())

type Candidates = NonNullable<GridRow['extra']>['candidates']
const row = (candidates: Candidates): GridRow => ({ id: 'pos t1', extra: { systemId: 'pos', system: 'Tills', objectId: 't1', candidates }, name: 'Merrow county', group: '', detail: '', total: '', cells: [], findings: [], keys: '', documents: 0, stake: '0.00', moved: null })
const NAMES = { names: [{ id: 'A', name: 'Alder Cross' }, { id: 'B', name: 'Bracken' }] }

async function mounted(candidates: Candidates): Promise<{ readonly page: Awaited<ReturnType<typeof mountIn>>['page']; readonly linked: string[]; readonly asked: ReturnType<typeof answers> }> {
  const linked: string[] = []
  const asked = answers({ '/align/rates/names': NAMES, '/path': PATH })
  const Host = defineComponent({ setup: () => () => h(LinkChoice, { row: row(candidates), kind: 'rates', onLink: (id: string) => linked.push(id) }) })
  return { page: (await mountIn(Host)).page, linked, asked }
}
const candidate = (id: string, name: string, evidence: Candidates[number]['evidence'] = ['near-name']): Candidates[number] => ({ id, name, evidence })

describe('what a system’s object is linked to', () => {
  test.each<[string, Candidates, string, boolean, string]>([
    ['nothing to go by', [], '', true, ''],
    ['one candidate is chosen already', [candidate('A', 'Alder Cross')], 'A', false, 'a name that nearly matches'],
    ['of two nobody is chosen', [candidate('A', 'Alder Cross'), candidate('B', 'Bracken')], '', true, '2 candidates'],
  ])('%s', async (_, candidates, chosen, closed, why) => {
    const { page, asked } = await mounted(candidates)
    expect([(page.find('select').element as HTMLSelectElement).value, page.find('button').attributes('disabled') !== undefined]).toEqual([chosen, closed])
    expect(page.find('.why').exists() ? page.find('.why').text() : '').toBe(why)
    // The baseline's names are read when somebody reaches for them.
    expect(asked.some((a) => a.path.includes('/names'))).toBe(false)
  })

  it('offers the candidates, then the rest of the baseline, each once, and links what is chosen', async () => {
    const { page, linked, asked } = await mounted([candidate('B', 'Bracken')])
    await page.find('select').trigger('focus')
    await page.find('select').trigger('focus')
    await flushPromises()
    expect(page.findAll('option').map((o) => o.text())).toEqual(['choose what it is', 'Bracken', 'Alder Cross'])
    expect(asked.filter((a) => a.path.includes('/names'))).toHaveLength(1)
    await page.find('select').setValue('A')
    await page.find('button').trigger('click')
    expect(linked).toEqual(['A'])
  })
})
