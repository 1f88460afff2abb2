import type { MembersView, PracticeView, TrailView } from '@axion/contract'
import { baseline } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { loadBaseline } from '../src/baseline/load.ts'
import { inEntity } from '../src/database/connection.ts'
import { makeWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeWorld()))
afterAll(() => world.close())

const signIn = (payload: object, remoteAddress: string) =>
  world.app.inject({
    method: 'POST',
    url: '/api/session',
    payload,
    remoteAddress,
    headers: { 'x-axion-request': 't' },
  })

interface Shape {
  readonly properties?: Record<string, object>
  readonly items?: object
  readonly anyOf?: object
  readonly oneOf?: object
}
interface Described {
  readonly responses: Record<string, { readonly content?: Record<string, { readonly schema: Shape }> }>
}

describe('signing in', () => {
  it('gives a cookie that scripts cannot read and other sites cannot send', async () => {
    const answer = await signIn({ email: 'viewer@example.org', password: 'a long password' }, '10.0.1.1')
    expect(String(answer.headers['set-cookie'])).toMatch(/HttpOnly.*SameSite=Strict/)
  })

  test.each([
    ['viewer@example.org', 'wrong'],
    ['nobody@example.org', 'a long password'],
  ])('refuses %s with the same words', async (email, password) => {
    const answer = await signIn({ email, password }, '10.0.1.2')
    expect([answer.statusCode, answer.json().code]).toEqual([401, 'AXION_WRONG_SIGN_IN'])
  })

  it('slows down who tries one account from many addresses', async () => {
    const tries = await Promise.all(
      Array.from({ length: 14 }, (_, at) =>
        signIn({ email: ' Many@Example.org', password: 'y' }, `10.0.7.${at + 1}`),
      ),
    )
    expect(tries.map((one) => one.statusCode).sort()).toEqual([
      ...Array.from({ length: 10 }, () => 401),
      ...Array.from({ length: 4 }, () => 429),
    ])
  })

  it('slows down who tries too often', async () => {
    const answers = await Promise.all(
      Array.from({ length: 12 }, () => signIn({ email: 'x@example.org', password: 'y' }, '10.0.1.3')),
    )
    expect(answers.filter((a) => a.statusCode === 429).length).toBeGreaterThan(0)
  })
})

describe('the edge', () => {
  const admin = { id: 'x', name: 'X', country: 'XA', currency: 'USD', timeZone: 'UTC', locale: 'en' }
  test.each<[string, string, 'GET' | 'POST' | 'PUT', string, object | undefined, number, string]>([
    ['nobody', 'nobody', 'GET', `${MONTH}/close`, undefined, 401, 'AXION_SIGN_IN'],
    ['a stranger to the entity', 'stranger', 'GET', `${MONTH}/close`, undefined, 404, 'AXION_NOT_FOUND'],
    ['a viewer who pulls', 'viewer', 'POST', `${MONTH}/pulls`, { systemIds: null }, 403, 'AXION_FORBIDDEN'],
    [
      'a preparer who connects',
      'preparer',
      'PUT',
      '/api/entities/larkspur/systems/x',
      { role: 'ledger', name: 'X', address: `http://127.0.0.1:1/`, token: '12345678' },
      403,
      'AXION_FORBIDDEN',
    ],
    [
      'somebody who may not found entities',
      'preparer',
      'POST',
      '/api/entities',
      admin,
      403,
      'AXION_FORBIDDEN',
    ],
    [
      'an unknown currency',
      'administrator',
      'POST',
      '/api/entities',
      { ...admin, currency: 'XQQ' },
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'an entity that is there',
      'administrator',
      'POST',
      '/api/entities',
      { ...admin, id: 'larkspur' },
      409,
      'AXION_ALREADY_EXISTS',
    ],
    [
      'a month that is none',
      'viewer',
      'GET',
      '/api/entities/larkspur/months/2026-13/close',
      undefined,
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'a selector that is none',
      'viewer',
      'GET',
      `${MONTH}/evidence?open=of%3Dwishes`,
      undefined,
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'a document that is none',
      'viewer',
      'GET',
      `${MONTH}/evidence?open=of%3Dnet%26unit%3Dnone`,
      undefined,
      404,
      'AXION_NOT_FOUND',
    ],
    [
      'an address off the list',
      'administrator',
      'PUT',
      '/api/entities/larkspur/systems/x',
      { role: 'ledger', name: 'X', address: 'http://169.254.169.254/latest', token: '12345678' },
      422,
      'AXION_ADDRESS_NOT_ALLOWED',
    ],
    [
      'a run that is none',
      'viewer',
      'GET',
      '/api/entities/larkspur/runs/7',
      undefined,
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'posting before checks pass',
      'preparer',
      'POST',
      `${MONTH}/post/runs`,
      { states: ['rehearsed'] },
      409,
      'AXION_NOT_READY',
    ],
    [
      'a baseline with a rate over 100 %',
      'preparer',
      'PUT',
      `${MONTH}/baseline`,
      {
        ...baseline(),
        rateVersions: [{ jurisdiction: 'WN', percent: '100.5', from: '2026-01-01', to: null }],
      },
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'a baseline with a date that is none',
      'preparer',
      'PUT',
      `${MONTH}/baseline`,
      { ...baseline(), registrations: [{ agency: 'WRO', number: '1', from: '2026-02-30', to: null }] },
      400,
      'AXION_BAD_REQUEST',
    ],
    [
      'a baseline that names what it lacks',
      'preparer',
      'PUT',
      `${MONTH}/baseline`,
      { ...baseline(), items: [{ code: 'A', name: 'A', itemTaxCode: 'NONE' }] },
      422,
      'AXION_BASELINE_INCONSISTENT',
    ],
    [
      'a baseline with two rates on one day',
      'preparer',
      'PUT',
      `${MONTH}/baseline`,
      {
        ...baseline(),
        rateVersions: [
          ...baseline().rateVersions,
          { jurisdiction: 'WN', percent: '5', from: '2025-01-01', to: null },
        ],
      },
      422,
      'AXION_BASELINE_OVERLAP',
    ],
  ])('refuses %s', async (_, role, method, path, body, status, code) => {
    const answer = await world.as(role, method, path, body)
    expect([answer.statusCode, answer.json().code]).toEqual([status, code])
    expect(answer.headers['content-type']).toContain('application/problem+json')
  })

  it('refuses a change that another site could have sent', async () => {
    const answer = await world.app.inject({
      method: 'POST',
      url: '/api/session',
      payload: { email: 'a', password: 'b' },
    })
    expect([answer.statusCode, answer.json().code]).toEqual([403, 'AXION_CROSS_SITE'])
  })

  it('documents itself', async () => {
    const document = (await world.app.inject('/api/docs/json')).json()
    expect(Object.keys(document.paths)).toContain('/api/entities/{entity}/months/{month}/close')
    // What each route answers is said, a refusal too; only files have no shape.
    const shapeless = Object.entries<Record<string, Described>>(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, { responses }]) => {
        const [answer, refusal] = [responses['200'], responses['default']].map(
          (one) => one?.content?.['application/json']?.schema ?? {},
        )
        return refusal?.properties?.['code'] &&
          (answer?.properties ?? answer?.items ?? answer?.anyOf ?? answer?.oneOf)
          ? []
          : [`${method} ${path}`]
      }),
    )
    expect(
      shapeless.filter(
        (one) =>
          !/(attached\/\{file\}|accounts\/\{account\}\/list|list\.\{format\}|should-hold|files\/\{target\}\/\{sheet\}|bridge\.json)$/.test(
            one,
          ),
      ),
    ).toEqual([])
  })

  it('is healthy only while a worker is heard of', async () => {
    expect((await world.app.inject('/api/health')).statusCode).toBe(503)
    await world.services.database('worker_heartbeat').insert({ worker_id: 'w' })
    expect((await world.app.inject('/api/health')).json()).toMatchObject({
      status: 'ok',
      database: true,
      worker: true,
    })
  })

  it('keeps tokens sealed at rest, and out of every answer', async () => {
    const token = world.environment['AXION_SECRET_KEY'] ?? ''
    const view = await world.as('administrator', 'GET', `${MONTH}/connect`)
    expect(view.body).not.toContain(token)
    const sealed = await world.services.database.transaction(async (trx) => {
      await trx.raw(`select set_config('axion.entity', 'larkspur', true)`)
      return (await trx('system').first('token_sealed')) as { token_sealed: Buffer }
    })
    expect(sealed.token_sealed.length).toBeGreaterThan(28)
    expect(sealed.token_sealed.toString('latin1')).not.toMatch(/[0-9a-f]{64}/)
  })

  it('imports a baseline twice as no change, and keeps what was believed before', async () => {
    expect(await world.ok('PUT', `${MONTH}/baseline`, baseline())).toEqual({ added: 0, ended: 0, run: null })
    const { rows } = (await world.services.database.raw('select clock_timestamp()::text as before')) as {
      rows: { before: string }[]
    }
    const dearer = baseline().rateVersions.map((v) =>
      v.jurisdiction === 'TK' ? { ...v, percent: '6.25' } : v,
    )
    expect(await world.ok('PUT', `${MONTH}/baseline`, { ...baseline(), rateVersions: dearer })).toEqual({
      added: 1,
      ended: 1,
      run: null,
    })
    const percentAt = (at: string | null): Promise<bigint | undefined> =>
      inEntity(
        world.services.database,
        'larkspur',
        async (books) => (await loadBaseline(books, at)).rateOn('TK', '2026-09-30')?.percent,
      )
    expect([await percentAt(null), await percentAt(rows[0]?.before ?? null)]).toEqual([
      6_250_000n,
      6_000_000n,
    ])
  })
})

describe('people and their roles', () => {
  const members = '/api/entities/larkspur/members'
  it('lists who belongs, to everybody who does', async () => {
    const { members: people } = (await world.as('viewer', 'GET', members)).json<MembersView>()
    expect(people.map((p) => [p.email, p.role])).toContainEqual(['reviewer@example.org', 'reviewer'])
  })

  it('lets those who run the practice add somebody, who then has just the role given, and it shows in the trail with its address', async () => {
    const person = { email: 'New.One@example.org', name: 'New One', password: 'a long enough one' }
    expect((await world.as('preparer', 'POST', '/api/people', person)).json().code).toBe('AXION_FORBIDDEN')
    expect(
      (await world.as('administrator', 'POST', '/api/people', { ...person, password: 'short' })).json().code,
    ).toBe('AXION_BAD_REQUEST')
    expect((await world.as('administrator', 'POST', '/api/people', person)).statusCode).toBe(200)
    expect((await world.as('administrator', 'POST', '/api/people', person)).json().code).toBe(
      'AXION_ALREADY_EXISTS',
    )
    expect(
      (await world.as('preparer', 'PUT', members, { email: 'new.one@example.org', role: 'viewer' })).json()
        .code,
    ).toBe('AXION_FORBIDDEN')
    expect(
      (await world.as('administrator', 'PUT', members, { email: 'new.one@example.org', role: 'viewer' }))
        .statusCode,
    ).toBe(200)
    const trail = (
      await world.as('viewer', 'GET', '/api/entities/larkspur/trail?action=member&search=new.one')
    ).json<TrailView>()
    expect(trail.entries).toMatchObject([
      {
        person: 'administrator',
        from: '127.0.0.1',
        object: 'new.one@example.org',
        fields: [{ field: 'role', from: '', to: 'viewer' }],
      },
    ])
  })

  it('leaves no legal entity without an administrator', async () => {
    expect(
      (
        await world.as('administrator', 'PUT', members, {
          email: 'administrator@example.org',
          role: 'viewer',
        })
      ).json().code,
    ).toBe('AXION_LAST_ADMINISTRATOR')
    expect(
      (await world.as('administrator', 'DELETE', `${members}/administrator@example.org`)).json().code,
    ).toBe('AXION_LAST_ADMINISTRATOR')
    expect((await world.as('administrator', 'DELETE', `${members}/new.one@example.org`)).statusCode).toBe(200)
  })

  it('keeps one where two administrators remove each other at once, however often they try', async () => {
    const two = ['administrator', 'preparer']
    for (let turn = 0; turn < 5; turn++) {
      for (const who of two)
        await world.ownerSql(
          `update membership set role = 'administrator' where entity_id = 'larkspur' and person_id = (select person_id from person where email = $1)`,
          [`${who}@example.org`],
        )
      const answers = await Promise.all(
        two.map((who, at) =>
          world.as(who, 'PUT', members, { email: `${two[1 - at] ?? ''}@example.org`, role: 'viewer' }),
        ),
      )
      const left = await world.ownerSql(
        `select 1 from membership where entity_id = 'larkspur' and role = 'administrator'`,
      )
      expect([
        turn,
        left.length,
        answers.map((one) => one.statusCode).filter((code) => code === 500),
      ]).toEqual([turn, 1, []])
    }
    for (const who of two)
      await world.ownerSql(
        `update membership set role = $1 where entity_id = 'larkspur' and person_id = (select person_id from person where email = $2)`,
        [who, `${who}@example.org`],
      )
  })

  test.each([
    ['is among the commonest', 'Qwertyuiop', /commonest/],
    ['is the one before', 'a long password', /as it was/],
    ['is short', 'short', /ten characters/],
  ])('refuses a new password that %s', async (_, next, says) => {
    const answer = await world.as('viewer', 'PUT', '/api/session/password', {
      password: 'a long password',
      next,
    })
    expect([answer.statusCode, answer.json().facts]).toEqual([
      400,
      { path: 'next', problem: expect.stringMatching(says) },
    ])
  })

  it('ends every other session with the password, and keeps its own', async () => {
    const opened = async (password: string, address: string): Promise<string> =>
      String((await signIn({ email: 'viewer@example.org', password }, address)).headers['set-cookie']).split(
        ';',
      )[0] ?? ''
    const other = await opened('a long password', '10.0.8.1')
    const seen = async (cookie: string): Promise<number> =>
      (await world.app.inject({ method: 'GET', url: '/api/session', headers: { cookie } })).statusCode
    expect(await seen(other)).toBe(200)
    const changed = await world.as('viewer', 'PUT', '/api/session/password', {
      password: 'a long password',
      next: 'quite another one',
    })
    expect([changed.statusCode, await seen(other)]).toEqual([200, 401])
    expect((await world.as('viewer', 'GET', '/api/session')).statusCode).toBe(200)
    await world.as('viewer', 'PUT', '/api/session/password', {
      password: 'quite another one',
      next: 'a long password',
    })
  })

  it('changes a password only for who knows the old one', async () => {
    expect(
      (
        await world.as('reviewer', 'PUT', '/api/session/password', {
          password: 'wrong',
          next: 'another long password',
        })
      ).json().code,
    ).toBe('AXION_WRONG_SIGN_IN')
    expect(
      (
        await world.as('reviewer', 'PUT', '/api/session/password', {
          password: 'a long password',
          next: 'another long password',
        })
      ).statusCode,
    ).toBe(200)
    expect(
      (await signIn({ email: 'reviewer@example.org', password: 'another long password' }, '10.0.1.9'))
        .statusCode,
    ).toBe(200)
  })
})

describe('the practice board', () => {
  it('has a row for each legal entity that somebody belongs to, and none for others', async () => {
    await world.as('administrator', 'POST', '/api/entities', {
      id: 'second',
      name: 'A second one',
      country: 'XA',
      currency: 'EUR',
      timeZone: 'UTC',
      locale: 'de-DE',
    })
    const board = async (role: string): Promise<PracticeView> =>
      (await world.as(role, 'GET', '/api/practice')).json<PracticeView>()
    expect((await board('administrator')).entities.map((e) => [e.id, e.role, e.path.currency])).toEqual([
      ['larkspur', 'administrator', 'USD'],
      ['second', 'administrator', 'EUR'],
    ])
    const { months } = (
      await world.as('administrator', 'GET', '/api/practice?month=2026-08')
    ).json<PracticeView>()
    expect(months.find(({ month }) => month === '2026-09')).toEqual({
      month: '2026-09',
      nothing: 2,
      open: 0,
      proved: 0,
      resting: 0,
    })
    expect((await board('viewer')).entities.map((e) => e.id)).toEqual(['larkspur'])
    expect((await board('stranger')).entities).toEqual([])
    expect((await world.as('nobody', 'GET', '/api/practice')).statusCode).toBe(401)
  })
})
