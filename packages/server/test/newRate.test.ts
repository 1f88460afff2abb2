import type { BatchView, GridView, NewRateGround } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NEW_AGENCY, NEW_PLACE } from './newPlace.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
})
afterAll(() => world.close())

const ground = (): Promise<NewRateGround> => world.ok('GET', `${MONTH}/new-rate`)
const [agency, place] = [NEW_AGENCY, NEW_PLACE]
const rate = (changes: object = {}): object => ({
  code: 'WN-SALLOW',
  name: 'Sallow, Wendover',
  jurisdictions: ['WN'],
  place,
  from: '2026-09-01',
  to: null,
  ...changes,
})
const refusal = async (body: object, role = 'preparer'): Promise<string> => {
  const answer = await world.as(role, 'POST', `${MONTH}/new-rate`, body)
  const { code, facts, detail } = answer.json<{
    code: string
    facts: Record<string, string>
    detail: string
  }>()
  return answer.statusCode === 200 ? 'taken' : `${code} ${JSON.stringify(facts ?? detail)}`
}
const counts = (): Promise<object[]> =>
  world.ownerSql(
    `select (select count(*) from agency where upper_inf(recorded) and object_id = 'SLD')::int as agency, (select count(*) from jurisdiction where upper_inf(recorded) and object_id = 'WN-SAL')::int as place,
       (select count(*) from rate_version where upper_inf(recorded) and object_id = 'WN-SAL')::int as percent, (select count(*) from combined_rate where upper_inf(recorded) and object_id = 'WN-SALLOW')::int as rate,
       (select count(*) from posting_rule where upper_inf(recorded) and object_id = 'tax SLD')::int as account, (select count(*) from registration where upper_inf(recorded) and object_id = 'SLD')::int as registration`,
  )
const NONE = [{ agency: 0, place: 0, percent: 0, rate: 0, account: 0, registration: 0 }]

describe('a rate entered in one form', () => {
  it('says what it can be made of: places with their percents, agencies with account and registration, accounts that fit', async () => {
    const { places, agencies, accounts } = await ground()
    expect(places.find((one) => one.code === 'WN')).toMatchObject({ percent: '5.50', rounds: true })
    expect(agencies.find((one) => one.code === 'WRO')).toMatchObject({ account: '2210' })
    expect(accounts.map((one) => one.number)).toContain('2216')
    expect(accounts.map((one) => one.number)).not.toContain('4000')
  })

  it.each<[string, object, RegExp]>([
    ['a place that is not there', rate({ jurisdictions: ['NOWHERE'] }), /AXION_NOT_FOUND .*NOWHERE/],
    [
      'a parent that is not there',
      rate({ place: { ...place, parent: 'NOWHERE' } }),
      /AXION_NOT_FOUND .*NOWHERE/,
    ],
    ['nothing that it is of', rate({ jurisdictions: [], place: null }), /AXION_BAD_REQUEST/],
    ['a percent that is none', rate({ place: { ...place, percent: '7,5' } }), /AXION_BAD_REQUEST .*percent/],
    ['an end before its beginning', rate({ to: '2026-08-01' }), /AXION_BAD_REQUEST .*before it begins/],
    ['a code that is taken', rate({ code: 'WN-PLX' }), /AXION_ALREADY_EXISTS .*WN-PLX/],
    [
      'a rate of the same places',
      rate({ code: 'HOLLIS', jurisdictions: ['WN-HOLLIS', 'WN'], place: null }),
      /AXION_ALREADY_EXISTS .*Hollis County, rest/,
    ],
    ['on top of what it is not charged with', rate({ place: { ...place, onTopOf: ['WN-HOL'] } }), /onTopOf/],
    [
      'a region that nobody rounds',
      rate({ place: { ...place, parent: null } }),
      /AXION_BAD_REQUEST .*rounding/,
    ],
    [
      'an agency that is not there',
      rate({ place: { ...place, agency: { is: 'known', code: 'SLD' } } }),
      /AXION_NOT_FOUND .*SLD/,
    ],
    [
      'an account of income',
      rate({ place: { ...place, agency: { ...agency, account: '4000' } } }),
      /AXION_ACCOUNT_UNFIT/,
    ],
    [
      'an account that is not there',
      rate({ place: { ...place, agency: { ...agency, account: '9' } } }),
      /AXION_ACCOUNT_NOT_IN_LEDGER/,
    ],
  ])('is refused with %s, by name, and nothing of it is kept', async (_, body, said) => {
    expect(await refusal(body)).toMatch(said)
    expect(await counts()).toEqual(NONE)
  })

  it('is for who prepares', async () => expect(await refusal(rate(), 'viewer')).toMatch(/AXION_FORBIDDEN/))

  it('is taken in whole, shown in the grid, and taken back in one act', async () => {
    expect(await refusal(rate())).toBe('taken')
    expect(await counts()).toEqual([
      { agency: 1, place: 1, percent: 1, rate: 1, account: 1, registration: 1 },
    ])
    const grid = await world.ok<GridView>('GET', `${MONTH}/align/rates?search=Sallow`)
    expect(grid.rows.map((row) => [row.id, row.total, row.detail])).toEqual([
      ['WN-SALLOW', '6.35 %', '5.50 + 0.85'],
    ])
    const batches = await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)
    const latest = batches.batches[0]
    expect([latest?.action, latest?.says]).toEqual(['new-rate', 'Sallow, Wendover'])
    await world.run('/align/undo', { batchId: latest?.id })
    expect(await counts()).toEqual(NONE)
    expect((await ground()).places.some((one) => one.code === 'WN-SAL')).toBe(false)
  })
})
