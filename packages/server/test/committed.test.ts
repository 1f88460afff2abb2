import type { Committed, ConnectView, RemedyPreview, SourceDocument, TieOutView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { provenInFull } from './inFull.ts'
import { committed, computesFor, keepThere, reckoner } from './keeping.ts'
import { bookAll, makeReadyWorld, MONTH, type World } from './world.ts'

/** A billing system that has its tax computed elsewhere: a service that has its agencies and rates, and was told of its documents. */
let world: World
let documents: { id: string; value: SourceDocument }[] = []
beforeAll(async () => {
  world = await makeReadyWorld({ others: [reckoner()] })
  documents = await world.ownerSql<{ id: string; value: SourceDocument }>(
    `select document_id as id, value from document where period = '2026-09' and status not in ('draft', 'void') order by document_id`,
  )
  await keep(documents.map(({ id, value }) => [`kept_${id}`, committed(id, value)]))
  await bookAll(world)
})
afterAll(() => world.close())

/** What the service keeps, as somebody there changed it. */
async function keep(rows: Parameters<typeof keepThere>[1]): Promise<void> {
  await keepThere(world, rows)
  await world.run('/pulls', { systemIds: ['reckoner'] })
}
interface Stands {
  readonly number: string
  readonly unproved: string
  readonly odd: readonly string[]
  readonly code: string | null
}
/** What is not proved, beyond what was before anybody said for whom the service computes. */
const astray = async (): Promise<Stands[]> =>
  (
    await world.ownerSql<Stands & { named: string }>(
      `select named, number, unproved::text, odd, flaws->0->>'code' as code from unit where period = '2026-09' and not proved and posted and flaws <> '[]' order by number`,
    )
  ).map(({ number, unproved, odd, code }) => ({ number, unproved, odd, code }))
const unproved = async (): Promise<string> => (await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).unproved
const taxOf = ({ taxes }: Pick<Committed, 'taxes'>): bigint =>
  taxes.reduce((sum, { tax }) => sum + BigInt(tax.replace('.', '')), 0n)
/** Documents that are proved, and bear tax of more than one agency. */
const proved = async (): Promise<typeof documents> => {
  const named = new Set(
    (
      await world.ownerSql<{ id: string }>(
        `select document_id as id from unit where period = '2026-09' and proved and kind = 'invoice' and number not in (select number from unit where flaws <> '[]')`,
      )
    ).map(({ id }) => id),
  )
  return documents.filter(
    ({ id, value }) => named.has(id) && value.taxes.some(({ components }) => (components?.length ?? 0) > 1),
  )
}

const mend = async (kind: 'tell' | 'take-back', cause: string): Promise<void> => {
  const remedy = { kind, cause }
  const seen = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, { remedy })
  if (kind === 'tell') expect([seen.system, seen.documents, seen.changes.length]).toEqual(['Reckoner', 1, 1])
  const run = await world.run('/mend', { remedy, revision: seen.revision })
  expect([run.state, run.problems]).toEqual(['done', []])
}

describe('what a tax service keeps', () => {
  it('is held against nothing before somebody says for whom it computes, and Connect asks', async () => {
    const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect(systems.find(({ id }) => id === 'reckoner')?.computesFor).toEqual([
      { id: 'billing', name: 'Billing', said: false },
    ])
    expect(systems.find(({ id }) => id === 'billing')?.computesFor).toBeNull()
    expect(await astray()).toEqual([])
  })

  it('is not missed before it was read once: then whatever it does not keep was never told', async () => {
    await world.ownerSql(`delete from pull_cursor where system_id = 'reckoner' and resource = 'committed'`)
    expect(await computesFor(world, ['billing'])).toBe(200)
    expect(await astray()).toEqual([])
    const [one] = documents.filter(({ value }) => value.taxes.length > 0)
    if (!one) throw new Error('nothing is taxed')
    await world.ownerSql(`delete from committed_document where source_document = '${one.id}'`)
    await world.standinSql('reckoner', `update object set removed = true where id = 'kept_${one.id}'`)
    await world.run('/pulls', { systemIds: ['reckoner'] })
    expect((await astray()).map(({ number, code }) => [number, code])).toEqual([
      [one.value.number, 'AXION_NOT_COMMITTED'],
    ])
    await keep([[`kept_${one.id}`, committed(one.id, one.value)]])
    expect(await astray()).toEqual([])
    expect(await computesFor(world, [])).toBe(200)
  })

  it('is a second voice of what was stated, and where it agrees nothing moves', async () => {
    const before = await unproved()
    expect(await computesFor(world, ['billing'])).toBe(200)
    expect(await astray()).toEqual([])
    expect(await unproved()).toBe(before)
  })

  test.each<[string, string, (value: Committed) => Committed | null, (tax: bigint) => bigint, string[]]>([
    [
      'another amount',
      'AXION_COMMITTED_DIFFERS',
      (value) => ({
        ...value,
        taxes: value.taxes.map((tax) => ({
          ...tax,
          components: null,
          tax: (Number(tax.tax) + 1).toFixed(2),
        })),
      }),
      () => 100n,
      ['committed'],
    ],
    [
      'that it was cancelled',
      'AXION_CANCELLED_THERE',
      (value) => ({ ...value, status: 'cancelled' }),
      (tax) => tax,
      ['committed'],
    ],
    ['nothing of it', 'AXION_NOT_COMMITTED', () => null, (tax) => tax, ['committed']],
  ])('says so of a document that is right everywhere else: it has %s', async (_, code, other, owed, odd) => {
    const [one] = await proved()
    if (!one) throw new Error('nothing is proved')
    const before = BigInt((await unproved()).replace('.', ''))
    const value = committed(one.id, one.value)
    await keep([[`kept_${one.id}`, other(value)]])
    const expected = owed(taxOf(value))
    const own = (await astray()).filter(({ number }) => number === one.value.number)
    expect(own).toEqual([{ number: one.value.number, unproved: expected.toString(), odd, code }])
    expect(await provenInFull(world)).toMatchObject({ otherwise: 0, miscounted: 0 })
    await keep([[`kept_${one.id}`, value]])
    expect(await astray()).toEqual([])
    expect(BigInt((await unproved()).replace('.', ''))).toBe(before)
  })

  it('of agencies the same in all and another in parts, or in another month, is apart', async () => {
    const [one] = await proved()
    if (!one) throw new Error('nothing is proved')
    const value = committed(one.id, one.value)
    const moved = value.taxes.map((tax) => {
      const [first, second, ...rest] = tax.components ?? []
      return first && second
        ? {
            ...tax,
            components: [
              { ...first, agencyId: second.agencyId },
              { ...second, agencyId: first.agencyId },
              ...rest,
            ],
          }
        : tax
    })
    await keep([[`kept_${one.id}`, { ...value, taxes: moved }]])
    expect((await astray()).map(({ code, odd }) => [code, odd])).toEqual([
      ['AXION_COMMITTED_DIFFERS', ['committed']],
    ])
    await keep([[`kept_${one.id}`, { ...value, documentDate: '2026-10-01' }]])
    expect((await astray()).map(({ code }) => code)).toEqual(['AXION_COMMITTED_DIFFERS'])
    await keep([[`kept_${one.id}`, value]])
    expect(await astray()).toEqual([])
  })

  it('twice, or of nobody, is said with its tax; nobody’s is somebody’s once the document is told', async () => {
    const [one] = await proved()
    if (!one) throw new Error('nothing is proved')
    const value = committed(one.id, one.value)
    await keep([
      ['kept_again', value],
      ['kept_nobody', { ...value, documentId: 'inv_nowhere', number: 'LA-0' }],
    ])
    expect((await astray()).map(({ code, unproved: open }) => [code, open])).toEqual([
      ['AXION_COMMITTED_NOBODYS', taxOf(value).toString()],
      ['AXION_COMMITTED_TWICE', taxOf(value).toString()],
    ])
    const { causes } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    expect(causes.map(({ facts }) => ('code' in facts ? facts.code : ''))).toContain(
      'AXION_COMMITTED_NOBODYS',
    )
    expect(await provenInFull(world)).toMatchObject({ otherwise: 0, miscounted: 0 })
    await keep([
      ['kept_again', null],
      ['kept_nobody', null],
    ])
    expect(await astray()).toEqual([])
  })

  it('by number alone counts where it computes for one system, and is no guess', async () => {
    const [one] = await proved()
    if (!one) throw new Error('nothing is proved')
    const value = committed(one.id, one.value)
    await keep([[`kept_${one.id}`, { ...value, documentId: null }]])
    expect(await astray()).toEqual([])
    await keep([[`kept_${one.id}`, value]])
  })

  it('stays, of a document that was voided: its tax is somebody’s still', async () => {
    const [one] = (await proved()).slice(1)
    if (!one) throw new Error('nothing is proved')
    await world.desk('billing', 'state', { id: one.id, action: 'void' })
    await world.run('/pulls', { systemIds: ['billing'] })
    const own = (await astray()).filter(({ number }) => number === one.value.number)
    expect(own.map(({ code }) => code)).toEqual(['AXION_COMMITTED_STILL'])
    await keep([[`kept_${one.id}`, { ...committed(one.id, one.value), status: 'cancelled' }]])
    expect((await astray()).filter(({ number }) => number === one.value.number)).toEqual([])
  })

  it('is told of what was cancelled, changed and never told, as it was previewed, and then agrees', async () => {
    const [first, second, third] = await proved()
    if (!first || !second || !third) throw new Error('too little is proved')
    const value = committed(first.id, first.value)
    await world.desk('billing', 'state', { id: third.id, action: 'void' })
    await world.run('/pulls', { systemIds: ['billing', 'ledger'] })
    await keep([
      [`kept_${first.id}`, { ...value, taxes: [] }],
      [`kept_${second.id}`, null],
      ['kept_nobody', { ...value, documentId: 'inv_nowhere', number: 'LA-0' }],
    ])
    const { causes } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    const told = causes.filter(({ remedies }) => remedies.some(({ kind }) => kind === 'tell'))
    expect(told.map(({ facts }) => ('code' in facts ? facts.code : '')).sort()).toEqual([
      'AXION_COMMITTED_DIFFERS',
      'AXION_COMMITTED_NOBODYS',
      'AXION_NOT_COMMITTED',
    ])
    for (const { key } of told) await mend('tell', key)
    // What is void and still booked is taken out of the ledger first; then its tax is kept by the service alone.
    await mend('take-back', 'voided|source')
    await mend('tell', 'flawed|AXION_COMMITTED_STILL|Reckoner|')
    expect(await astray()).toEqual([])
    const rows = await world.ownerSql<{ id: string | null; status: string; tax: string }>(
      `select source_document as id, status, value->'taxes'->0->>'tax' as tax from committed_document where source_document in ('inv_nowhere', '${first.id}', '${second.id}') and not removed order by 1`,
    )
    expect(rows.find(({ id }) => id === 'inv_nowhere')?.status).toBe('cancelled')
    expect(
      [first, second].map(({ id }) =>
        rows.filter((row) => row.id === id).map(({ status, tax }) => [status, tax]),
      ),
    ).toEqual([first, second].map(({ value: { taxes } }) => [['committed', taxes[0]?.tax]]))
  })

  it('that cannot be read is not taken for nothing', async () => {
    const [one] = await proved()
    if (!one) throw new Error('nothing is proved')
    const value = committed(one.id, one.value)
    await keep([[`kept_${one.id}`, { ...value, currency: 'nonsense' }]])
    expect((await astray()).map(({ number, code }) => [number, code])).toContainEqual([
      one.value.number,
      'AXION_NEVER_READ',
    ])
    await keep([[`kept_${one.id}`, value]])
    expect(await astray()).toEqual([])
  })

  it('is held against nothing once the service is taken off, and again once it is back', async () => {
    const [one] = await proved()
    if (!one) throw new Error('nothing is proved')
    await keep([[`kept_${one.id}`, { ...committed(one.id, one.value), taxes: [] }]])
    expect((await astray()).map(({ number }) => number)).toEqual([one.value.number])
    const off = await world.as('administrator', 'DELETE', '/api/entities/larkspur/systems/reckoner')
    expect(off.statusCode).toBe(200)
    await world.run('/pulls', { systemIds: ['ledger'] })
    expect(await astray()).toEqual([])
    await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/reckoner', {
      role: 'tax-service',
      name: 'Reckoner',
      address: `${world.standins}/reckoner/bridge`,
      token: world.token,
    })
    await world.run('/pulls', { systemIds: ['reckoner'] })
    expect((await astray()).map(({ number }) => number)).toEqual([one.value.number])
    await keep([[`kept_${one.id}`, committed(one.id, one.value)]])
    expect(await astray()).toEqual([])
  })

  it.each([
    ['who only posts', 'preparer', 'reckoner', ['billing'], 403],
    ['no service', 'administrator', 'billing', ['billing'], 404],
    ['what sells nothing', 'administrator', 'reckoner', ['ledger'], 404],
    ['the same again', 'administrator', 'reckoner', ['billing'], 409],
  ])('is asked for by nobody else: %s', async (_, role, system, systems, status) => {
    const answer = await world.as(role, 'PUT', `${MONTH}/systems/${system}/computes-for`, { systems })
    expect(answer.statusCode).toBe(status)
  })
})
