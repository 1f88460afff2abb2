import type { BatchView, CollectingView, RegistrationsView, TieOutView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { makeWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeWorld()
  await world.run('/pulls', { systemIds: null })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
})
afterAll(() => world.close())

const view = (): Promise<RegistrationsView> => world.ok('GET', `${MONTH}/registrations`)
const span = (changes: object = {}) => ({
  number: 'TDT-9',
  basis: 'cash',
  frequency: 'quarter',
  from: '2024-01-01',
  to: null,
  ...changes,
})
const expected = async (): Promise<string> =>
  (
    await world.ownerSql<{ tax: string }>(
      `select coalesce(sum(tax), 0)::text as tax from tax_fact where voice = 'expected' and agency = 'TDT'`,
    )
  )[0]?.tax ?? ''

describe('registrations and thresholds', () => {
  it('stand beside the tax that was charged for each agency', async () => {
    const { agencies, regions, currency } = await view()
    const tamarack = agencies.find((one) => one.id === 'TDT')
    expect([currency, tamarack?.holds, tamarack?.regions, tamarack?.versions]).toEqual([
      'USD',
      true,
      ['State of Tamarack'],
      [
        {
          number: expect.stringContaining('TDT-'),
          basis: 'accrual',
          frequency: 'month',
          from: '2024-01-01',
          to: null,
        },
      ],
    ])
    expect(Number(tamarack?.charged)).toBeGreaterThan(0)
    expect(agencies.find((one) => one.id === 'PTC')).toMatchObject({ holds: false, versions: [] })
    expect(regions.find((one) => one.id === 'PL')?.versions).toEqual([
      { sales: '100000.00', transactions: 200, currency: 'USD', from: '2024-01-01', to: null },
    ])
  })

  it('decide from their days on whether tax is expected, and what was agreed before stays in the trail', async () => {
    const before = await expected()
    await world.ok('PUT', `${MONTH}/registrations/TDT`, { versions: [span({ to: '2026-08-31' })] })
    expect([before === '0', await expected()]).toEqual([false, '0'])
    const { agencies } = await view()
    expect(agencies.find((one) => one.id === 'TDT')).toMatchObject({ holds: false })
    expect(Number(agencies.find((one) => one.id === 'TDT')?.charged)).toBeGreaterThan(0)
    await world.ok('PUT', `${MONTH}/registrations/TDT`, {
      versions: [span({ to: '2026-08-31' }), span({ number: 'TDT-10', from: '2026-09-01' })],
    })
    expect(await expected()).toBe(before)
    expect((await view()).agencies.find((one) => one.id === 'HCT')?.versions).toHaveLength(1)
    expect(
      (
        await world.ownerSql<{ object: string }>(
          `select object from audit_entry where action = 'changed-registration'`,
        )
      ).map((row) => row.object),
    ).toEqual(['Tamarack Department of Taxation', 'Tamarack Department of Taxation'])
    expect((await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).currency).toBe('USD')
  })

  it('keeps a threshold of either kind, and of both', async () => {
    const number = { sales: null, transactions: 50, currency: null, from: '2026-01-01', to: null }
    await world.ok('PUT', `${MONTH}/thresholds/TK`, { versions: [number] })
    expect((await view()).regions.find((one) => one.id === 'TK')?.versions).toEqual([number])
    await world.ok('PUT', `${MONTH}/thresholds/TK`, { versions: [] })
    expect((await view()).regions.map((one) => [one.id, one.versions.length])).toEqual(
      expect.arrayContaining([
        ['TK', 0],
        ['PL', 1],
        ['BK', 1],
      ]),
    )
  })

  it('hold who collects beside what is sold there, and say where both disagree', async () => {
    const rows = async (): Promise<CollectingView['rows']> =>
      (await world.ok<CollectingView>('GET', `${MONTH}/collecting`)).rows
    const of = async (id: string): Promise<CollectingView['rows'][number] | undefined> =>
      (await rows()).find((one) => one.id === id)
    const say = (
      id: string,
      answer: string,
      from = '2026-01-01',
      why: string | null = null,
    ): Promise<object> =>
      world.ok('PUT', `${MONTH}/collecting/${id}`, { versions: [{ answer, why, from, to: null }] })
    const sold = await world.ownerSql<{ kind: string; documents: string; net: string; tax: string }>(
      `select 'own' as kind, count(*)::text as documents, sum(stated_net)::text as net, sum(stated)::text as tax from unit u where u.taken and not u.voided and u.kind not in ('bill', 'supplier-credit')
         and exists (select from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id and f.voice = 'expected' and f.jurisdiction like 'TK%')`,
    )
    for (const { id } of await rows()) await world.ok('PUT', `${MONTH}/collecting/${id}`, { versions: [] })
    const tamarack = await of('TK')
    // Nobody said anything yet: whoever registered collects; where something is sold without, nobody said.
    expect(tamarack).toMatchObject({ answer: null, standing: 'agrees', registered: true, versions: [] })
    expect(await of('PL')).toMatchObject({ registered: false, standing: 'unsaid' })
    expect([
      String((tamarack?.own ?? 0) + (tamarack?.marketplace ?? 0)),
      tamarack?.net.replace('.', ''),
    ]).toEqual([sold[0]?.documents, sold[0]?.net])
    expect(Number(tamarack?.charged)).toBeGreaterThan(0)
    const { nowhere } = await world.ok<CollectingView>('GET', `${MONTH}/collecting`)
    const [left] = await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from unit u where u.document_id is not null and u.taken and not u.voided and u.kind not in ('bill', 'supplier-credit')
         and not exists (select from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id and f.voice = 'expected' and f.jurisdiction is not null)`,
    )
    expect(nowhere.documents).toBe(left?.n)
    await say('TK', 'we')
    expect(await of('TK')).toMatchObject({ answer: 'we', by: null, standing: 'agrees' })
    await say('TK', 'nobody', '2026-01-01', 'below the threshold')
    expect(await of('TK')).toMatchObject({
      standing: 'charged',
      versions: [{ answer: 'nobody', why: 'below the threshold', from: '2026-01-01', to: null }],
    })
    // Said from a later day on, it is not said of this month; said of the country, it is of its regions.
    await say('TK', 'we', '2026-10-01')
    expect(await of('TK')).toMatchObject({ answer: null, standing: 'agrees' })
    await say('XA', 'we')
    expect(await of('TK')).toMatchObject({
      answer: 'we',
      by: expect.any(String) as string,
      standing: 'agrees',
    })
    expect(await of('PL')).toMatchObject({ answer: 'we', standing: 'not-registered' })
    const { batches } = await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)
    const latest = batches.find(({ undoneBy }) => undoneBy === null)
    expect(latest).toMatchObject({ action: 'said-who-collects', canUndo: true })
    await world.run('/align/undo', { batchId: latest?.id ?? '' })
    expect(await of('TK')).toMatchObject({ answer: null })
  })

  test.each<[string, string, object, number, string]>([
    [
      'a word that is no answer',
      'collecting/TK',
      { answer: 'perhaps', from: '2026-01-01', to: null },
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'a place that there is not',
      'collecting/NONE',
      { answer: 'we', from: '2026-01-01', to: null },
      404,
      'AXION_NOT_FOUND',
    ],
    [
      'an answer that ends before it begins',
      'collecting/TK',
      { answer: 'we', from: '2026-01-01', to: '2025-01-01' },
      400,
      'AXION_BAD_REQUEST',
    ],
    ['an agency that there is not', 'registrations/NONE', span(), 422, 'AXION_BASELINE_INCONSISTENT'],
    ['no number', 'registrations/TDT', span({ number: '' }), 400, 'AXION_BAD_REQUEST'],
    [
      'an end before its beginning',
      'registrations/TDT',
      span({ to: '2020-01-01' }),
      400,
      'AXION_BAD_REQUEST',
    ],
    ['a day that there is not', 'registrations/TDT', span({ from: '2026-02-30' }), 400, 'AXION_BAD_REQUEST'],
    [
      'neither sales nor number',
      'thresholds/TK',
      { sales: null, transactions: null, currency: null, from: '2026-01-01', to: null },
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'sales without a currency',
      'thresholds/TK',
      { sales: '5.00', transactions: null, currency: null, from: '2026-01-01', to: null },
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'a region that there is not',
      'thresholds/NONE',
      { sales: '5.00', transactions: null, currency: 'USD', from: '2026-01-01', to: null },
      422,
      'AXION_BASELINE_INCONSISTENT',
    ],
  ])('refuses %s', async (_, path, version, status, code) => {
    const answer = await world.as('preparer', 'PUT', `${MONTH}/${path}`, { versions: [version] })
    expect([answer.statusCode, answer.json<{ code: string }>().code]).toEqual([status, code])
  })

  it('refuses two that hold at once, and who may only look', async () => {
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/registrations/TDT`, {
          versions: [span(), span({ number: 'B' })],
        })
      ).json(),
    ).toMatchObject({ code: 'AXION_BASELINE_OVERLAP' })
    expect((await world.as('viewer', 'PUT', `${MONTH}/registrations/TDT`, { versions: [] })).statusCode).toBe(
      403,
    )
  })
})
