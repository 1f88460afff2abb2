import { WHOLE_SCOPE, type Evidence, type TieOutView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inEntity, type Books } from '../src/database/connection.ts'
import { groundsOf } from '../src/proof/grounds.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

/** What a verdict stood on: evidence is worked out from what was recorded when a document was determined, and held against what is stored. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
  await world.run('/post/runs', { states: ['rehearsed'] })
  await world.run('/pulls', { systemIds: null })
})
afterAll(() => world.close())

const within = <T>(work: (books: Books) => Promise<T>): Promise<T> =>
  inEntity(world.services.database, 'larkspur', work)
const instant = async (): Promise<string> => {
  const [row] = await world.ownerSql<{ at: string }>(
    `select greatest(recorded_last, clock_timestamp())::text as at from legal_entity`,
  )
  return row?.at ?? ''
}
type Chain = Extract<Evidence, { kind: 'chain' }>
const chainOf = async (unit: string, agency = 'HCT'): Promise<Chain> => {
  const open = new URLSearchParams({ of: 'tax', voice: 'expected', unit, agency }).toString()
  return world.ok<Chain>('GET', `${MONTH}/evidence?open=${encodeURIComponent(open)}`)
}
/** A document of which some tax is the county's. */
const ofTheCounty = async (): Promise<{ unit: string; id: string }> => {
  const [row] = await world.ownerSql<{ unit: string; id: string }>(
    `select u.named as unit, u.document_id as id from unit u join tax_fact f using (entity_id, unit_id) where u.proved and f.voice = 'expected' and f.agency = 'HCT' and f.tax > 0 and u.currency = 'USD' order by u.number limit 1`,
  )
  return row ?? { unit: '', id: '' }
}

describe('what determination reads has a recorded time', () => {
  const link = { systemId: 'ledger', kind: 'agency', objectId: 'agency_HCT', baselineId: 'HCT' }

  it.each<[string, () => Promise<unknown>, (books: Books, at: string | null) => Promise<unknown>]>([
    [
      'a link',
      () => world.ok('PUT', `${MONTH}/links`, { ...link, baselineId: 'CPL' }),
      async (books, at) => (await groundsOf(books, at)).systems.map((s) => s.agencyOf('agency_HCT')),
    ],
    [
      'what a system holds',
      async () => {
        await world.ledgerSql(
          `update object set value = jsonb_set(value, '{name}', '"Renamed"'), revision = revision + 1, sequence = nextval('change_sequence') where resource = 'accounts' and id = (select min(id) from object where resource = 'accounts')`,
        )
        await world.run('/pulls', { systemIds: null })
      },
      async (books, at) =>
        (await groundsOf(books, at)).systems.flatMap((s) => s.accounts.map((a) => a.value.name)),
    ],
    [
      'a scope',
      async () => {
        const path = `${MONTH}/systems/ledger/scope`
        const scope = { ...WHOLE_SCOPE, goesOut: false }
        const preview = await world.as('administrator', 'POST', `${path}/preview`, scope)
        const { revision } = preview.json<{ revision: string }>()
        expect((await world.as('administrator', 'PUT', path, { scope, revision })).statusCode).toBe(200)
      },
      async (books, at) => (await groundsOf(books, at)).systems.map((s) => s.row.goesOut),
    ],
  ])('%s', async (_, change, read) => {
    const before = await within((books) => read(books, null))
    const at = await instant()
    await change()
    expect(await within((books) => read(books, at))).toEqual(before)
    expect(await within((books) => read(books, null))).not.toEqual(before)
  })
})

describe('evidence', () => {
  const SPOILT = { link: 'baseline_id', document: 'value', held_object: 'value' } as const
  /** Sets something beside the application, so that nothing proves it anew. */
  const unnoticed = (sql: string, values: unknown[] = []): Promise<unknown> => world.ownerSql(sql, values)

  it('is worked out from what was recorded when the document was determined, whatever changed since', async () => {
    await world.ok('PUT', `${MONTH}/links`, {
      systemId: 'ledger',
      kind: 'agency',
      objectId: 'agency_HCT',
      baselineId: 'HCT',
    })
    await world.run('/pulls', { systemIds: null })
    const { unit, id } = await ofTheCounty()
    const before = await chainOf(unit)
    expect(before.departures).toEqual([])
    await unnoticed(`update link set baseline_id = 'nobody'`)
    await unnoticed(
      `update document set value = jsonb_set(value, '{lines,0,amount}', '"9999.00"') where document_id = $1`,
      [id],
    )
    await unnoticed(
      `update held_object set value = jsonb_set(value, '{number}', '"0000"') where resource = 'accounts'`,
    )
    expect(await chainOf(unit)).toEqual(before)
    for (const [table, of] of [
      ['link', ['system_id', 'kind', 'object_id']],
      ['document', ['system_id', 'document_id']],
      ['held_object', ['system_id', 'resource', 'object_id']],
    ] as const)
      await unnoticed(
        `update ${table} t set ${SPOILT[table]} = (jsonb_populate_record(t, was)).${SPOILT[table]} from (select distinct on (${of.map((c) => `was->>'${c}'`).join(', ')}) was from past where kept_of = '${table}' order by ${of.map((c) => `was->>'${c}'`).join(', ')}, past_id desc) p where ${of.map((c) => `t.${c} = was->>'${c}'`).join(' and ')}`,
      )
    await unnoticed(`update unit set core_version = 0`)
    await world.run('/pulls', { systemIds: null })
    expect({ ...(await chainOf(unit)), determined: null }).toEqual({ ...before, determined: null })
  })

  it('is proved anew where somebody asks for it, though nothing of it changed; who may not is told so', async () => {
    const { unit } = await ofTheCounty()
    await unnoticed(
      `update net_fact set in_base = in_base + 1 where unit_id = (select unit_id from unit where named = $1) and voice = 'stated'`,
      [unit],
    )
    expect(await chainOf(unit)).toMatchObject({ departures: [{ voice: 'stated', kind: 'net' }] })
    const doubt = (who: string, of: string) => world.as(who, 'POST', `${MONTH}/evidence/doubt`, { unit: of })
    expect([
      (await doubt('viewer', unit)).statusCode,
      (await doubt('preparer', 'billing/none')).statusCode,
    ]).toEqual([403, 404])
    await world.run('/pulls', { systemIds: null })
    expect(await chainOf(unit)).toMatchObject({ departures: [{ voice: 'stated' }] })
    expect((await doubt('preparer', unit)).statusCode).toBe(200)
    // Until then it is not proved, and says why.
    const doubted = { proved: false, determined: { isCurrent: false }, causes: [{ code: 'AXION_DOUBTED' }] }
    expect(await chainOf(unit)).toMatchObject(doubted)
    const cause = async (): Promise<boolean> =>
      (await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).causes.some(
        ({ facts, documents }) =>
          facts.kind === 'flawed' && facts.code === 'AXION_DOUBTED' && documents === 1,
      )
    expect(await cause()).toBe(true)
    await world.run('/pulls', { systemIds: null })
    const again = { proved: true, determined: { isCurrent: true }, departures: [] }
    expect([await chainOf(unit), await cause()]).toMatchObject([again, false])
  })

  it('says where what is stored is not what it comes to; a version of the computation that is another is proved anew by a pull', async () => {
    const { unit } = await ofTheCounty()
    const { index } = await within((books) => groundsOf(books))
    await unnoticed(
      `update tax_fact set tax = tax + 1, in_base = in_base + 1 where (unit_id, voice, place) = (select unit_id, voice, min(place) from tax_fact where unit_id = (select unit_id from unit where named = $1) and voice = 'expected' and agency = 'HCT' group by 1, 2)`,
      [unit],
    )
    await unnoticed(`update unit set core_version = core_version - 1 where named = $1`, [unit])
    const spoilt = await chainOf(unit)
    expect(spoilt.determined.isCurrent).toBe(false)
    expect(spoilt.departures).toHaveLength(1)
    const [said] = spoilt.departures
    expect(said).toMatchObject({ voice: 'expected', kind: 'tax', agency: index.agency('HCT')?.name })
    expect(Number(said?.stored) - Number(said?.worked)).toBeCloseTo(0.01)

    await world.run('/pulls', { systemIds: null })
    expect(await chainOf(unit)).toMatchObject({ determined: { isCurrent: true }, departures: [] })
  })
})

describe('the text of a unit’s facts', () => {
  const texts = (): Promise<{ named: string; text: string }[]> =>
    within(({ trx }) => trx('facts_text').orderBy('named').select('named', 'text'))

  it('is the same when the same is proved anew, and another when a unit of money moves', async () => {
    const before = await texts()
    expect(before.length).toBeGreaterThan(10)
    expect(before.every(({ text }) => text.startsWith('facts 2\n["net", '))).toBe(true)
    await world.ok('PUT', `${MONTH}/links`, {
      systemId: 'ledger',
      kind: 'agency',
      objectId: 'agency_HCT',
      baselineId: 'HCT',
    })
    const links = await texts()
    await world.ownerSql(
      `update tax_fact set tax = tax + 1 where (entity_id, unit_id, voice, place) = (select entity_id, unit_id, voice, place from tax_fact order by unit_id limit 1)`,
    )
    const changed = (await texts()).filter(({ text }, at) => text !== links[at]?.text)
    expect(changed).toHaveLength(1)
  })
})
