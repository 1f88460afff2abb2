import { afterAll, beforeAll, expect, it } from 'vitest'
import { makeReadyWorld, type World } from './world.ts'

/** What an installation tells whoever watches over it. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
})
afterAll(() => world.close())

/** Each figure by its name and labels, as the open text format has them. */
async function figures(): Promise<ReadonlyMap<string, number>> {
  const answer = await world.app.inject({ method: 'GET', url: '/metrics' })
  expect([answer.statusCode, answer.headers['content-type']]).toEqual([
    200,
    expect.stringContaining('text/plain; version='),
  ])
  const lines = answer.body.split('\n').filter((line) => line !== '' && !line.startsWith('#'))
  return new Map(
    lines.map((line) => {
      const [, name = '', value = ''] = /^(\w+(?:\{[^}]*\})?) (\S+)$/.exec(line) ?? []
      expect(Number.isFinite(Number(value)), line).toBe(true)
      return [name, Number(value)]
    }),
  )
}

it('is what runs, queue and documents come to', async () => {
  const now = await figures()
  const runs = await world.ownerSql<{ kind: string; state: string; n: number }>(
    'select kind, state, count(*)::int as n from run group by 1, 2',
  )
  expect(runs.length).toBeGreaterThan(1)
  for (const { kind, state, n } of runs)
    expect(now.get(`axion_runs_day{database="directory",kind="${kind}",state="${state}"}`)).toBe(n)
  const [rehearsed] = await world.ownerSql<{ n: number }>(
    `select count(*)::int as n from post_line where state = 'rehearsed'`,
  )
  expect(rehearsed?.n).toBeGreaterThan(0)
  expect(now.get('axion_post_documents{database="directory",state="rehearsed"}')).toBe(rehearsed?.n)
  expect(now.get('axion_database_up{database="directory"}')).toBe(1)
  for (const memory of ['heap', 'resident'])
    expect(now.get(`axion_${memory}_bytes`)).toBeGreaterThan(1_000_000)
  const waiting = 'axion_runs_unfinished{database="directory",is="waiting"}'
  expect(now.get(waiting)).toBe(0)
  const run = await world.begin('/pulls', { systemIds: null })
  expect((await figures()).get(waiting)).toBe(1)
  await world.finish(run)
})

it('names nobody, and is told on this machine alone', async () => {
  const { body } = await world.app.inject({ method: 'GET', url: '/metrics' })
  expect(body).not.toMatch(/larkspur|example\.org|LA-\d/i)
  for (const name of ['x-forwarded-for', 'forwarded', 'via'])
    expect(
      (await world.app.inject({ method: 'GET', url: '/metrics', headers: { [name]: '10.0.0.7' } }))
        .statusCode,
    ).toBe(404)
  for (const remoteAddress of ['10.0.0.7', '::ffff:10.0.0.7', '2001:db8::1'])
    expect((await world.app.inject({ method: 'GET', url: '/metrics', remoteAddress })).statusCode).toBe(404)
})
