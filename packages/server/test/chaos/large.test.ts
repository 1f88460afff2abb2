import { appendFileSync } from 'node:fs'
import { setTimeout as pause } from 'node:timers/promises'
import { expect, it, vi } from 'vitest'
import { pauses, Processes } from '../../../../scripts/lib/processes.mjs'
import { SETTINGS, source } from '../second/source.ts'
import { makeWorld, MONTH, type RunSeen } from '../world.ts'
import { mounted } from './stage.ts'
import { killPostgres } from './strikes.ts'

/**
 * PostgreSQL is stopped hard while a system with very many documents is read for the first time, between its pages, and again and again
 * while what came is taken over. AXION_CHAOS_DOCUMENTS says how many; four thousand where nothing is said.
 */
const MANY = Number(process.env['AXION_CHAOS_DOCUMENTS'] ?? 4000)
const PAGE = 500
const TOKEN = 'a token for very many'
/** Shares of the pages that are read, and then milliseconds of taking over, after which it falls. */
const FALLS = { reading: [0.3, 0.6, 0.9], taking: [100, 400, 900, 1600] }

function note(kind: string, during: string): void {
  const file = process.env['AXION_CHAOS_LOG']
  if (file) appendFileSync(file, `${JSON.stringify({ kind, during })}\n`)
}

it(
  `${MANY} documents are there once, however often the database falls while they come`,
  { timeout: 3_600_000 },
  async () => {
    const many = await source(
      'Many',
      { ...SETTINGS, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'America/Chicago' },
      TOKEN,
    )
    const [data, home] = [mounted(4000), mounted(64)]
    const world = await makeWorld({
      home: data.at,
      bridges: [many.address],
      environment: { AXION_WAITS: '0.05', AXION_SLICE: '600' },
    })
    const unwatch = world.cluster.keepRunning(100)
    const processes = new Processes(home.at, {}, pauses(0.05))
    try {
      const [document] = await world.billingSql<{ value: object }>(
        `select value from object where resource = 'documents' and value->>'documentDate' like '2026-09%' limit 1`,
      )
      let asked = 0
      many.instead((path, response, query) => {
        if (path !== 'documents') return false
        asked++
        const after = Number(query.get('after'))
        const items = Array.from({ length: Math.min(PAGE, MANY - after) }, (_, at) => ({
          id: `many_${after + at + 1}`,
          sequence: String(after + at + 1),
          revision: '1',
          removed: false,
          value: { ...document?.value, number: `M-${after + at + 1}`, status: 'draft' },
        }))
        const next = after + items.length
        response
          .writeHead(200, { 'content-type': 'application/json' })
          .end(JSON.stringify({ items, next: String(next), more: next < MANY }))
        return true
      })
      await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/many', {
        role: 'billing',
        name: 'Many',
        address: many.address,
        token: TOKEN,
      })
      processes.start('worker', 'packages/server/src/main/worker.ts', world.environment)
      const run = await world.begin('/pulls', { systemIds: ['many'] })
      const pages = Math.ceil(MANY / PAGE)
      const fall = async (): Promise<void> => {
        await killPostgres(world)
        note('PostgreSQL killed', 'reading')
      }
      const untilAsked = (share: number): Promise<void> =>
        vi.waitFor(() => expect(asked).toBeGreaterThanOrEqual(Math.ceil(pages * share)), {
          timeout: 600_000,
          interval: 2,
        })
      for (const share of FALLS.reading) {
        await untilAsked(share)
        await fall()
      }
      await untilAsked(1)
      for (const after of FALLS.taking) {
        await pause(after)
        await fall()
      }
      // The worker does the runs here: whoever else performed a slice would only find it at work.
      const ended = (id: string): Promise<RunSeen> =>
        vi.waitFor(
          async () => {
            const one = await world.ok<RunSeen>('GET', `/api/entities/larkspur/runs/${id}`)
            expect(['queued', 'running']).not.toContain(one.state)
            return one
          },
          { timeout: 1_800_000, interval: 200 },
        )
      const seen = await ended(run)
      expect([seen.state, seen.problem]).toEqual(['done', null])
      expect(
        await world.ownerSql(
          `select count(*)::int as n, count(distinct document_id)::int as documents, count(distinct number)::int as numbers from source_document where system_id = 'many'`,
        ),
      ).toEqual([{ n: MANY, documents: MANY, numbers: MANY }])
      // What had come was staged: no fall had it read from the start.
      expect(asked).toBeLessThan(pages + 3 * (FALLS.reading.length + FALLS.taking.length))
      expect((await world.ok<{ state: string }>('GET', `/api/entities/larkspur/runs/${run}`)).state).toBe(
        'done',
      )
      expect((await ended(await world.begin('/pulls', { systemIds: null }))).state).toBe('done')
      expect((await world.ok<{ notFresh: string[] }>('GET', `${MONTH}/close`)).notFresh).toEqual([])
      note('documents', String(MANY))
    } finally {
      unwatch()
      await processes.stop()
      await world.close()
      await many.close()
      world.cluster.stop()
      for (const one of [data, home]) one.clear()
    }
  },
)
