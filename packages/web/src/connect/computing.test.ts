import type { ConnectView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import ComputingPanel from './ComputingPanel.vue'
import { connectVerdict } from './verdict.ts'

afterEach(() => vi.unstubAllGlobals())

type System = ConnectView['systems'][number]
const service = (computesFor: System['computesFor']): System =>
  ({
    id: 'reckoner',
    name: 'Reckoner',
    computesFor,
    checks: [],
    findings: [],
    streams: [],
    notFresh: null,
  }) as unknown as System
const OFFERED = [
  { id: 'billing', name: 'Billing', said: true },
  { id: 'pos', name: 'Tills', said: false },
]

describe('for whom a tax service computes', () => {
  it('is said by an administrator, and kept as a whole', async () => {
    const asked = answers({ '/computes-for': { run: 'r1' }, '/runs/r1': { id: 'r1' }, '/path': PATH })
    const { page } = await mountIn(ComputingPanel, {
      props: { system: service(OFFERED) },
      role: 'administrator',
    })
    expect(page.find('button').exists()).toBe(false)
    await page.findAll('input')[1]?.setValue(true)
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({ systems: ['billing', 'pos'] })
  })

  it('is only read by others', async () => {
    answers({ '/path': PATH })
    const { page } = await mountIn(ComputingPanel, { props: { system: service(OFFERED) }, role: 'preparer' })
    expect(page.find('fieldset').attributes('disabled')).toBeDefined()
  })

  test.each<[string, System['computesFor'], boolean]>([
    ['somebody', OFFERED, false],
    ['nobody, and it could', OFFERED.map((one) => ({ ...one, said: false })), true],
    ['nobody, since nothing sells', [], false],
    ['no service', null, false],
  ])('speaks against a plain yes where it is %s', async (_, computesFor, speaks) => {
    const { because } = connectVerdict([
      { ...service(computesFor), checks: [{ state: 'passes', blocks: true }] } as unknown as System,
    ])
    expect(because.includes('nobody said for which systems Reckoner computes')).toBe(speaks)
    answers({ '/path': PATH })
    const { page } = await mountIn(ComputingPanel, { props: { system: service(computesFor) } })
    expect(page.find('[data-computes-for-nobody]').exists()).toBe(speaks)
  })
})
