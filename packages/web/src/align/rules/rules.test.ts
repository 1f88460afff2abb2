import type { FindingView, RuleDraft, RulesTried, RulesView, SpecialGroup } from '@axion/contract'
import { NO_CONDITIONS, NO_OUTCOMES } from '@axion/core'
import { flushPromises, type VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import RulesPage from './RulesPage.vue'
import { isBySource, isWhole, sayThen, sayWhen } from './words.ts'

afterEach(() => vi.unstubAllGlobals())

const kept = (code: string, name: string, text: string, account: string): RulesView['rules'][number] => ({
  code,
  name,
  when: { ...NO_CONDITIONS, text },
  then: { ...NO_OUTCOMES, account },
  from: '2026-09-01',
  to: null,
  documents: 8,
  amount: '24.50',
})
const group = (wording: string, changes: Partial<SpecialGroup> = {}): SpecialGroup => ({
  key: `billing|no-item|${wording}`,
  what: 'no-item',
  system: 'Billing',
  wording,
  documents: 8,
  amount: '56.00',
  treatments: ['Ware'],
  accounts: ['4000 Sales'],
  rules: [],
  rowId: `billing|no-item|${wording}`,
  findings: [],
  ...changes,
})
const finding = (code: FindingView['code'], left: FindingView['left'] = null): FindingView => ({
  key: code,
  code,
  severity: code === 'AXION_AMOUNT_OPEN' ? 'stops' : 'costs',
  says: `${code} it is.`,
  mend: 'Mend it.',
  system: null,
  systemId: null,
  left,
})
const VIEW: RulesView = {
  currency: 'EUR',
  standing: 's1',
  names: { H1: 'Hive' },
  total: 1,
  open: 1,
  findings: 1,
  rules: [kept('R1', 'Wrapping', 'gift wrap', '4090'), kept('R2', 'Deposits', 'deposit', '2600')],
  choices: {
    codes: [{ id: 'WARE', name: 'Ware' }],
    methods: [{ id: 'CARD', name: 'Card' }],
    dimensions: [{ id: 'Counter: CAFE', name: 'Counter: Café' }],
    regions: [{ id: 'XC', name: 'Vellmark' }],
    accounts: [
      { id: '4090', name: 'Wrapping' },
      { id: '2600', name: 'Deposits held' },
    ],
    channels: ['Own shop'],
    systems: [{ id: 'till', name: 'Tills' }],
  },
  groups: [group('Table fee', { findings: [finding('AXION_AMOUNT_OPEN')], treatments: [] })],
}
const TRIED: RulesTried = {
  currency: 'EUR',
  tried: 20000,
  of: 48000,
  changed: 31,
  booked: 2,
  taxBefore: '10.00',
  taxAfter: '12.50',
  known: { documents: 4, tax: '7.00' },
  unknown: 3,
  revision: 'v1',
  documents: [
    {
      unit: 'billing/1',
      number: 'FH-1',
      system: 'Billing',
      party: 'Hotel',
      date: '2026-09-04',
      currency: 'EUR',
      taxBefore: null,
      taxAfter: '2.50',
      booked: true,
      lines: [{ text: 'Table fee', changes: [{ field: 'Item tax code', before: '', after: 'Ware' }] }],
    },
  ],
}

async function opened(
  view: RulesView = VIEW,
  role: 'preparer' | 'viewer' = 'preparer',
): Promise<{ page: VueWrapper; asked: ReturnType<typeof answers>; press: (key: string) => Promise<void> }> {
  const asked = answers({ '/rules/try': TRIED, '/rules': view, '/names': { names: [] }, '/path': PATH })
  const { page, press } = await mountIn(RulesPage, { path: '/larkspur/2026-09/rules', role })
  return { page, asked, press }
}
const words = (page: VueWrapper): string => page.text().replace(/\s+/g, ' ')
const click = async (page: VueWrapper, name: string): Promise<void> => {
  await page
    .findAll('button')
    .find((button) => (button.attributes('aria-label') ?? button.text()).startsWith(name))
    ?.trigger('click')
  await flushPromises()
}
const order = (page: VueWrapper): string[] =>
  page.findAll('[data-rule]').map((row) => row.attributes('data-rule') ?? '')

describe('line rules', () => {
  test.each<[string, Partial<RulesView>, RegExp]>([
    ['something is open', {}, /^No: 1 kind of amount has no treatment or no account/],
    [
      'all is decided',
      { open: 0, findings: 0, groups: [group('Fee')] },
      /^Yes\. 1 kind of amount, each with a treatment and an account/,
    ],
    [
      'a cost is taxed',
      { open: 0, findings: 1, groups: [group('Fee', { findings: [finding('AXION_COST_TAXED')] })] },
      /^Nearly\. 1 finding: amounts that are taxed as they should not be/,
    ],
    [
      'nothing is there',
      { open: 0, findings: 0, total: 0, groups: [] },
      /^Yes\. Every line of the month is an item/,
    ],
  ])('says at once that %s', async (_, changes, says) => {
    const { page } = await opened({ ...VIEW, ...changes })
    expect(page.find('[data-verdict]').text().replace(/\s+/g, ' ')).toMatch(says)
  })

  it('are moved, tried on the past, and kept only as they were tried', async () => {
    const { page, asked } = await opened()
    expect(page.find('[data-keep]').exists()).toBe(false)
    await click(page, 'Move Deposits up')
    expect(order(page)).toEqual(['R2', 'R1'])
    await click(page, 'Try on the past')
    expect(page.find('[data-tried]').text().replace(/\s+/g, ' ')).toContain(
      'It would have changed 31 documents of the 20000 newest of 48000; the tax expected of them goes from 10.00 to 12.50 EUR. Of 4 the tax is known only then: 7.00 EUR. Of 3 it is not known then. 2 bookings would go elsewhere, and are offered in Post again.',
    )
    expect(words(page)).toContain('Table fee: nothing → Ware')
    await page.find('[data-keep]').trigger('click')
    await flushPromises()
    const put = asked.find((call) => call.method === 'PUT')?.body as {
      rules: RuleDraft[]
      revision: string
      standing: string
    }
    expect([put.standing, put.revision, put.rules.map((rule) => rule.code)]).toEqual([
      's1',
      'v1',
      ['R2', 'R1'],
    ])
    expect(
      asked
        .filter((call) => call.path.endsWith('/rules/try'))
        .map((call) =>
          (call.body as { rules: RuleDraft[] }).rules.map((rule) => Object.keys(rule).sort().join()),
        ),
    ).toEqual([Array(2).fill('code,from,name,then,to,when')])
  })

  it('are written for an amount that is open, and another change makes them be tried again', async () => {
    const { page, press } = await opened()
    await click(page, 'A rule for Table fee')
    const form = page.find('form.editor')
    expect((form.find('.name input').element as HTMLInputElement).value).toBe('Table fee')
    expect(form.find('button[type="submit"]').attributes('disabled')).toBeDefined()
    await form.find('[data-then="itemTaxCode"]').setValue('WARE')
    await form.trigger('submit')
    expect(words(page)).toContain('Table feenot kept yettext has “Table fee”under Ware')
    await press('t')
    expect(page.find('[data-tried]').exists()).toBe(true)
    await click(page, 'Remove Wrapping')
    expect([page.find('[data-tried]').exists(), order(page)]).toEqual([false, ['R2', '']])
    await click(page, 'Put back as it was')
    expect(order(page)).toEqual(['R1', 'R2'])
  })

  it('keep what is being written when the month moves, and are tried only from the list that stands', async () => {
    const standing = { ...VIEW }
    answers({ '/rules/try': TRIED, '/rules': standing, '/names': { names: [] }, '/path': PATH })
    const { page, month } = await mountIn(RulesPage, { path: '/larkspur/2026-09/rules' })
    await click(page, 'A rule for Table fee')
    await month.changed()
    await flushPromises()
    expect([page.find('form.editor').exists(), page.find('[data-overtaken]').exists()]).toEqual([true, false])
    await page.find('[data-then="itemTaxCode"]').setValue('WARE')
    await page.find('form.editor').trigger('submit')
    Object.assign(standing, { standing: 's2', rules: VIEW.rules.slice(0, 1) })
    await month.changed()
    await flushPromises()
    expect([
      order(page),
      page.find('[data-overtaken]').exists(),
      page
        .findAll('button')
        .find((button) => button.text().startsWith('Try'))
        ?.attributes('disabled'),
    ]).toEqual([['R1', 'R2', ''], true, ''])
    await click(page, 'Put back as it was')
    expect([order(page), page.find('[data-overtaken]').exists()]).toEqual([['R1'], false])
  })

  it('tell of each amount what was found, and leave it with a reason', async () => {
    const left = { reason: 'two suppliers', person: 'Kofi Imre', at: '2026-10-02T12:00:00Z' }
    const { page, asked } = await opened({
      ...VIEW,
      groups: [
        group('Table fee', { findings: [finding('AXION_AMOUNT_MIXED'), finding('AXION_AMOUNT_OPEN', left)] }),
        group('Fee', { findings: [finding('AXION_COST_TAXED', left)] }),
        group('Extras', { rules: ['Extras'] }),
      ],
    })
    expect(page.findAll('[data-group] .state').map((state) => state.text())).toEqual([
      'taxed on some, not on others',
      'left as it is',
      'by a rule',
    ])
    await page.find('[data-group$="Table fee"]').trigger('click')
    expect(page.findAll('.looked li').map((li) => li.text().replace(/\s+/g, ' '))).toEqual([
      'puts tax at stake AXION_AMOUNT_MIXED it is.Mend it. Leave it',
      'left AXION_AMOUNT_OPEN it is.Kofi Imre: two suppliers Take it up again',
    ])
    await click(page, 'Leave it')
    await page.find('[aria-label="Why it is left"]').setValue('a tenant pays it')
    await page.find('form.leave').trigger('submit')
    await click(page, 'Take it up again')
    expect(asked.filter((call) => call.path.endsWith('/align/left')).map((call) => call.body)).toEqual(
      [
        ['AXION_AMOUNT_MIXED', 'a tenant pays it'],
        ['AXION_AMOUNT_OPEN', null],
      ].map(([code, reason]) => ({
        kind: 'amounts',
        rowId: 'billing|no-item|Table fee',
        code,
        systemId: null,
        reason,
      })),
    )
  })

  it('are only read by who may not change them', async () => {
    const { page } = await opened(VIEW, 'viewer')
    expect(
      page
        .findAll('button')
        .filter((button) => /up|down|change|remove|a rule for it|Write/.test(button.text())),
    ).toEqual([])
  })

  test.each<[Partial<RuleDraft['when']>, string]>([
    [{ text: 'a', region: 'XC' }, 'text has “a”, in Vellmark'],
    [
      { item: 'H1', party: 'p', method: 'CARD', channel: 'Own shop' },
      'item is Hive, party is p, paid by Card, sold through Own shop',
    ],
    [
      { system: 'till', stated: 'not-taxable', saleKind: 'own-use' },
      'of Tills, flagged not taxable by its source, sold for own use',
    ],
  ])('say when: %j', (when, says) => {
    expect(sayWhen({ ...(VIEW.rules[0] as RuleDraft), when: { ...NO_CONDITIONS, ...when } }, VIEW)).toBe(says)
  })
  test.each<[Partial<RuleDraft['when']>, Partial<RuleDraft['then']>, boolean]>([
    [{ stated: 'taxable' }, { itemTaxCode: 'WARE' }, true],
    [{ stated: 'taxable' }, { item: 'H1' }, true],
    [{ stated: 'taxable' }, { account: '4090' }, false],
    [{ text: 'a' }, { itemTaxCode: 'WARE' }, false],
  ])('say whether their source decides: %j, %j', (when, then, bySource) => {
    const rule = {
      ...(VIEW.rules[0] as RuleDraft),
      when: { ...NO_CONDITIONS, ...when },
      then: { ...NO_OUTCOMES, ...then },
    }
    expect(isBySource(rule)).toBe(bySource)
  })
  it('say what comes out, and whether they are whole', () => {
    const rule = {
      ...(VIEW.rules[0] as RuleDraft),
      then: { item: 'H1', itemTaxCode: 'WARE', account: '4090', dimension: 'Counter: CAFE' },
    }
    expect(sayThen(rule, VIEW)).toBe('counts as Hive, under Ware, to 4090 Wrapping, Counter: Café')
    expect(
      [rule, { ...rule, name: ' ' }, { ...rule, when: NO_CONDITIONS }, { ...rule, then: NO_OUTCOMES }].map(
        isWhole,
      ),
    ).toEqual([true, false, false, false])
  })
})
