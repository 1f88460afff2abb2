import { ACTS, type SessionsView, type TrailView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { brokenIn, headLine, headsIn, headsOf } from '../src/audit/chains.ts'
import { connect, inEntity, type Database } from '../src/database/connection.ts'
import { makeWorld, MONTH, type World } from './world.ts'

/** Who did what is written by the database itself, line after line; who reads hashes is a role of its own. */
let world: World
let owner: Database
beforeAll(async () => {
  world = await makeWorld()
  owner = connect(world.databases.owner, 1)
})
afterAll(async () => {
  await owner.destroy()
  await world.close()
})

let address = 0
async function signIn(
  email: string,
  password = 'a long password',
): Promise<{
  status: number
  as: (method: 'GET' | 'PUT' | 'DELETE', url: string, body?: object) => ReturnType<World['as']>
}> {
  const answer = await world.app.inject({
    method: 'POST',
    url: '/api/session',
    payload: { email, password },
    headers: { 'x-axion-request': 't', 'user-agent': 'A browser' },
    remoteAddress: `10.9.0.${++address}`,
  })
  const cookie = String(answer.headers['set-cookie']).split(';')[0] ?? ''
  return {
    status: answer.statusCode,
    as: (method, url, payload) =>
      world.app.inject({
        method,
        url,
        headers: { 'x-axion-request': 't', cookie },
        ...(payload ? { payload } : {}),
      }),
  }
}
const ofPractice = async (): Promise<string[]> =>
  (
    (await owner('practice_entry').orderBy('place').select('person', 'action', 'object')) as {
      person: string
      action: string
      object: string
    }[]
  ).map(({ person, action, object }) => [person, action, object].filter(Boolean).join(' '))
async function noted(work: () => Promise<unknown>): Promise<string[]> {
  const before = (await ofPractice()).length
  await work()
  return (await ofPractice()).slice(before)
}

describe('people', () => {
  it('sign in, fail, change their password and sign out, and the practice’s trail has it; unknown names are one line a minute', async () => {
    expect(
      await noted(async () => {
        await signIn('viewer@example.org', 'wrong')
        for (const name of ['who', 'what', 'where']) await signIn(`${name}@example.org`, 'wrong')
        const { as } = await signIn('viewer@example.org')
        await as('PUT', '/api/session/password', { password: 'a long password', next: 'one that is mine' })
        await as('PUT', '/api/session/password', { password: 'one that is mine', next: 'a long password' })
        await as('DELETE', '/api/session')
        expect((await as('GET', '/api/session')).statusCode).toBe(401)
      }),
    ).toEqual([
      'viewer failed-to-sign-in viewer@example.org',
      'unknown-name',
      'viewer signed-in viewer@example.org',
      'viewer changed-password viewer@example.org',
      'viewer changed-password viewer@example.org',
      'viewer signed-out viewer@example.org',
    ])
  })

  it('see where they are signed in, and end it there; nobody else’s', async () => {
    const [here, there] = [await signIn('reviewer@example.org'), await signIn('reviewer@example.org')]
    const { sessions } = (await here.as('GET', '/api/session/all')).json<SessionsView>()
    expect(sessions.slice(0, 2).map(({ own, from, agent }) => [own, from, agent])).toEqual([
      [false, `10.9.0.${address}`, 'A browser'],
      [true, `10.9.0.${address - 1}`, 'A browser'],
    ])
    const other = (await signIn('preparer@example.org')).as
    const path = `/api/session/all/${sessions[0]?.id ?? ''}`
    expect((await other('DELETE', path)).statusCode).toBe(404)
    expect((await there.as('GET', '/api/session')).statusCode).toBe(200)
    expect(await noted(async () => expect((await here.as('DELETE', path)).statusCode).toBe(200))).toEqual([
      'reviewer ended-session reviewer@example.org',
    ])
    expect((await there.as('GET', '/api/session')).statusCode).toBe(401)
    expect((await here.as('GET', '/api/session')).statusCode).toBe(200)
  })

  it('with a password that an administrator set change it before anything else', async () => {
    const before = await signIn('viewer@example.org')
    const set = { password: 'for the time being' }
    const path = '/api/people/viewer@example.org/password'
    expect((await world.as('preparer', 'PUT', path, set)).json().code).toBe('AXION_FORBIDDEN')
    expect((await world.as('administrator', 'PUT', path, set)).statusCode).toBe(200)
    expect((await before.as('GET', '/api/session')).statusCode).toBe(401)
    const { as } = await signIn('viewer@example.org', 'for the time being')
    expect((await as('GET', '/api/session')).json()).toMatchObject({ person: { mustChange: true } })
    for (const url of [`${MONTH}/tie-out`, '/api/practice'])
      expect((await as('GET', url)).json().code).toBe('AXION_PASSWORD_TEMPORARY')
    const next = { password: 'for the time being', next: 'a long password' }
    expect((await as('PUT', '/api/session/password', next)).statusCode).toBe(200)
    expect((await as('GET', `${MONTH}/tie-out`)).statusCode).toBe(200)
  })

  it('that are added begin so, and the trail says who added whom, and who founded what', async () => {
    expect(
      await noted(async () => {
        const person = { email: 'New@Example.org', name: 'Nell', password: 'for the first day' }
        await world.as('administrator', 'POST', '/api/people', person)
        await world.as('administrator', 'POST', '/api/entities', {
          id: 'other',
          name: 'Other',
          country: 'XA',
          currency: 'USD',
          timeZone: 'UTC',
          locale: 'en',
        })
      }),
    ).toEqual(['administrator added-person new@example.org', 'administrator founded other'])
    const { as } = await signIn('new@example.org', 'for the first day')
    expect((await as('GET', '/api/practice')).json().code).toBe('AXION_PASSWORD_TEMPORARY')
  })
})

describe('the entity’s trail', () => {
  const lines = async (): Promise<string[]> =>
    (await world.ok<TrailView>('GET', '/api/entities/larkspur/trail')).entries.map(
      ({ person, action, object }) => `${person} ${action} ${object}`,
    )

  it('has what went out as a file, and a bridge’s new token', async () => {
    await world.as('preparer', 'GET', `${MONTH}/tie-out/list.csv`)
    await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/ledger', {
      role: 'ledger',
      name: 'Ledger',
      address: `${world.standins}/ledger/bridge`,
      token: world.token,
    })
    expect((await lines()).slice(0, 2)).toEqual([
      'administrator changed-token Ledger',
      'preparer exported tie-out-2026-09.csv',
    ])
  })

  it('is written under the name behind a session, or not at all', async () => {
    await expect(
      inEntity(world.services.database, 'larkspur', ({ trx }) =>
        trx.raw(`select note_trail('[{"action": "posted", "object": "x"}]')`),
      ),
    ).rejects.toThrow('nobody is known to act')
  })
})

describe('the application’s role', () => {
  test.each([
    ['reads a hash', 'select password_hash from person'],
    ['reads all of a person', 'select * from person'],
    ['lets somebody in', `select let_in(person_id, 'x', 60, '') from person`],
    ['asks for keys', `select keys_of('viewer@example.org')`],
    [
      'makes a session',
      `insert into session (token_hash, person_id, expires_at) select 'x', person_id, now() from person`,
    ],
    ['makes an administrator', 'update person set may_create_entities = true'],
    [
      'writes a line',
      `insert into audit_entry (entity_id, person, action, object, place, digest) values ('larkspur', 'x', 'y', 'z', 1, '')`,
    ],
    ['changes a line', `update audit_entry set person = 'x'`],
    ['takes a line away', 'delete from audit_entry'],
    ['writes under a name', `select trail_write('larkspur', 'x', '[]')`],
    ['moves an end', `update chain_head set place = 1`],
    ['writes a line of the practice', `insert into practice_entry select * from practice_entry`],
  ])('never %s', async (_, sql) => {
    await expect(world.services.database.raw(sql)).rejects.toThrow(/permission denied/)
  })

  test.each([
    ['an entity’s books', 'select 1 from source_document'],
    ['the trail', 'select 1 from audit_entry'],
    ['people', 'select name from person'],
  ])('and that of the keys sees nothing of %s', async (_, sql) => {
    await expect(world.services.keys.raw(sql)).rejects.toThrow(/permission denied/)
  })
})

describe('a chain', () => {
  const broken = async (harm: string, log = ''): Promise<string[]> => {
    const trx = await owner.transaction()
    try {
      await trx.raw(harm)
      return await brokenIn(trx, headsIn(log))
    } finally {
      await trx.rollback()
    }
  }
  const last = (table: string): string =>
    table === 'practice_entry'
      ? `delete from practice_entry where place = (select max(place) from practice_entry)`
      : `delete from audit_entry where entity_id = 'larkspur' and place = (select max(place) from audit_entry where entity_id = 'larkspur')`

  it('holds as it stands, and against what was logged of it', async () => {
    const log = (await headsOf(world.services.database)).map(headLine).join('\n')
    expect(await broken('select 1', `other lines\n${log}`)).toEqual([])
  })

  it('has words for whatever it has a line of, also those that the database writes by itself', async () => {
    const written = await world.ownerSql<{ action: string }>(
      'select action from audit_entry union select action from practice_entry',
    )
    const functions = await world.ownerSql<{ body: string }>(
      `select p.prosrc as body from pg_proc p join pg_namespace n on n.oid = p.pronamespace and n.nspname = 'public'`,
    )
    const names = [
      ...written.map(({ action }) => action),
      ...functions.flatMap(({ body }) =>
        [...body.matchAll(/'action', '([a-z-]+)'|practice_line\('([a-z-]+)'/g)].map(
          ([, one, other]) => one ?? other ?? '',
        ),
      ),
    ]
    expect(names).toContain('failed-to-sign-in')
    expect(names.filter((action) => !Object.hasOwn(ACTS, action))).toEqual([])
  })

  test.each<[string, string, RegExp[]]>([
    [
      'a line was changed',
      `update audit_entry set object = 'x' where entity_id = 'larkspur' and place = 2`,
      [/^larkspur: line 2 was changed/],
    ],
    [
      'a line was taken out',
      `delete from audit_entry where entity_id = 'larkspur' and place = 2`,
      [/^larkspur: lines are missing before line 3/],
    ],
    ['the last line was taken off', last('audit_entry'), [/^larkspur: its end is not where it should be/]],
    [
      'the practice’s last line was taken off',
      last('practice_entry'),
      [/^The practice: its end is not where it should be/],
    ],
    [
      'a time was changed',
      `update practice_entry set at = at - interval '1 day' where place = 1`,
      [/^The practice: line 1 was changed/],
    ],
  ])('says that %s', async (_, harm, says) => {
    expect(await broken(harm)).toEqual(says.map((one) => expect.stringMatching(one)))
  })

  it('whose end was moved together with its last line is told by what was logged', async () => {
    const log = (await headsOf(world.services.database)).map(headLine).join('\n')
    const harm = `${last('audit_entry')};
      update chain_head h set place = e.place, digest = e.digest from audit_entry e where h.chain = 'larkspur' and e.entity_id = 'larkspur' and e.place = h.place - 1`
    expect(await broken(harm)).toEqual([])
    expect(await broken(harm, log)).toEqual([
      expect.stringMatching(/^larkspur: line \d+ is not the one that was logged/),
    ])
  })
})
