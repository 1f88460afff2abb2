import type {
  BaselineInput,
  DecisionsView,
  MonthsView,
  SeenView,
  TieOutSums,
  TieOutView,
} from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readBaseline } from '../src/baseline/read.ts'
import { inEntity } from '../src/database/connection.ts'
import { makeWorld, MONTH, type World } from './world.ts'

/** A baseline drafted from the demo's own systems, by somebody who has none: taken decision by decision, and taken back. */
const NOTHING: BaselineInput = {
  ...{ agencies: [], jurisdictions: [], rateVersions: [], combinedRates: [], itemTaxCodes: [], items: [] },
  ...{ codeRules: [], registrations: [], roundings: [], postingRules: [] },
}
let world: World
beforeAll(async () => {
  world = await makeWorld({ baseline: NOTHING })
  await world.run('/pulls', { systemIds: null })
})
afterAll(() => world.close())

/** Whether any month is proved but as systems have it. */
const restingMonths = async (): Promise<boolean[]> => [
  ...new Set(
    (await world.ok<MonthsView>('GET', '/api/entities/larkspur/months')).months.map(({ resting }) => resting),
  ),
]
const read = (): Promise<DecisionsView> => world.ok('GET', `${MONTH}/decisions`)

/** @param answers which answer of a decision, where it is not the first */
const take = (
  view: DecisionsView,
  keys: readonly string[],
  answers: Readonly<Record<string, number>> = {},
): Promise<{ taken: number }> =>
  world.ok('POST', `${MONTH}/decisions`, {
    revision: view.revision,
    take: keys.map((key) => ({
      key,
      option: view.decisions.find((one) => one.key === key)?.options[answers[key] ?? 0]?.key ?? '',
    })),
  })
const takeBack = async (action = 'decided'): Promise<void> => {
  const { batches } = await world.ok<{ batches: { id: string; action: string; canUndo: boolean }[] }>(
    'GET',
    `${MONTH}/align/batches`,
  )
  const [latest] = batches
  expect([latest?.action, latest?.canUndo]).toEqual([action, true])
  await world.run('/align/undo', { batchId: latest?.id ?? '' })
}
const standing = async (table: 'agency' | 'jurisdiction'): Promise<string[]> =>
  (
    await world.ownerSql<{ id: string }>(
      `select object_id as id from ${table} where entity_id = 'larkspur' and upper_inf(recorded) order by 1`,
    )
  ).map(({ id }) => id)
const percentOf = async (place: string): Promise<string | undefined> =>
  (
    await world.ownerSql<{ percent: string }>(
      `select percent::float::text as percent from rate_version where entity_id = 'larkspur' and object_id = $1 and upper_inf(recorded)`,
      [place],
    )
  )[0]?.percent

describe('a draft of a business that has no baseline', () => {
  it('explains what its systems charged, says what they agree upon, and asks for what no system can tell', async () => {
    const view = await read()
    expect([view.documents, view.explained.now]).toEqual([144, 0])
    // What somebody typed by hand is nobody's rate.
    expect([view.explained.drafted, view.unexplained.map(({ number }) => number)]).toEqual([
      143,
      ['LA-20957'],
    ])
    // What is not in the baseline yet cannot be answered for.
    expect(view.asked).toMatchObject({
      registrations: [],
      certificates: [],
      later: { registrations: 7, certificates: 6 },
    })
    const by = (key: string) => view.decisions.find((one) => one.key === key)
    expect(by('place:XA-WN')).toMatchObject({
      standing: 'agreed',
      options: [{ systems: ['Billing', 'Ledger'] }],
    })
    expect(by('place:XA-BK')?.options[0]?.says).toBe(
      '4.25 % from 2026-09-01, 4.50 % from 2026-09-16; in the whole region; owed to Brackenshire Revenue Department',
    )
    // The ledger's Hollis County Tresurer, and its percent of before September in one of its rates.
    expect(by('agency:HCT')).toMatchObject({
      standing: 'open',
      called: ['Hollis County Tresurer', 'Hollis County Treasurer'],
    })
    expect(
      by('place:XA-WN-HOLLIS-COUNTY')?.options.map(({ says, systems }) => [says.split(';')[0], systems]),
    ).toEqual([
      ['1.45 % from 2026-09-01', ['Billing', 'Ledger']],
      ['1.25 % from 2026-09-01', ['Ledger']],
    ])
    expect(by('rate:BK-TOOLS')).toMatchObject({ standing: 'open', options: [] })
    expect(view.decisions.some(({ about, standing }) => about === 'code' && standing === 'agreed')).toBe(
      false,
    )
  })

  it('is taken with what it rests on, in one act that is taken back in one', async () => {
    const before = await read()
    // Hollis County is another's name nearly, and its percent is not the same everywhere: nobody's answer is taken along.
    const needed = ['agency:HCT', 'place:XA-WN-HOLLIS-COUNTY']
    expect(before.decisions.find(({ key }) => key === 'rate:WN-FEN')?.waitsFor).toEqual([
      'Hollis County',
      'Hollis County Treasurer',
    ])
    await expect(take(before, ['rate:WN-FEN'])).rejects.toThrow(
      'Hollis County, which is to be answered first',
    )
    const { taken } = await take(before, ['rate:WN-FEN', ...needed])
    // The rate, its three places with the country around them, and their agencies.
    expect(taken).toBe(8)
    expect(await standing('agency')).toEqual(['BTD', 'HCT', 'WRO'])
    expect(await standing('jurisdiction')).toEqual([
      'XA',
      'XA-WN',
      'XA-WN-BRANDT-TRANSIT',
      'XA-WN-HOLLIS-COUNTY',
    ])
    const links = await world.ownerSql<{ n: string }>(
      `select count(*)::text as n from link where entity_id = 'larkspur'`,
    )
    expect(links).toEqual([{ n: '8' }])
    const after = await read()
    expect(after.decisions.some(({ key }) => ['rate:WN-FEN', 'agency:WRO', 'place:XA'].includes(key))).toBe(
      false,
    )
    expect(after.explained.drafted).toBe(143)
    await takeBack()
    expect([await standing('agency'), await standing('jurisdiction')]).toEqual([[], []])
    expect((await read()).revision).toBe(before.revision)
  })

  it('is taken by the answer that was chosen', async () => {
    const view = await read()
    await take(view, ['agency:HCT', 'place:XA-WN-HOLLIS-COUNTY'], { 'place:XA-WN-HOLLIS-COUNTY': 1 })
    expect(await percentOf('XA-WN-HOLLIS-COUNTY')).toBe('1.25')
    expect((await read()).explained.drafted).toBeLessThan(143)
    await takeBack()
  })

  it('refuses what is not what was seen, what nothing can be drafted of, and whoever only looks', async () => {
    const view = await read()
    const refused = async (body: object, role = 'preparer'): Promise<unknown> => {
      const answer = await world.as(role, 'POST', `${MONTH}/decisions`, body)
      return [answer.statusCode, answer.json<{ code: string }>().code]
    }
    const one = { key: 'agency:WRO', option: 'one' }
    expect(await refused({ revision: 'another', take: [one] })).toEqual([409, 'AXION_STALE'])
    for (const odd of [
      { key: 'rate:BK-TOOLS', option: 'made' },
      { key: 'agency:WRO', option: 'two' },
      { key: 'agency:NOBODY', option: 'one' },
    ])
      expect(await refused({ revision: view.revision, take: [odd] })).toEqual([404, 'AXION_NOT_FOUND'])
    expect(await refused({ revision: view.revision, take: [one] }, 'viewer')).toEqual([
      403,
      'AXION_FORBIDDEN',
    ])
    expect(await standing('agency')).toEqual([])
  })

  it('comes to a baseline that explains as much as was said, and leaves to be decided what nobody can', async () => {
    const view = await read()
    await take(
      view,
      view.decisions.filter(({ options }) => options.length > 0).map(({ key }) => key),
    )
    const after = await read()
    expect([after.explained.now, after.explained.drafted]).toEqual([143, 143])
    expect(after.decisions.map(({ key }) => key).sort()).toEqual([
      'rate:BK-FUEL',
      'rate:BK-TOOLS',
      'rate:XB-SO',
    ])
  })

  it('is answered for what no system can tell: all of it in one act, or none', async () => {
    const { asked } = await read()
    expect([asked.registrations.length, asked.certificates.length, asked.later]).toEqual([
      7,
      6,
      { registrations: 0, certificates: 0 },
    ])
    // Largest money first.
    const charged = asked.registrations.map((one) => Number(one.charged))
    expect(charged).toEqual([...charged].sort((a, b) => b - a))
    const answers = {
      registrations: asked.registrations.map(({ agency }) => ({
        ...{ agency, number: `No ${agency}`, from: '2026-01-01' },
      })),
      certificates: asked.certificates.map(({ party, regions }) => ({
        // Two of them bear one number, as forms do that a bookseller prints.
        ...{ party, number: 'ST-5', from: '2026-01-01', to: null },
        regions: regions.length > 0 ? regions : asked.regions.slice(0, 1).map(({ id }) => id),
      })),
    }
    const answer = async (body: object, role = 'preparer'): Promise<unknown> => {
      const { statusCode, json } = await world.as(role, 'POST', `${MONTH}/decisions/answers`, body)
      return [statusCode, statusCode === 200 ? null : json<{ code: string }>().code]
    }
    const [first] = answers.registrations
    const [claim] = answers.certificates
    expect(await answer(answers, 'viewer')).toEqual([403, 'AXION_FORBIDDEN'])
    expect(await answer({})).toEqual([400, 'AXION_BAD_REQUEST'])
    for (const odd of [
      { ...answers, registrations: [...answers.registrations, first] },
      { registrations: [{ ...first, agency: 'NOBODY' }] },
      { ...answers, certificates: [{ ...claim, party: 'nobody' }] },
    ])
      expect(await answer(odd)).toEqual([409, 'AXION_STALE'])
    // It ends before it begins.
    expect(await answer({ certificates: [{ ...claim, to: '2025-12-31' }] })).toEqual([
      400,
      'AXION_BAD_REQUEST',
    ])
    expect(await answer({ certificates: [{ ...claim, regions: ['nowhere'] }] })).toEqual([
      422,
      'AXION_BASELINE_INCONSISTENT',
    ])
    expect((await read()).asked).toEqual(asked)
    expect(await answer(answers)).toEqual([200, null])
    const after = await read()
    expect([after.asked.registrations, after.asked.certificates]).toEqual([[], []])
    expect(await answer({ registrations: [first] })).toEqual([409, 'AXION_STALE'])
    await takeBack('answered')
    expect((await read()).asked).toEqual(asked)
  })

  it('stands on the word of systems until somebody reads an agency’s own text, and again once it is changed', async () => {
    const seen = (): Promise<SeenView> => world.ok('GET', `${MONTH}/decisions/seen`)
    const check = async (body: object, role = 'preparer'): Promise<unknown> => {
      const { statusCode, json } = await world.as(role, 'POST', `${MONTH}/decisions/seen`, body)
      return [statusCode, statusCode === 200 ? null : json<{ code: string }>().code]
    }
    const standings = ({ groups }: SeenView, id: string): string[] => [
      ...new Set(groups.find((group) => group.id === id)?.things.map(({ standing }) => standing)),
    ]
    const { registrations } = (await read()).asked
    await world.ok('POST', `${MONTH}/decisions/answers`, {
      registrations: registrations.map(({ agency }) => ({ agency, number: agency, from: '2026-01-01' })),
    })
    const before = await seen()
    expect(before.groups.flatMap(({ things }) => things.map(({ standing }) => standing))).not.toContain(
      'changed',
    )
    expect(new Set(before.groups.flatMap(({ things }) => things.map(({ standing }) => standing)))).toEqual(
      new Set(['seen', 'alone']),
    )
    const county = before.groups.find(({ id }) => id === 'HCT') as SeenView['groups'][number]
    expect(county.things.map(({ says }) => says).join()).toContain('Hollis County: 1.45 % from')
    // What no system states was read from the documents of one.
    for (const { things } of before.groups)
      for (const { standing, seenIn } of things) expect(seenIn.length).toBe(standing === 'seen' ? 2 : 1)
    const whole = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    expect(whole.resting).toEqual({ ...before.resting, ownWord: true })
    const alone = new Set(
      before.groups.flatMap(({ things }) =>
        things.flatMap(({ standing, seenIn }) => (standing === 'alone' ? seenIn : [])),
      ),
    )
    const own = (): Promise<TieOutSums> => world.ok('GET', `${MONTH}/tie-out/sums?show=own-word`)
    // In XA-PL nobody levies anything: what is sold there rests on no rule.
    const [said] = await world.ownerSql<{ documents: number }>(
      `select count(*)::int as documents from unit u join system s using (entity_id, system_id) join document d using (entity_id, system_id, document_id)
       where u.period = '2026-09' and u.posted and s.name = any($1::text[]) and d.value->'shipTo'->>'region' <> 'XA-PL'`,
      [[...alone]],
    )
    expect([alone.size, (await own()).documents]).toEqual([1, said?.documents])
    expect(await restingMonths()).toEqual([true])
    expect([Number(whole.resting?.tax) > 0, Number(whole.resting?.tax) <= Number(whole.expected)]).toEqual([
      true,
      true,
    ])

    const one = { id: 'HCT', revision: county.revision, against: 'Rate table 7', on: '2026-09-02' }
    expect(await check({ checks: [one] }, 'viewer')).toEqual([403, 'AXION_FORBIDDEN'])
    expect(await check({ checks: [{ ...one, revision: 'another' }] })).toEqual([409, 'AXION_STALE'])
    expect(await check({ checks: [{ ...one, on: '2199-01-01' }] })).toEqual([400, 'AXION_BAD_REQUEST'])
    expect(await check({ checks: [one, one] })).toEqual([409, 'AXION_STALE'])
    expect(standings(await seen(), 'HCT')).not.toContain('checked')
    expect(await check({ checks: [one] })).toEqual([200, null])
    expect(standings(await seen(), 'HCT')).toEqual(['checked'])
    // What was seen before it was checked is not what stands there now.
    expect(await check({ checks: [one] })).toEqual([409, 'AXION_STALE'])

    const bring = async (group: string, content: string, role = 'preparer'): Promise<number> => {
      const to = new URLSearchParams({ group, name: 'table 7.pdf' }).toString()
      const brought = await world.upload(role, `${MONTH}/decisions/seen/files?${to}`, Buffer.from(content))
      return brought.statusCode
    }
    const pdf = '%PDF-1.4\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF\n'
    expect([
      await bring('HCT', pdf, 'viewer'),
      await bring('NOBODY', pdf),
      await bring('HCT', 'no document'),
      await bring('HCT', pdf),
    ]).toEqual([403, 404, 422, 200])
    const beside = async (): Promise<readonly string[][]> =>
      (await seen()).groups
        .filter(({ files }) => files.length > 0)
        .map(({ id, files }) => [id, ...files.map(({ name }) => name)])
    expect(await beside()).toEqual([['HCT', 'table 7.pdf']])

    const now = (await seen()).groups.find(({ id }) => id === 'HCT')?.revision ?? ''
    expect(await check({ checks: [{ ...one, revision: now }] })).toEqual([409, 'AXION_NOTHING_TO_DO'])

    const all = (await seen()).groups.filter(({ id }) => id !== 'HCT')
    expect(await check({ checks: all.map(({ id, revision }) => ({ ...one, id, revision })) })).toEqual([
      200,
      null,
    ])
    expect((await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).resting).toBeNull()
    expect([await restingMonths(), (await own()).documents]).toEqual([[false], 0])

    const baseline = await inEntity(world.services.database, 'larkspur', readBaseline)
    await world.ok('PUT', `${MONTH}/baseline`, {
      ...baseline,
      rateVersions: baseline.rateVersions.map((version) =>
        version.jurisdiction === 'XA-WN-HOLLIS-COUNTY' ? { ...version, percent: '1.5' } : version,
      ),
    })
    const after = await seen()
    const changed = after.groups.find(({ id }) => id === 'HCT')
    expect(changed?.things.find(({ says }) => says.includes('1.50 %'))).toMatchObject({
      standing: 'changed',
      checked: { against: 'Rate table 7', on: '2026-09-02' },
    })
    expect([after.resting?.things, after.resting?.alone]).toEqual([1, '0.00'])
  })
})

it.each([
  ['ledger and billing', {}, []],
  // A rate that nobody used, and a code that a shop spells otherwise.
  [
    'tills, shops and purchasing beside them',
    { others: otherSystems(SEED) },
    ['rate:MERROW-COUNTY', 'code:CLOTHES'],
  ],
])(
  'has nothing to say again of a baseline that stands, before a single link: %s',
  async (_, options, odd) => {
    const settled = await makeWorld(options)
    try {
      await settled.run('/pulls', { systemIds: null })
      const view = await settled.ok<DecisionsView>('GET', `${MONTH}/decisions`)
      const again = view.decisions.filter(({ about }) =>
        ['agency', 'place', 'rate', 'code', 'rounding', 'region', 'posting'].includes(about),
      )
      expect(again.map(({ key }) => key)).toEqual(odd)
      // Nothing is drafted that explains less.
      expect(view.explained.drafted).toBeGreaterThanOrEqual(view.explained.now)
      // What somebody entered is on their own word.
      expect(await settled.ok<SeenView>('GET', `${MONTH}/decisions/seen`)).toMatchObject({
        resting: null,
        groups: [],
      })
    } finally {
      await settled.close()
    }
  },
)
