import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { makeWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeWorld()
})
afterAll(() => world.close())

const invite = async (name = 'Second billing', who = 'administrator'): Promise<string> =>
  (
    await world.as(who, 'POST', '/api/entities/larkspur/invitations', {
      systemId: name.toLowerCase().replace(' ', '-'),
      role: 'billing',
      name,
    })
  )
    .json<{ link?: string }>()
    .link?.replace('/invitation/', '') ?? ''
/** Somebody without any session. */
const follow = (link: string, body?: object): ReturnType<World['as']> =>
  world.as('nobody', body ? 'POST' : 'GET', `/api/invitations/${link}`, body)
const connection = (address = 'billing/bridge', token?: string): object => ({
  address: `${world.standins}/${address}`,
  token: token ?? world.token,
})

describe('an invitation', () => {
  it('lets somebody without an account complete one connection, once', async () => {
    const link = await invite()
    expect((await follow(link)).json()).toMatchObject({
      entity: 'Larkspur Apiary Supply',
      system: 'Second billing',
      role: 'billing',
      by: 'administrator',
    })
    const done = await follow(link, connection())
    expect(done.json()).toEqual({ system: 'Second billing', company: 'Larkspur Apiary Supply' })
    expect((await follow(link)).statusCode).toBe(404)
    expect((await follow(link, connection())).statusCode).toBe(404)
    const { systems } = await world.ok<{ systems: { name: string; company: string }[] }>(
      'GET',
      `${MONTH}/connect`,
    )
    expect(systems.map((s) => s.name)).toContain('Second billing')
    expect(
      (
        await world.ownerSql<{ person: string }>(
          `select person from audit_entry where object = 'Second billing' and action = 'connected'`,
        )
      )[0]?.person,
    ).toBe('invited by administrator')
  })

  it('is left unused by what fails: an address that is not allowed, another role, a wrong token', async () => {
    const link = await invite('Third billing')
    expect([
      (await follow(link, { address: 'http://10.0.0.1/bridge', token: world.token })).statusCode,
      (await follow(link, connection('ledger/bridge'))).statusCode,
      (await follow(link, connection('billing/bridge', 'not the token'))).statusCode,
    ]).toEqual([422, 422, 502])
    expect((await follow(link, connection())).statusCode).toBe(200)
  })

  it('is kept by its digest alone, ends after a week, and is made by administrators', async () => {
    const link = await invite('Fourth billing')
    expect(await world.ownerSql(`select 1 from invitation where strpos('${link}', digest) > 0`)).toEqual([])
    await world.ownerSql(
      `update invitation set expires_at = now() - interval '1 second' where name = 'Fourth billing'`,
    )
    expect((await follow(link)).statusCode).toBe(404)
    expect(await invite('Fifth billing', 'preparer')).toBe('')
  })
})
