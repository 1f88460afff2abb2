import type { AskedView, EntityView, PracticeView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { connect } from '../src/database/connection.ts'
import { makeFirstLink } from '../src/people/first.ts'
import { writingRoutes } from './routes.ts'
import { makeWorld, MONTH, type World } from './world.ts'

/** An installation of one's own: who begins it, and what is asked of a bridge before it is kept; and legal entities that are changed and closed. */
let world: World
beforeAll(async () => {
  world = await makeWorld()
})
afterAll(() => world.close())

const ENTITY = '/api/entities/larkspur'
const codeOf = (answer: { json(): { code?: string } }): string => answer.json().code ?? ''

describe('the first administrator', () => {
  const link = async (): Promise<string | null> => {
    const owner = connect(world.databases.owner, 1)
    const secret = await makeFirstLink(owner)
    await owner.destroy()
    return secret
  }
  const nobodyRuns = (): Promise<unknown> =>
    world.ownerSql('update person set may_create_entities = false where may_create_entities')
  const begin = (secret: string, email: string, password = 'one of my own'): ReturnType<World['as']> =>
    world.as('nobody', 'POST', `/api/first/${secret}`, { email, name: 'First of all', password })
  const waits = async (secret: string): Promise<number> =>
    (await world.as('nobody', 'GET', `/api/first/${secret}`)).statusCode
  afterAll(() =>
    world.ownerSql(
      `update person set may_create_entities = (email = 'administrator@example.org') where true`,
    ),
  )

  it('has no link while somebody runs the practice, nor a use for an older one', async () => {
    expect(await link()).toBe(null)
    expect((await world.as('nobody', 'GET', '/api/first')).json()).toEqual({ nobody: false })
    await nobodyRuns()
    const secret = (await link()) ?? ''
    await world.ownerSql(
      `update person set may_create_entities = true where email = 'administrator@example.org'`,
    )
    expect(await waits(secret)).toBe(404)
    expect(codeOf(await begin(secret, 'late@example.org'))).toBe('AXION_LINK_USED')
  })

  it('begins once, of two at the same moment one, by the newest link alone, which is kept by its digest', async () => {
    await nobodyRuns()
    const [older, secret] = [(await link()) ?? '', (await link()) ?? '']
    expect((await world.as('nobody', 'GET', '/api/first')).json()).toEqual({ nobody: true })
    expect([await waits(older), await waits('guessed'), await waits(secret)]).toEqual([404, 404, 200])
    expect(await world.ownerSql(`select 1 from first_link where strpos('${secret}', digest) > 0`)).toEqual([])
    // What is refused leaves it as it was.
    expect((await begin(secret, 'one@example.org', 'password12')).statusCode).toBe(400)
    expect((await begin(secret, 'preparer@example.org')).statusCode).toBe(409)
    expect(await waits(secret)).toBe(200)
    const answers = await Promise.all([begin(secret, 'One@Example.org'), begin(secret, 'two@example.org')])
    expect(answers.map((one) => one.statusCode).sort()).toEqual([200, 404])
    expect(await waits(secret)).toBe(404)
    const cookie = String(answers.find((one) => one.statusCode === 200)?.headers['set-cookie']).split(';')[0]
    const headers = { cookie: cookie ?? '', 'x-axion-request': 't' }
    const session = await world.app.inject({ method: 'GET', url: '/api/session', headers })
    expect(session.json()).toMatchObject({ person: { runsPractice: true, mustChange: false }, entities: [] })
    const founded = await world.app.inject({
      method: 'POST',
      url: '/api/entities',
      headers,
      payload: {
        ...{ id: 'sorrel', name: 'Sorrel', country: 'XB', currency: 'EUR' },
        ...{ timeZone: 'Europe/Lisbon', locale: 'pt-PT', yearBegins: 4 },
      },
    })
    expect(founded.statusCode).toBe(200)
    const trail = await world.ownerSql<{ action: string; person: string }>(
      `select action, person from practice_entry where action in ('began-practice', 'founded') order by place desc limit 2`,
    )
    expect(trail).toEqual([
      { action: 'founded', person: 'First of all' },
      { action: 'began-practice', person: 'First of all' },
    ])
  })
})

describe('a bridge that is asked before it is kept', () => {
  const ask = (system: string, body: object, who = 'administrator'): ReturnType<World['as']> =>
    world.as(who, 'POST', `${MONTH}/systems/${system}/asked`, {
      ...{
        role: 'billing',
        name: 'Another',
        address: `${world.standins}/billing/bridge`,
        token: world.token,
      },
      ...body,
    })

  it('says who it is, what it fails already, and which connected one it may be; nothing is kept of it', async () => {
    const systems = (): Promise<unknown[]> => world.ownerSql('select system_id, address, about from system')
    const before = await systems()
    const asked = (await ask('another', {})).json<AskedView>()
    expect(asked).toMatchObject({
      company: { name: 'Larkspur Apiary Supply' },
      baseCurrency: 'USD',
      lacks: [],
      twins: ['Billing'],
    })
    expect(asked.offers).toContain('documents')
    expect(asked.checks.find(({ code }) => code === 'base-currency')?.state).toBe('passes')
    // What only a pull can tell is left open, and is no pass.
    expect(asked.checks.find(({ code }) => code === 'places-resolve')?.state).toBe('open')
    expect((await ask('billing', {})).json<AskedView>().twins).toEqual([])
    expect(await systems()).toEqual(before)
  })

  test.each<[string, string, object, string]>([
    ['another role', 'another', { role: 'pos' }, 'AXION_BRIDGE_ROLE'],
    ['a name that stands for another role', 'ledger', {}, 'AXION_BRIDGE_ROLE'],
    ['a wrong token', 'another', { token: 'not the token' }, 'AXION_BRIDGE_TOKEN'],
    [
      'an address that is not allowed',
      'another',
      { address: 'http://10.0.0.1/' },
      'AXION_ADDRESS_NOT_ALLOWED',
    ],
  ])('is refused for %s', async (_, system, body, code) => {
    expect(codeOf(await ask(system, body))).toBe(code)
  })

  it('is asked by administrators alone, who alone are told where bridges are', async () => {
    expect((await ask('another', {}, 'preparer')).statusCode).toBe(403)
    const addresses = async (who: string): Promise<(string | null)[]> =>
      (await world.as(who, 'GET', `${MONTH}/connect`))
        .json<{ systems: { bridgeAddress: string | null }[] }>()
        .systems.map((one) => one.bridgeAddress)
    expect(await addresses('preparer')).toEqual([null, null])
    expect((await addresses('administrator')).every((one) => one?.startsWith(world.standins))).toBe(true)
  })
})

describe('a legal entity', () => {
  const change = { name: 'Larkspur & Daughters', locale: 'en-GB', yearBegins: 7 }
  const close = (closed: boolean, who = 'administrator'): ReturnType<World['as']> =>
    world.as(who, 'PUT', `${ENTITY}/closed`, { closed })

  it('is changed by its administrators, and the trail says how', async () => {
    expect((await world.as('reviewer', 'PUT', ENTITY, change)).statusCode).toBe(403)
    expect((await world.as('administrator', 'PUT', ENTITY, { ...change, name: ' ' })).statusCode).toBe(400)
    expect((await world.as('administrator', 'PUT', ENTITY, { ...change, currency: 'EUR' })).statusCode).toBe(
      400,
    )
    const changed = (await world.as('administrator', 'PUT', ENTITY, change)).json<EntityView>()
    expect(changed).toMatchObject({ ...change, currency: 'USD', closedOn: null })
    expect((await world.as('viewer', 'GET', ENTITY)).json()).toEqual(changed)
    const [line] = await world.ownerSql<{ before: object; after: object }>(
      `select before, after from audit_entry where action = 'changed-entity'`,
    )
    expect(line).toEqual({
      before: { name: 'Larkspur Apiary Supply', locale: 'en-US', yearBegins: null },
      after: change,
    })
  })

  it('that is closed is read, and nobody writes in it, nor it by itself, before it is opened again', async () => {
    const due = async (): Promise<number> =>
      (await world.ownerSql('select 1 from pull_due where entity_id = $$larkspur$$')).length
    const scope = `${MONTH}/systems/billing/scope`
    const held = (await world.as('administrator', 'GET', scope)).json<{ scope: object; revision: string }>()
    const every = { ...held.scope, schedule: { everyMinutes: 15 } }
    const { revision } = (await world.as('administrator', 'POST', `${scope}/preview`, every)).json<{
      revision: string
    }>()
    expect((await world.as('administrator', 'PUT', scope, { scope: every, revision })).statusCode).toBe(200)
    await world.ownerSql(`update system_scope set next_pull_at = now() - interval '1 minute'`)
    expect(await due()).toBe(1)
    const link = (
      await world.as('administrator', 'POST', `${ENTITY}/invitations`, {
        ...{ systemId: 'x', role: 'billing', name: 'X' },
      })
    )
      .json<{ link: string }>()
      .link.replace('/invitation/', '')
    // What is under way would go on writing.
    const run = await world.begin('/pulls', { systemIds: null })
    expect(codeOf(await close(true))).toBe('AXION_RUNS_UNDER_WAY')
    await world.finish(run)
    expect((await close(true, 'preparer')).statusCode).toBe(403)
    expect((await close(true)).json<EntityView>().closedOn).toBe('2026-10-02')

    const open: string[] = []
    for (const { method, path } of await writingRoutes(world)) {
      if (!path.startsWith('/api/entities/{entity}')) continue
      const url = path
        .replace('{entity}', 'larkspur')
        .replace('{month}', '2026-09')
        .replace('{system}', 'billing')
        .replaceAll(/\{\w+\}/g, 'x')
      const answer = await world.as('administrator', method as 'POST', url, {})
      if (codeOf(answer) !== 'AXION_ENTITY_CLOSED')
        open.push(`${method} ${path.replace('/api/entities/{entity}', '')}`)
    }
    expect(open.sort()).toEqual([
      // Who may read it goes on to be said.
      'DELETE /members/{email}',
      // What a viewer may ask changes nothing.
      'POST /months/{month}/mend/preview',
      'POST /months/{month}/post/runs/preview',
      'POST /months/{month}/post/withdrawals/preview',
      'POST /months/{month}/systems/{system}/scope/preview',
      'PUT /closed',
      'PUT /members',
    ])
    expect(await due()).toBe(0)
    expect(codeOf(await world.as('nobody', 'GET', `/api/invitations/${link}`))).toBe('AXION_ENTITY_CLOSED')
    expect((await world.as('viewer', 'GET', `${MONTH}/close`)).statusCode).toBe(200)
    const board = (await world.as('viewer', 'GET', '/api/practice')).json<PracticeView>()
    expect([board.entities, board.closed]).toEqual([
      [],
      [{ id: 'larkspur', name: change.name, on: '2026-10-02' }],
    ])

    expect((await close(false)).json<EntityView>().closedOn).toBe(null)
    expect(await due()).toBe(1)
    expect((await world.as('preparer', 'POST', `${MONTH}/checks`)).statusCode).toBe(200)
  })
})
