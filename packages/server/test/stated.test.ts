import type {
  LastFullProof,
  SaleView,
  MonthsView,
  RuleDraft,
  RulesTried,
  RulesView,
  TieOutSums,
  TieOutView,
} from '@axion/contract'
import { FERNHOLLOW, baselineOf, billingOf, ledgerOf } from '@axion/demo'
import { selectorText } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { bookAll, makeWorld, MONTH, type World } from './world.ts'
import { draft } from './ruleDrafts.ts'

interface Wire {
  readonly resource: string
  readonly id: string
  readonly value: {
    readonly number: string
    readonly kind?: string
    readonly lines: readonly {
      readonly id: string
      readonly description: string
      readonly taxRateId: string | null
    }[]
  }
}
const WRAPPING = 'Gift wrapping'
const wraps = ({ resource, value }: Wire): boolean =>
  resource === 'documents' && value.lines.some(({ description }) => description === WRAPPING)

/** A tea house whose billing flags lines by itself, types its wrapping in by hand, and takes some tea for its own office. */
let world: World
let flagged: readonly string[]
let wrapped: readonly string[]
let own: string
let overridden: string
beforeAll(async () => {
  const billing = billingOf(FERNHOLLOW, 5, 'http://127.0.0.1:1')
  const objects = billing.objects as unknown as readonly Wire[]
  const all = objects.filter(wraps)
  ;[wrapped, flagged] = [all, all.slice(0, 2)].map((of) => of.map(({ value }) => value.number)) as [
    string[],
    string[],
  ]
  own = objects.find((one) => one.resource === 'documents' && !wraps(one))?.value.number ?? ''
  overridden =
    objects.find(
      (one) =>
        one.resource === 'documents' &&
        one.value.kind === 'invoice' &&
        one.value.number !== own &&
        !wraps(one) &&
        one.value.lines.every(({ taxRateId }) => taxRateId !== null),
    )?.value.number ?? ''
  const stated = ({ resource, id, value }: Wire): Wire => ({
    ...{ resource, id },
    value: {
      ...value,
      ...(resource === 'documents' && value.number === own ? { saleKind: 'own-use' } : {}),
      ...(resource === 'documents' && value.number === overridden
        ? {
            lines: value.lines.map((line) => ({
              ...line,
              taxRateId: null,
              overridden: { by: 'Mara Quist', why: 'a school', at: null },
            })),
          }
        : {}),
      ...(resource === 'documents' && flagged.includes(value.number)
        ? {
            lines: value.lines.map((line) => ({ ...line, taxableFlag: line.description !== WRAPPING })),
          }
        : {}),
    },
  })
  world = await makeWorld({
    baseline: { ...baselineOf(FERNHOLLOW), rules: [] },
    ledger: ledgerOf(FERNHOLLOW),
    billing: { ...billing, objects: objects.map(stated) as unknown as typeof billing.objects },
    currency: 'EUR',
  })
  await world.run('/pulls', { systemIds: null })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
})
afterAll(() => world.close())

const FLAG = draft(
  'As it is flagged',
  { system: 'billing', text: 'wrapping', stated: 'not-taxable' },
  { itemTaxCode: 'DEPOSIT' },
)
const TEXT = draft('Wrapping is ware', { text: 'wrapping' }, { item: 'POT-6' })
const OWN = draft('For the office', { saleKind: 'own-use' }, { itemTaxCode: 'DEPOSIT' })

const view = (): Promise<RulesView> => world.ok('GET', `${MONTH}/rules`)
async function keep(rules: readonly RuleDraft[]): Promise<RulesTried> {
  const { standing } = await view()
  const tried = await world.ok<RulesTried>('POST', `${MONTH}/rules/try`, { standing, rules })
  await world.ok('PUT', `${MONTH}/rules`, { standing, rules, revision: tried.revision })
  return tried
}
/** Of a document: whether the baseline answers for it, and what it finds. */
const found = async (number: string): Promise<readonly [boolean, readonly string[]]> => {
  const [unit] = await world.ownerSql<{ complete: boolean; codes: string[] }>(
    `select expected_complete as complete, array(select distinct f->>'code' from jsonb_array_elements(findings) f) as codes from unit where number = $1`,
    [number],
  )
  return [unit?.complete ?? false, unit?.codes ?? []]
}
const ownWord = (): Promise<TieOutSums> => world.ok('GET', `${MONTH}/tie-out/sums?show=own-word`)
const resting = async (): Promise<readonly unknown[]> => [
  (await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).resting?.ownWord ?? null,
  (await world.ok<MonthsView>('GET', '/api/entities/larkspur/months')).months
    .filter(({ resting: rests }) => rests)
    .map(({ month }) => month),
]

describe('what a source says of its own documents', () => {
  it('decides nothing until a rule says so: a sale of another kind is open, and a line without an item too', async () => {
    expect(await found(own)).toEqual([false, ['AXION_SALE_KIND_OPEN']])
    expect(await found(flagged[0] ?? '')).toEqual([false, ['AXION_NO_ITEM_TAX_CODE']])
    expect([(await ownWord()).documents, await resting()]).toEqual([0, [null, []]])
  })

  test.each([
    ['a system that was never connected', draft('x', { system: 'nowhere' }, { itemTaxCode: 'WARE' }), 404],
    ['an item that there is not', draft('x', { text: 'wrapping' }, { item: 'NONE' }), 422],
    ['a flag of its own making', draft('x', { stated: 'maybe' as 'taxable' }, { itemTaxCode: 'WARE' }), 400],
  ])('is refused with %s', async (_, rule, status) => {
    const { standing } = await view()
    const answer = await world.as('preparer', 'POST', `${MONTH}/rules/try`, { standing, rules: [rule] })
    expect(answer.statusCode).toBe(status)
  })

  it('names an item by its text: the line is that item from then on, and no amount without one', async () => {
    const tried = await keep([TEXT])
    expect([tried.changed, tried.unknown]).toEqual([wrapped.length, 0])
    expect(tried.documents[0]?.lines[0]?.changes).toEqual([
      { field: 'Item', before: '', after: 'Stoneware pot, six cups' },
      { field: 'Item tax code', before: '', after: 'Ware for the table' },
    ])
    const { rules, groups } = await view()
    expect(rules.map(({ documents }) => documents)).toEqual([wrapped.length])
    expect(groups.filter(({ wording }) => wording === WRAPPING)).toEqual([])
    expect(await found(flagged[0] ?? '')).toEqual([true, []])
    // What a rule says by its text is the accountant's word, and no source's.
    expect([(await ownWord()).documents, await resting()]).toEqual([0, [null, []]])
  })

  it('goes by its flag where that is agreed: agreed, and checked by nobody', async () => {
    await keep([FLAG, { ...TEXT, code: 'R1' }])
    const sums = await ownWord()
    expect([sums.documents, await resting()]).toEqual([flagged.length, [true, ['2026-09']]])
    const listed = await world.ok<TieOutView>('GET', `${MONTH}/tie-out?show=own-word`)
    expect([...new Set(listed.rows.map(({ number }) => number))].sort()).toEqual([...flagged].sort())
    // Those lines are what their text says they are, under the code that their flag gives them.
    expect((await view()).rules.map(({ documents }) => documents)).toEqual([flagged.length, wrapped.length])
  })

  it('says what a sale for own use stands under, and is no longer open', async () => {
    const before = (await view()).rules.map(({ documents: _, amount: __, ...rule }) => rule)
    await keep([...before, OWN])
    expect(await found(own)).toEqual([true, []])
  })

  it('is said where a sale is asked for: what it would bear passes over what nobody asked about', async () => {
    const asked = async (date: string): Promise<readonly string[]> =>
      (
        await world.ok<SaleView>(
          'GET',
          `${MONTH}/sale?country=XC&kind=goods&quantity=1&amount=10.00&date=${date}`,
        )
      ).passedOver
    expect([await asked('2026-09-15'), await asked('2026-08-31')]).toEqual([[FLAG.name, OWN.name], []])
  })

  it('tells who put another tax in the place of its own, and why, on the document and as its cause', async () => {
    const view = await world.ok<TieOutView>('GET', `${MONTH}/tie-out?show=overridden`)
    expect([view.overridden, [...new Set(view.rows.map(({ number }) => number))]]).toEqual([
      true,
      [overridden],
    ])
    // The cause of what is charged is looked for once it is booked as it was charged.
    await world.run('/post/rehearsal')
    await bookAll(world)
    const told = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    const cause = told.causes.find(({ facts }) => facts.kind === 'override')
    expect(cause).toMatchObject({
      facts: { kind: 'override', by: 'Mara Quist', why: 'a school' },
      documents: 1,
    })
    const [unit] = view.rows
    const evidence = await world.as(
      'viewer',
      'GET',
      `${MONTH}/evidence?open=${encodeURIComponent(selectorText({ of: 'total', unit: unit?.unit ?? '' }))}`,
    )
    expect(evidence.body).toContain('its tax put in by Mara Quist: “a school”')
  })

  it('is the same after a full proof, and gone with its rule', async () => {
    await world.finish(await world.begin('/full-proof'))
    const { last } = await world.ok<LastFullProof>('GET', `${MONTH}/full-proof`)
    expect([last?.stands, last?.full.otherwise, last?.full.miscounted]).toEqual([true, 0, 0])
    await keep([])
    expect([(await ownWord()).documents, await resting()]).toEqual([0, [null, []]])
  })
})
