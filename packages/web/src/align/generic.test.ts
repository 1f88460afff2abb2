import type { GenericView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import GenericCustomers from './GenericCustomers.vue'

afterEach(() => vi.unstubAllGlobals())

type System = GenericView['systems'][number]
const system = (changes: Partial<System> = {}): System => ({
  ...{ systemId: 'till', name: 'Tills', party: null, customers: 12, exempt: 0, exemptNames: [] },
  ...changes,
})
const CHOICES = [{ id: 'cus_counter', name: 'Counter sale' }]

describe('one customer for all of a source', () => {
  test.each<[string, System, RegExp | null]>([
    ['itself, nobody exempt', system(), /^$/],
    [
      'itself, some exempt: what choosing would mean',
      system({ exempt: 5, exemptNames: ['A', 'B', 'C', 'D', 'E'] }),
      /^A, B, C and 2 more are exempt there: as one of many, nobody is\.$/,
    ],
    ['one of many, nobody exempt', system({ party: 'cus_counter' }), /none of them to be exempt/],
    [
      'one of many, one exempt',
      system({ party: 'cus_counter', exempt: 1, exemptNames: ['A'] }),
      /^A, exempt there, is taxed: who stands for many cannot be exempt/,
    ],
  ])('says what it means for exemptions: %s', async (_, one, says) => {
    answers({ '/generic': { choices: CHOICES, systems: [one] }, '/path': PATH })
    const { page } = await mountIn(GenericCustomers)
    expect(page.find('[data-generic] .soft').text()).toMatch(says as RegExp)
  })

  it('is put for a system, and taken off', async () => {
    const asked = answers({ '/generic': { choices: CHOICES, systems: [system()] }, '/path': PATH })
    const { page } = await mountIn(GenericCustomers)
    const choice = page.find('select')
    for (const value of ['cus_counter', '']) {
      await choice.setValue(value)
      await flushPromises()
    }
    expect(asked.filter(({ method }) => method === 'PUT').map(({ body }) => body)).toEqual([
      { systemId: 'till', party: 'cus_counter' },
      { systemId: 'till', party: null },
    ])
  })

  it('says nothing where nobody stands for many', async () => {
    answers({ '/generic': { choices: [], systems: [system()] }, '/path': PATH })
    const { page } = await mountIn(GenericCustomers)
    expect(page.find('[data-generic]').exists()).toBe(false)
  })
})
