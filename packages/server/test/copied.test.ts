import {
  COPIED_KINDS,
  type AgreedPreview,
  type BaselineImport,
  type BatchView,
  type CopyChoice,
  type CopySources,
  type CopyStanding,
  type CopyVersion,
  type CopyView,
  type SeenView,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { compare } from '../src/align/copied/compare.ts'
import { thingsOf } from '../src/align/copied/things.ts'
import { readBaseline } from '../src/baseline/read.ts'
import { inEntity } from '../src/database/connection.ts'
import { perform } from '../src/runs/perform.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

/** What agencies say and how codes are named, taken from one legal entity of a practice by another, and followed. */
const THORNBURY = '/api/entities/thornbury/months/2026-09'
const COPIED = `${THORNBURY}/copied`
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
  await world.as('administrator', 'POST', '/api/entities', {
    ...{ id: 'thornbury', name: 'Thornbury', country: 'XA', currency: 'USD' },
    ...{ timeZone: 'UTC', locale: 'en-US' },
  })
  for (const role of ['preparer', 'stranger'])
    await world.as('administrator', 'PUT', '/api/entities/thornbury/members', {
      email: `${role}@example.org`,
      role: 'preparer',
    })
})
afterAll(() => world.close())

const baselineOf = (entity: string): Promise<BaselineImport> =>
  inEntity(world.services.database, entity, readBaseline)
const shared = (baseline: BaselineImport): object =>
  Object.fromEntries(
    COPIED_KINDS.map((kind) => [kind, [...baseline[kind]].map((one) => JSON.stringify(one)).sort()]),
  )
const look = (from = 'larkspur'): Promise<CopyView> => world.ok('GET', `${COPIED}/${from}`)
const sources = async (who = 'preparer'): Promise<CopySources> =>
  (await world.as(who, 'GET', COPIED)).json<CopySources>()
const take = async (choice: CopyChoice, follows = true): Promise<{ taken: number }> => {
  const { revision } = await world.ok<AgreedPreview>('POST', `${COPIED}/larkspur/preview`, { choice })
  return world.ok('POST', `${COPIED}/larkspur`, { choice, follows, revision })
}
const takeBack = async (): Promise<void> => {
  const { batches } = await world.ok<{ batches: BatchView[] }>('GET', `${THORNBURY}/align/batches`)
  const latest = batches.find(({ undoneBy }) => undoneBy === null)
  expect(latest).toMatchObject({ action: 'copied', canUndo: true })
  const { run: runId } = await world.ok<{ run: string }>('POST', `${THORNBURY}/align/undo`, {
    batchId: latest?.id ?? '',
  })
  const state = async (): Promise<string> =>
    (await world.ok<{ state: string }>('GET', `/api/entities/thornbury/runs/${runId}`)).state
  for (let slices = 0; slices < 20 && (await state()) !== 'done'; slices++)
    await perform(world.services, { entityId: 'thornbury', runId })
  expect(await state()).toBe('done')
}
/** Another percent of a place, in whichever legal entity. */
const setPercent = async (entity: string, percent: string): Promise<void> => {
  const now = await baselineOf(entity)
  await world.ok('PUT', `/api/entities/${entity}/months/2026-09/baseline`, {
    ...now,
    rateVersions: now.rateVersions.map((one) => (one.jurisdiction === 'WN' ? { ...one, percent } : one)),
  })
}
const text = (versions: readonly CopyVersion[]): string => versions.map(({ says }) => says).join()
const standings = async (): Promise<unknown[]> =>
  (await look()).rows.map(({ key, standing, here, there }) => [key, standing, text(here), text(there)])
const refusal = async (
  who: string,
  method: 'GET' | 'POST' | 'PUT',
  path: string,
  body?: object,
): Promise<unknown[]> => {
  const answer = await world.as(who, method, path, body)
  return [answer.statusCode, answer.json<{ code?: string }>().code]
}

describe('a copy of another legal entity’s baseline', () => {
  it('is offered to whoever is a member of both, and to nobody else by name', async () => {
    expect(await sources()).toEqual({
      sources: [
        { id: 'larkspur', name: expect.any(String) as string, taken: null, waiting: null, away: null },
      ],
      unseen: 0,
    })
    expect(await sources('stranger')).toEqual({ sources: [], unseen: 0 })
    expect(await refusal('stranger', 'GET', `${COPIED}/larkspur`)).toEqual([404, 'AXION_NOT_FOUND'])
    expect(await refusal('viewer', 'GET', COPIED)).toEqual([404, 'AXION_NOT_FOUND'])
    expect(await refusal('preparer', 'GET', `${COPIED}/thornbury`)).toEqual([404, 'AXION_NOT_FOUND'])
    const choice = { standings: ['new'] }
    expect(await refusal('viewer', 'POST', `${MONTH}/copied/thornbury/preview`, { choice })).toEqual([
      403,
      'AXION_FORBIDDEN',
    ])
    expect(await refusal('preparer', 'PUT', `${COPIED}/larkspur`, { follows: true })).toEqual([
      404,
      'AXION_NOT_FOUND',
    ])
  })

  it('takes what agencies say and how codes are named, nothing of a client’s own, and is taken back in one', async () => {
    const view = await look()
    expect(view.counts).toEqual({
      new: view.rows.length + view.more,
      changed: 0,
      differs: 0,
      gone: 0,
      own: 0,
      off: 0,
    })
    expect(await take({ standings: ['new'] })).toMatchObject({ taken: view.counts.new })
    const [theirs, ours] = [await baselineOf('larkspur'), await baselineOf('thornbury')]
    expect(shared(ours)).toEqual(shared(theirs))
    for (const kind of [
      'registrations',
      'parties',
      'certificates',
      'items',
      'postingRules',
      'locations',
      'rules',
    ] as const)
      expect([kind, ours[kind]]).toEqual([kind, []])
    expect(await look()).toMatchObject({ same: view.counts.new, rows: [], taken: { follows: true } })
    expect((await sources()).sources).toMatchObject([
      { taken: { person: 'preparer', follows: true }, waiting: 0 },
    ])
    // Whoever is no member there is told that something is followed, and not what.
    expect(await sources('stranger')).toEqual({ sources: [], unseen: 1 })
    expect(
      await refusal('preparer', 'POST', `${COPIED}/larkspur/preview`, { choice: { standings: ['new'] } }),
    ).toEqual([409, 'AXION_NOTHING_TO_DO'])
    await takeBack()
    expect(shared(await baselineOf('thornbury'))).toEqual(
      shared({ ...ours, ...Object.fromEntries(COPIED_KINDS.map((kind) => [kind, []])) }),
    )
    expect(await sources()).toMatchObject({ sources: [{ taken: null }], unseen: 0 })
  })

  it('is refused where what it needs is not taken with it, or where it changed since it was looked at', async () => {
    expect(
      await refusal('preparer', 'POST', `${COPIED}/larkspur/preview`, {
        choice: { keys: ['rateVersions WN'] },
      }),
    ).toEqual([422, 'AXION_BASELINE_INCONSISTENT'])
    expect(
      await refusal('preparer', 'POST', `${COPIED}/larkspur/preview`, { choice: { keys: ['items HIVE'] } }),
    ).toEqual([404, 'AXION_NOT_FOUND'])
    const choice = { standings: ['new'] as const }
    const { revision } = await world.ok<AgreedPreview>('POST', `${COPIED}/larkspur/preview`, { choice })
    await setPercent('larkspur', '5.6')
    expect(
      await refusal('preparer', 'POST', `${COPIED}/larkspur`, { choice, follows: true, revision }),
    ).toEqual([409, 'AXION_STALE'])
    await setPercent('larkspur', '5.5')
    expect(shared(await baselineOf('thornbury'))).not.toEqual(shared(await baselineOf('larkspur')))
  })

  it('says of what is followed what changed there, and leaves alone what changed here', async () => {
    await take({ standings: ['new'] })
    await setPercent('larkspur', '5.6')
    expect(await standings()).toEqual([
      ['rateVersions WN', 'changed', expect.stringContaining('5.5'), expect.stringContaining('5.6')],
    ])
    expect((await sources()).sources).toMatchObject([{ waiting: 1 }])
    expect(await take({ standings: ['changed'] }, false)).toMatchObject({ taken: 1 })
    expect(await standings()).toEqual([])
    // It is followed no more: nothing waits, whatever changes.
    await setPercent('larkspur', '5.7')
    expect((await sources()).sources).toMatchObject([{ taken: { follows: false }, waiting: null }])
    await world.ok('PUT', `${COPIED}/larkspur`, { follows: true })
    expect((await sources()).sources).toMatchObject([{ taken: { follows: true }, waiting: 1 }])
    // Changed on both sides: nobody's is taken for the other's.
    await setPercent('thornbury', '5.9')
    expect(await standings()).toEqual([
      ['rateVersions WN', 'differs', expect.stringContaining('5.9'), expect.stringContaining('5.7')],
    ])
    expect((await sources()).sources).toMatchObject([{ waiting: 1 }])
    // Left as it is here, nobody asks again until it is another there.
    expect(await refusal('preparer', 'POST', `${COPIED}/larkspur/left`, { keys: ['agencies WRO'] })).toEqual([
      404,
      'AXION_NOT_FOUND',
    ])
    await world.ok('POST', `${COPIED}/larkspur/left`, { keys: ['rateVersions WN'] })
    expect(await standings()).toMatchObject([{ 1: 'own' }])
    expect((await sources()).sources).toMatchObject([{ waiting: 0 }])
    await setPercent('larkspur', '5.8')
    expect((await sources()).sources).toMatchObject([{ waiting: 1 }])
    await setPercent('thornbury', '5.6')
    await takeBack()
    expect((await look()).taken).toMatchObject({ follows: true })
  })

  it('shows what it would do to documents before it is taken', async () => {
    await setPercent('thornbury', '5.9')
    const path = `${MONTH}/copied/thornbury`
    expect((await world.ok<CopyView>('GET', path)).rows).toMatchObject([
      { key: 'rateVersions WN', standing: 'differs' },
    ])
    const seen = await world.ok<AgreedPreview>('POST', `${path}/preview`, {
      choice: { standings: ['differs'] },
    })
    const [month] = seen.months
    expect([month?.month, Number(month?.differ) > 0, Number(month?.after) > Number(month?.before)]).toEqual([
      '2026-09',
      true,
      true,
    ])
    expect(JSON.stringify(await baselineOf('larkspur'))).not.toContain('"5.9"')
  })

  it('stands on no better word here than there: what was seen in systems is seen elsewhere, what was read of an agency was read', async () => {
    const authority = (): Promise<object[]> =>
      world.ownerSql(
        `select kind || ' ' || object as what, seen_in, checked_against from authority where entity_id = 'thornbury' order by 1`,
      )
    await world.ownerSql(
      `insert into authority (entity_id, kind, object, says, seen_in, accepted_by) values ('larkspur', 'rate', 'WN', '', '{billing,ledger}', 'Somebody')`,
    )
    await setPercent('larkspur', '6.1')
    await setPercent('thornbury', '6')
    const key = 'rateVersions WN'
    await take({ keys: [key] })
    expect(await authority()).toEqual([
      { what: 'rate WN', seen_in: ['another legal entity'], checked_against: null },
    ])
    const { groups } = await world.ok<SeenView>('GET', `${THORNBURY}/decisions/seen`)
    expect(groups.flatMap(({ things }) => things)).toMatchObject([
      { standing: 'alone', seenIn: ['another legal entity'], checked: null },
    ])
    await takeBack()
    expect(await authority()).toEqual([])
    const there = await world.ok<SeenView>('GET', `${MONTH}/decisions/seen`)
    await world.ok('POST', `${MONTH}/decisions/seen`, {
      checks: there.groups.map(({ id, revision }) => ({
        id,
        revision,
        against: 'Rate table 7',
        on: '2026-09-02',
      })),
    })
    await take({ keys: [key] })
    expect((await world.ok<SeenView>('GET', `${THORNBURY}/decisions/seen`)).groups[0]?.things).toMatchObject([
      { standing: 'checked', checked: { against: 'Rate table 7', on: '2026-09-02', person: 'preparer' } },
    ])
  })
})

describe('how an object stands to the one that it may be taken from', () => {
  const rate = (percent: string): BaselineImport['rateVersions'][number] => ({
    ...{ jurisdiction: 'WN', percent, onTopOf: [], from: '2026-01-01', to: null },
  })
  const EMPTY = Object.fromEntries(COPIED_KINDS.map((kind) => [kind, []])) as unknown as BaselineImport
  const things = (percent: string | null): ReturnType<typeof thingsOf> =>
    thingsOf({ ...EMPTY, rateVersions: percent === null ? [] : [rate(percent)] })
  const [A, B, C] = ['5', '6', '7']
  test.each<[string | null, string | null, string | null, CopyStanding | 'same' | 'nothing']>([
    // here, there, as it was taken
    [null, A, null, 'new'],
    [null, A, A, 'off'],
    [null, A, B, 'off'],
    [A, A, null, 'same'],
    [A, A, B, 'same'],
    [A, B, null, 'differs'],
    [A, B, A, 'changed'],
    [A, B, B, 'own'],
    [A, B, C, 'differs'],
    [A, null, null, 'nothing'],
    [A, null, A, 'gone'],
    [A, null, B, 'own'],
  ])('%s here, %s there, taken as %s: %s', (here, there, taken, expected) => {
    const known =
      taken === null ? {} : { 'rateVersions WN': things(taken).get('rateVersions WN')?.digest ?? '' }
    const { same, apart } = compare(things(here), things(there), known)
    expect([same, apart.map(({ standing }) => standing)]).toEqual(
      expected === 'same' ? [1, []] : [0, expected === 'nothing' ? [] : [expected]],
    )
  })
})
