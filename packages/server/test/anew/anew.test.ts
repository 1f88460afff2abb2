import { billingData, otherSystems, SEED, type SystemData } from '@axion/demo'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { drawing } from '../../../demo/src/shared/draw.ts'
import { ensureAligned } from '../../src/align/build.ts'
import { keptStakes } from '../../src/align/grid/stakes.ts'
import { changing, inEntity } from '../../src/database/connection.ts'
import { canonical } from '../../src/database/json.ts'
import { otherwiseAside, otherwiseOf } from '../../src/proof/anew.ts'
import { documentsOf } from '../../src/proof/gather.ts'
import { proveAll } from '../../src/proof/prove.ts'
import { fullProof } from '../../src/tieout/fullProof.ts'
import { writingRoutes } from '../routes.ts'
import { reckoner } from '../keeping.ts'
import { makeReadyWorld, type World } from '../world.ts'
import { drawOf } from './acting.ts'
import { ACTS, WRITTEN_BY } from './acts.ts'

/** What is proved after whatever was done equals what is proved from nothing, over two months and with credits of either. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld({
    billing: someOf(billingData(SEED, 'http://127.0.0.1:1/desk')),
    others: [
      ...otherSystems(SEED)
        .filter((system) => ['pos', 'commerce'].includes(system.id))
        .map((system) => ({ ...system, data: someOf(system.data) })),
      reckoner(),
    ],
    lockedThrough: '2026-07-31',
  })
})
afterAll(() => world.close())

/** August and September, a document in three; what gives back comes with what it gives back. */
function someOf({ settings, objects }: SystemData): SystemData {
  const values = objects.map(({ value }) => value as { documentDate?: string; creditsDocumentId?: string })
  const credited = new Set(values.flatMap((value) => value.creditsDocumentId ?? []))
  return {
    settings,
    objects: objects.filter(({ resource, id }, at) => {
      const { documentDate = '', creditsDocumentId } = values[at] ?? {}
      if (resource !== 'documents') return true
      const isNear = documentDate >= '2026-08' && documentDate < '2026-10'
      return creditsDocumentId != null || credited.has(id) || (isNear && at % 3 === 0)
    }),
  }
}

/** All that proofs keep, as lines, by what units go by. */
async function kept(): Promise<ReadonlySet<string>> {
  const of = (table: string): string =>
    `select u.named || ' ${table} ' || (to_jsonb(t) - '{entity_id,unit_id}'::text[])::text as line from ${table} t join unit u using (entity_id, unit_id)`
  const rows = await world.ownerSql<{ line: string }>(
    [
      `select u.named || ' unit ' || (to_jsonb(u) - '{unit_id,determined_at,fingerprint}'::text[])::text as line from unit u`,
      ...['determination', 'tax_fact', 'net_fact', 'special_line', 'stake_share', 'unproved_share'].map(of),
    ].join(' union all '),
  )
  return new Set(rows.map(({ line }) => line))
}

/** What months come to by agency and account, as it is kept, and as its parts come to. */
async function totals(): Promise<{ readonly kept: readonly string[]; readonly summed: readonly string[] }> {
  const of = (sql: string): Promise<string[]> =>
    world
      .ownerSql<{ line: string }>(`select to_jsonb(x)::text as line from (${sql}) x order by 1`)
      .then((rows) => rows.map(({ line }) => line))
  const columns = 'period, agency, account, stated, expected, booked, over, under'
  return {
    kept: await of(
      `select period, agency, account, stated, expected, booked, stated_over + booked_over as over, stated_under + booked_under as under from tie_total where members > 0`,
    ),
    summed: await of(
      `select ${columns} from (select m.period, coalesce(m.agency, '') as agency, coalesce(m.account, '') as account, coalesce(sum(m.stated), 0) as stated, coalesce(sum(m.expected), 0) as expected, coalesce(sum(m.booked), 0) as booked,
         sum(greatest(g.stated, 0) + greatest(g.booked, 0)) as over, sum(least(g.stated, 0) + least(g.booked, 0)) as under
       from tie_member m join tie_unit u using (entity_id, unit_id)
         cross join lateral (select coalesce(m.expected, 0) - coalesce(case when m.stated is null and not u.split_stated then m.expected else m.stated end, 0) as stated, coalesce(m.booked, 0) - coalesce(m.expected, 0) as booked) g
       where u.taken group by 1, 2, 3) s`,
    ),
  }
}

/** What full proofs of both months find: of what documents come to anew, of what units come to, of all that is summed of them, and of the lines of Post. */
async function inFull(): Promise<{
  readonly otherwise: readonly string[]
  readonly disagreeing: number
  readonly miscounted: number
}> {
  const found = { otherwise: [] as string[], disagreeing: 0, miscounted: 0 }
  for (const month of ['2026-08', '2026-09']) {
    const { view } = await inEntity(world.services.database, 'larkspur', (books) => fullProof(books, month))
    await changing(world.services.database, 'larkspur', async (books) => {
      const documents = await documentsOf(books, month, 'all')
      const anew = [...(await otherwiseOf(books, month, documents)), ...(await otherwiseAside(books, month))]
      found.otherwise.push(...anew.map(({ named }) => named))
    })
    found.disagreeing += view.disagreeing
    found.miscounted += view.miscounted
  }
  return found
}

/** @param alone nought has it worked out by threads */
async function fromNothing(alone: number): Promise<ReadonlySet<string>> {
  await world.ownerSql(`delete from unit`)
  expect(
    await world.ownerSql(
      `select from tie_total where (members, stated_members, unsplit_members, stated, expected, booked, unsplit) <> (0, 0, 0, 0, 0, 0, 0)`,
    ),
  ).toEqual([])
  expect(await world.ownerSql(`select from touch_sum`)).toEqual([])
  await changing(world.services.database, 'larkspur', (books) => proveAll(books, '2026-09', { alone }))
  return kept()
}

/** The grids of both months, as they are after an act, and rebuilt from nothing. */
async function grids(): Promise<{ readonly after: readonly string[]; readonly anew: readonly string[] }> {
  const built = async (): Promise<string[]> => {
    const stakes: string[] = []
    for (const month of ['2026-08', '2026-09'])
      await inEntity(world.services.database, 'larkspur', async (books) => {
        await ensureAligned(books, month)
        stakes.push(canonical(await keptStakes(books, month)))
      })
    const of = (table: string): string => `select '${table} ' || to_jsonb(t)::text as line from ${table} t`
    const rows = await world.ownerSql<{ line: string }>(
      `${of('align_row')} union all ${of('align_finding')} order by 1`,
    )
    return [...rows.map(({ line }) => line), ...stakes]
  }
  const after = await built()
  await world.ownerSql(`delete from align_built`)
  return { after, anew: await built() }
}

it('knows of every route that writes', async () => {
  const routes = (await writingRoutes(world)).flatMap(({ method, path }) => {
    const within = path.replace('/api/entities/{entity}', '')
    if (within === path || within === '') return []
    return `${method} ${within.replace('/months/{month}/', '')}`
  })
  expect(routes.sort()).toEqual(Object.keys(WRITTEN_BY).sort())
  const walked = new Set(Object.values(WRITTEN_BY).flatMap((by) => (typeof by === 'string' ? [] : by)))
  expect([...walked].sort()).toEqual(Object.keys(ACTS).sort())
})

it('is the same after any acts as from nothing', async () => {
  const draw = drawOf(drawing(Number(process.env['SEED'] ?? 20_261_128)))
  const names = Object.keys(ACTS) as (keyof typeof ACTS)[]
  // Each act at least once, in an order of its own, with bookings and a pull of everything among the first.
  const order = ['posted' as const, ...names.filter((one) => one !== 'posted')]
  const all = Array.from({ length: Number(process.env['ACTS'] ?? names.length) }, (_, at) =>
    at < names.length && process.env['ACTS'] === undefined ? (order[at] ?? 'posted') : draw.of(names),
  )
  const done: string[] = []
  for (const [at, name] of all.entries()) {
    done.push(`${name}: ${await ACTS[name]({ world, draw })}`)
    const seen = await grids()
    expect({ done, grids: seen.after }).toEqual({ done, grids: seen.anew })
    const { kept: totalsKept, summed } = await totals()
    expect({ done, totals: totalsKept }).toEqual({ done, totals: summed })
    expect({ done, inFull: await inFull() }).toEqual({
      done,
      inFull: { otherwise: [], disagreeing: 0, miscounted: 0 },
    })
    const [after, anew] = [await kept(), await fromNothing(at % 2 === 0 ? 0 : Infinity)]
    expect({
      done,
      tooMuch: [...after].filter((line) => !anew.has(line)),
      tooLittle: [...anew].filter((line) => !after.has(line)),
    }).toEqual({ done, tooMuch: [], tooLittle: [] })
  }
  if (process.env['SAY'] !== undefined) process.stdout.write(`${done.join('\n')}\n`)
}, 3_600_000)
