import {
  AGREED_KINDS,
  type AgreedChange,
  type AgreedKind,
  type AgreedObject,
  type AgreedPreview,
  type AgreedView,
  type BaselineImport,
  type BatchView,
  type PlacesMet,
  type TieOutView,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readBaseline } from '../src/baseline/read.ts'
import { inEntity } from '../src/database/connection.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

/** Every object of the baseline, looked at through its versions, made, changed from a day on, ended and taken off. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
})
afterAll(() => world.close())

const list = (kind: AgreedKind, query = ''): Promise<AgreedView> =>
  world.ok('GET', `${MONTH}/baseline/${kind}?${query}`)
const object = (kind: AgreedKind, id: string): Promise<AgreedObject> =>
  world.ok('GET', `${MONTH}/baseline/${kind}/object?id=${encodeURIComponent(id)}`)
const preview = (kind: AgreedKind, change: AgreedChange): Promise<AgreedPreview> =>
  world.ok('POST', `${MONTH}/baseline/${kind}/preview`, { change })
const keep = async (kind: AgreedKind, change: AgreedChange): Promise<{ id: string }> => {
  const { revision } = await preview(kind, change)
  return world.ok('POST', `${MONTH}/baseline/${kind}`, { change, revision })
}
const now = (): Promise<BaselineImport> => inEntity(world.services.database, 'larkspur', readBaseline)
const takeBack = async (): Promise<void> => {
  const { batches } = await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)
  const latest = batches.find(({ undoneBy }) => undoneBy === null)
  expect(latest).toMatchObject({ action: 'agreed-upon', canUndo: true })
  await world.run('/align/undo', { batchId: latest?.id ?? '' })
}
const refusal = async (kind: AgreedKind, change: object, role = 'preparer'): Promise<string> => {
  const answer = await world.as(role, 'POST', `${MONTH}/baseline/${kind}/preview`, { change })
  const { code, facts, detail } = answer.json<{ code: string; facts?: object; detail: string }>()
  return answer.statusCode === 200 ? 'taken' : `${code} ${JSON.stringify(facts ?? detail)}`
}
const versionIds = (table: string): Promise<{ id: string; object_id: string }[]> =>
  world.ownerSql(
    `select version_id::text as id, object_id from ${table} where entity_id = 'larkspur' and upper_inf(recorded) order by 1`,
  )

describe('what is agreed', () => {
  it.each(AGREED_KINDS)('has a list of %s that says what a spreadsheet says, cell by cell', async (kind) => {
    const stated = await now()
    const view = await list(kind)
    const { holds, coming, ended } = view.standing
    expect([view.kind, view.counts[kind], view.found]).toEqual([
      kind,
      holds + coming + ended,
      holds + coming + ended,
    ])
    let versions = 0
    for (const { id, versions: some } of view.rows) {
      const all = await object(kind, id)
      expect(all.versions.filter(({ until }) => until === null)).toHaveLength(some)
      versions += some
    }
    expect(versions).toBe(stated[kind].length)
  })

  it('is found by any of its words and by how it stands, page by page', async () => {
    expect((await list('agencies', 'search=hollis')).rows.map(({ id }) => id)).toEqual(['HCT'])
    const brackenshire = (await list('rateVersions', 'search=xa-bk')).rows
    expect(brackenshire).toEqual([])
    const all = await list('items')
    const [first, second] = all.rows
    expect((await list('items', `after=${first?.id ?? ''}`)).rows[0]?.id).toBe(second?.id)
    const rates = await list('rateVersions', 'state=ended')
    expect(rates.rows.every(({ state }) => state === 'ended')).toBe(true)
  })

  it('says what lies in no jurisdiction of what was sold', async () => {
    const met = await world.ok<PlacesMet>('GET', `${MONTH}/baseline/places-met`)
    expect([met.documents, met.of]).toEqual([met.of, met.of])
    const country = (await now()).jurisdictions.find(({ level }) => level === 'country')
    expect(met.open).toEqual([])
    expect(country).toBeDefined()
  })
})

describe('a rate that is changed from a day on', () => {
  const change: AgreedChange = {
    ...{ act: 'change', id: 'WN', version: null },
    ...{ cells: { jurisdiction: 'WN', percent: '6.00', onTopOf: '' }, since: '2026-09-16' },
  }
  it('shows first what it would do to each month, and keeps nothing of it', async () => {
    const before = await now()
    const version = (await object('rateVersions', 'WN')).versions[0]?.from ?? null
    const { what, fields, months, rest, worked } = await preview('rateVersions', { ...change, version })
    expect([what, fields[0]]).toEqual(['rate version WN', { title: 'Percent', before: '5.5', after: '6.00' }])
    expect(worked).toBe(rest)
    const [september] = months
    expect(september?.month).toBe('2026-09')
    expect(september?.differ).toBeGreaterThan(10)
    expect(Number(september?.after)).toBeGreaterThan(Number(september?.before))
    expect(await now()).toEqual(before)
  })

  it('does just that: the month’s expected tax moves by what was shown, and back when it is taken back', async () => {
    const before = await now()
    const others = (await versionIds('rate_version')).filter((one) => one.object_id !== 'WN')
    const version = (await object('rateVersions', 'WN')).versions[0]?.from ?? null
    const shown = await preview('rateVersions', { ...change, version })
    const moves = shown.months
      .filter(({ month }) => month === '2026-09')
      .map(({ before: was, after: is }) => Math.round((Number(is) - Number(was)) * 100))
    const expected = async (): Promise<number> =>
      Number(
        (
          await world.ownerSql<{ tax: string }>(
            `select coalesce(sum(f.in_base), 0)::text as tax from tax_fact f join unit u using (entity_id, unit_id) where f.entity_id = 'larkspur' and f.voice = 'expected' and u.period = '2026-09' and u.taken and not u.voided`,
          )
        )[0]?.tax,
      )
    const was = await expected()
    await keep('rateVersions', { ...change, version })
    expect((await expected()) - was).toBe(moves[0])
    const { versions } = await object('rateVersions', 'WN')
    expect(
      versions.map(({ cells, from, to, until }) => [cells['percent'], from, to, until === null]),
    ).toEqual([
      ['5.5', version, '2026-09-15', true],
      ['6.00', '2026-09-16', null, true].map((one) => (one === '6.00' ? '6' : one)),
      ['5.5', version, null, false],
    ])
    // What was not asked about is not written again.
    expect((await versionIds('rate_version')).filter((one) => one.object_id !== 'WN')).toEqual(others)
    await takeBack()
    expect(await now()).toEqual(before)
    expect(await expected()).toBe(was)
  })

  it('is refused where the baseline was changed since it was looked at', async () => {
    const version = (await object('rateVersions', 'WN')).versions[0]?.from ?? null
    const { revision } = await preview('rateVersions', { ...change, version })
    await keep('agencies', { act: 'make', cells: { code: 'NEW', name: 'A new one' } })
    const late = await world.as('preparer', 'POST', `${MONTH}/baseline/rateVersions`, {
      change: { ...change, version },
      revision,
    })
    expect([late.statusCode, late.json<{ code: string }>().code]).toEqual([409, 'AXION_STALE'])
    await takeBack()
  })
})

describe('one object', () => {
  it.each<[AgreedKind, string, Record<string, string>]>([
    ['agencies', 'ZED', { code: 'ZED', name: 'Zed Revenue' }],
    [
      'jurisdictions',
      'WN-ZED',
      {
        ...{ code: 'WN-ZED', name: 'Zed', level: 'city' },
        ...{ parent: 'WN', agency: 'WRO', covers: 'XA/XA-WN/Zed' },
      },
    ],
    ['rateVersions', 'XA', { jurisdiction: 'XA', percent: '0.5', onTopOf: '', from: '2030-01-01', to: '' }],
    ['itemTaxCodes', 'ZEDS', { code: 'ZEDS', name: 'Zeds' }],
    [
      'codeRules',
      '',
      {
        jurisdiction: 'WN',
        itemTaxCode: 'TOOLS',
        treatment: 'standard',
        cap: '9.00',
        currency: 'EUR',
        from: '',
      },
    ],
    ['items', 'zed', { code: 'zed', name: 'Zed', itemTaxCode: 'GOODS' }],
    ['parties', 'cus_zed', { code: 'cus_zed', name: 'Zed & sons', catchAll: 'no', claims: '' }],
    ['dimensions', 'Department: ZED', { dimension: 'Department', code: 'ZED', name: 'Zed' }],
    [
      'locations',
      'zed',
      {
        ...{ code: 'zed', name: 'Zed', timeZone: 'America/Chicago' },
        'address.country': 'XA',
        'address.region': 'XA-WN',
      },
    ],
    ['thresholds', 'XA', { jurisdiction: 'XA', transactions: '200', from: '2026-01-01' }],
  ])('of %s is made, changed, ended or taken off, and each is taken back', async (kind, wanted, cells) => {
    const before = await now()
    const { id } = await keep(kind, { act: 'make', cells })
    if (wanted !== '') expect(id).toBe(wanted)
    const made = await object(kind, id)
    const [own] = made.versions.filter(({ until }) => until === null).slice(-1)
    for (const [path, cell] of Object.entries(cells))
      if (path !== 'from' && path !== 'to') expect([path, own?.cells[path]]).toEqual([path, cell])
    const after = await now()
    const view = await list(kind)
    if (view.dated) {
      const version = own?.from ?? null
      await keep(kind, { act: 'end', id, version, last: '2031-12-31' })
      expect((await object(kind, id)).versions.filter(({ until }) => until === null).at(-1)?.to).toBe(
        '2031-12-31',
      )
      await takeBack()
    }
    expect(await now()).toEqual(after)
    await keep(kind, { act: 'remove', id, version: own?.from ?? null })
    expect(await now()).toEqual(before)
    await takeBack()
    expect(await now()).toEqual(after)
    await takeBack()
    expect(await now()).toEqual(before)
  })

  it.each<[string, AgreedKind, object, RegExp]>([
    [
      'a percent that is none',
      'rateVersions',
      { act: 'make', cells: { jurisdiction: 'XA', percent: '7,5', from: '' } },
      /Percent/,
    ],
    [
      'a place that is not there',
      'rateVersions',
      { act: 'make', cells: { jurisdiction: 'NOWHERE', percent: '7', from: '' } },
      /NOWHERE/,
    ],
    [
      'a field that it does not have',
      'agencies',
      { act: 'make', cells: { code: 'Z', name: 'Z', percent: '1' } },
      /no “percent”/,
    ],
    [
      'a code that is taken',
      'agencies',
      { act: 'make', cells: { code: 'WRO', name: 'Z' } },
      /AXION_ALREADY_EXISTS/,
    ],
    [
      'days that are held already',
      'rateVersions',
      { act: 'make', cells: { jurisdiction: 'WN', percent: '7', from: '2026-01-01' } },
      /AXION_BASELINE_OVERLAP/,
    ],
    [
      'an end before its beginning',
      'rateVersions',
      { act: 'make', cells: { jurisdiction: 'XA', percent: '7', from: '2026-02-01', to: '2026-01-01' } },
      /before 2026-02-01/,
    ],
    [
      'an agency that others name',
      'agencies',
      { act: 'remove', id: 'WRO', version: null },
      /AXION_BASELINE_INCONSISTENT .*WRO/,
    ],
    ['what is not there', 'agencies', { act: 'remove', id: 'NONE', version: null }, /AXION_NOT_FOUND/],
    [
      'another code of its own',
      'agencies',
      { act: 'change', id: 'WRO', version: null, cells: { code: 'WRX', name: 'X' }, since: null },
      /known by/,
    ],
    [
      'nothing',
      'agencies',
      {
        act: 'change',
        id: 'WRO',
        version: null,
        cells: { code: 'WRO', name: 'Wendover Revenue Office' },
        since: null,
      },
      /AXION_NOTHING_TO_DO/,
    ],
    [
      'days of what has none',
      'agencies',
      { act: 'change', id: 'WRO', version: null, cells: { code: 'WRO', name: 'X' }, since: '2026-09-01' },
      /no days/,
    ],
    [
      'tax to an account of income',
      'postingRules',
      {
        act: 'change',
        id: 'tax WRO',
        version: null,
        cells: { kind: 'tax', agency: 'WRO', account: '4000' },
        since: null,
      },
      /AXION_ACCOUNT_UNFIT|AXION_NOT_FOUND/,
    ],
    [
      'an account that is not there',
      'postingRules',
      {
        act: 'make',
        cells: { kind: 'revenue', account: '9999', 'only.by': 'channel', 'only.id': 'zed', from: '' },
      },
      /AXION_ACCOUNT_NOT_IN_LEDGER/,
    ],
  ])('is refused by name: %s', async (_, kind, change, says) => {
    const before = await now()
    expect(await refusal(kind, change)).toMatch(says)
    expect(await now()).toEqual(before)
  })

  it('of a rule gets a limit, where it had none, from a day on', async () => {
    const before = await now()
    const [rule] = before.codeRules.filter((one) => one.currency === null && one.treatment === 'standard')
    const { jurisdiction = '', itemTaxCode = '' } = rule ?? {}
    const { rows } = await list('codeRules', `search=${itemTaxCode}`)
    const row = rows.find(({ cells }) => cells['jurisdiction'] === jurisdiction)
    const cells = { ...row?.cells, cap: '120.00', currency: 'USD' }
    const version = row?.from ?? null
    await keep('codeRules', { act: 'change', id: row?.id ?? '', version, cells, since: '2026-09-16' })
    const rules = (await now()).codeRules.filter(
      (one) => one.jurisdiction === jurisdiction && one.itemTaxCode === itemTaxCode,
    )
    expect(rules.map(({ cap, from, to }) => [cap, from, to]).sort()).toEqual([
      [null, rule?.from, '2026-09-15'],
      ['120.00', '2026-09-16', null],
    ])
    await takeBack()
    expect(await now()).toEqual(before)
  })

  it('is looked at by viewers, and changed by none of them', async () => {
    expect((await world.as('viewer', 'GET', `${MONTH}/baseline/agencies`)).statusCode).toBe(200)
    expect(await refusal('agencies', { act: 'make', cells: { code: 'Z', name: 'Z' } }, 'viewer')).toMatch(
      /AXION_/,
    )
    const { documents } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    expect(documents).toBeDefined()
  })
})
