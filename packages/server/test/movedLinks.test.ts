import { LINK_KIND_OF, ALIGN_KINDS, type AlignKind } from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { basisOf, ensureAligned } from '../src/align/build.ts'
import { KINDS } from '../src/align/kinds/index.ts'
import { link, unlink } from '../src/align/links.ts'
import { movedSince, noteMoved } from '../src/align/moved.ts'
import { acting, changing, inEntity, type Acting } from '../src/database/connection.ts'
import { drawing } from '../../demo/src/shared/draw.ts'
import { drawOf, type Draw } from './anew/acting.ts'
import { demoPair, makeWorld, type World } from './world.ts'

let world: World
/** On whose behalf links are moved: what documents come to is another's to prove. */
let at: Acting
beforeAll(async () => {
  world = await makeWorld({ ...demoPair(), others: otherSystems(SEED) })
  await world.run('/pulls', { systemIds: null })
  // Some items bear codes that the baseline does not know, and meet it by their names.
  await world.ownerSql(
    `update held_object set value = value || jsonb_build_object('code', object_id || '-x') where resource = 'items' and ('x' || left(md5(object_id), 4))::bit(16)::int % 2 = 0`,
  )
  await world.ownerSql('delete from align_built')
  const [run] = await world.ownerSql<{ run_id: string }>(
    `insert into run (entity_id, kind, payload, started_by, state, lease, leased_until) values ('larkspur', 'none', '{}', 'a test', 'running', 1, now() + interval '1 day') returning run_id`,
  )
  at = { run: run?.run_id ?? '', lease: '1' }
})
afterAll(() => world.close())

const SEEDS = [1, 2]
const LINKED = ALIGN_KINDS.filter((kind) => LINK_KIND_OF[kind] !== null)

/** The month's grids as they are read now. */
async function grids(): Promise<readonly string[]> {
  await inEntity(world.services.database, 'larkspur', (books) => ensureAligned(books, '2026-09'))
  const rows = await world.ownerSql<{ line: string }>(
    ['align_row', 'align_finding']
      .map(
        (table) => `select '${table} ' || to_jsonb(t)::text as line from ${table} t where period = '2026-09'`,
      )
      .join(' union all ') + ' order by 1',
  )
  return rows.map(({ line }) => line)
}

/** Links an object to any row of its grid, or takes its link back. @returns what was done, in words */
async function act(draw: Draw, kind: AlignKind): Promise<string | null> {
  const of = LINK_KIND_OF[kind]
  if (of === null) return null
  const { objects, ids, links } = await inEntity(world.services.database, 'larkspur', async (books) => {
    const basis = await basisOf(books, '2026-09')
    return {
      objects: basis.systems.flatMap(({ held, crosswalk }) =>
        crosswalk.of(of).map(({ objectId }) => ({ systemId: held.row.system_id, objectId })),
      ),
      ids: KINDS[kind].rows(basis).map(({ id }) => id),
      links: basis.systems.flatMap(({ held }) => held.links.filter((one) => one.kind === of)),
    }
  })
  if (objects.length === 0 || ids.length === 0) return null
  const isUndone = links.length > 0 && draw.is(40)
  const [object, baselineId] = [
    isUndone ? draw.of(links) : draw.of(objects),
    draw.of(draw.is(70) ? ids.slice(0, 4) : ids),
  ]
  const request = { systemId: object.systemId, kind: of, objectId: object.objectId }
  await acting.run(at, () =>
    changing(world.services.database, 'larkspur', async (books) =>
      noteMoved(books, [
        isUndone
          ? await unlink(books, 'a test', request)
          : await link(books, '2026-09', 'a test', { ...request, baselineId }),
      ]),
    ),
  )
  return `${of} ${object.systemId} ${object.objectId} ${isUndone ? 'unlinked' : `to ${baselineId}`}`
}

it.each(SEEDS)(
  'a link has just its own rows worked out anew, and they come to the same (seed %i)',
  async (seed) => {
    const draw = drawOf(drawing(seed))
    const done = new Set<AlignKind>()
    for (let turn = 0; turn < 40; turn++) {
      await grids()
      const did: (string | null)[] = []
      for (const kind of [draw.of(LINKED), draw.of(['items', 'parties'] as const)].slice(
        0,
        draw.of([1, 2]),
      )) {
        const what = await act(draw, kind)
        if (what !== null) done.add(kind)
        did.push(what)
      }
      const before = await inEntity(world.services.database, 'larkspur', async (books) => {
        const [clock, built] = [
          await books.trx('align_clock').where({ entity_id: 'larkspur' }).first('set_up'),
          await books.trx('align_built').where({ entity_id: 'larkspur', period: '2026-09' }).first('set_up'),
        ]
        return movedSince(books, built?.set_up ?? '', clock?.set_up ?? '')
      })
      // What moved is known: nothing is worked out anew but what it concerns.
      expect([did, before?.length]).toEqual([did, did.filter((one) => one !== null).length])
      const after = await grids()
      await world.ownerSql('delete from align_built')
      expect([did, after]).toEqual([did, await grids()])
    }
    expect(done.has('items')).toBe(true)
  },
)

it('works all out anew where something else of the set-up changed as well', async () => {
  await grids()
  const draw = drawOf(drawing(7))
  await act(draw, 'items')
  await world.ownerSql(`update align_clock set set_up = set_up + 1`)
  const since = await inEntity(world.services.database, 'larkspur', async (books) => {
    const built = await books
      .trx('align_built')
      .where({ entity_id: 'larkspur', period: '2026-09' })
      .first('set_up')
    return movedSince(books, built?.set_up ?? '', String(BigInt(built?.set_up ?? '0') + 2n))
  })
  expect(since).toBeNull()
})
