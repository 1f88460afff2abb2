import { noteSetUp } from '../packages/server/src/setUp/clock.ts'
import { BaselineImport, GridQuery, PAGE_ROWS, type AlignKind } from '@axion/contract'
import { baseline } from '@axion/demo'
import { ensureAligned } from '../packages/server/src/align/build.ts'
import { noteMoved } from '../packages/server/src/align/moved.ts'
import { agreementGrid } from '../packages/server/src/align/grid/grid.ts'
import { importBaseline, recordedAt } from '../packages/server/src/baseline/import.ts'
import { connect, inEntity, type Books, type Database } from '../packages/server/src/database/connection.ts'
import { json } from '../packages/server/src/database/json.ts'
import { analyzed, foundEntity } from './entity.ts'
import { timed } from './timed.ts'

export interface AlignTimes {
  readonly items: number
  readonly parties: number
  readonly systems: number
  /** Milliseconds, medians; the bare queries read the same rows without what the grid adds. */
  readonly build: number
  /** Once a link moved. */
  readonly linked: number
  readonly open: number
  readonly bareOpen: number
  readonly filter: number
  readonly bareFilter: number
  readonly findings: number
}

const ENTITY = 'bench-align'
const MONTH = '2026-09'
const SYSTEMS = 6

/** A baseline of many items and parties over six systems, of which each holds a few per cent otherwise. */
export async function timeAlign(
  owner: string,
  app: string,
  items: number,
  parties: number,
): Promise<AlignTimes> {
  await foundEntity(owner, ENTITY)
  const runs = connect(app, 2)
  await inEntity(runs, ENTITY, (books) => fill(books, items, parties))
  await analyzed(owner)
  try {
    return await measure(runs, items, parties)
  } finally {
    await runs.destroy()
  }
}

async function fill(books: Books, items: number, parties: number): Promise<void> {
  const { trx } = books
  const plain = baseline()
  await importBaseline(
    books,
    BaselineImport.parse({ ...plain, items: plain.items.slice(0, 1) }),
    await recordedAt(books),
  )
  await trx.raw(
    `insert into item (entity_id, object_id, name, item_tax_code, valid) select :e, 'IT-' || i, 'Article number ' || i || ' of ' || md5(i::text), (array['GOODS', 'FOOD', 'TOOLS'])[1 + i % 3], daterange(null, null) from generate_series(1, :n::int) i`,
    { e: ENTITY, n: items },
  )
  await trx.raw(
    `insert into party (entity_id, object_id, name, claims, catch_all, valid) select :e, 'cus-' || i, 'Customer ' || md5(i::text), case when i % 20 = 0 then 'resale' end, false, daterange(null, null) from generate_series(1, :n::int) i`,
    { e: ENTITY, n: parties },
  )
  for (let at = 1; at <= SYSTEMS; at++) {
    const id = `shop-${at}`
    await trx('system').insert({
      entity_id: ENTITY,
      system_id: id,
      role: 'billing',
      name: `Shop ${at}`,
      address: 'http://127.0.0.1:1',
      token_sealed: Buffer.from('none'),
      about: json({ resources: ['items', 'parties', 'agencies', 'tax-rates'], takes: [], webAddress: null }),
      settings: json({ defaultItemTaxCode: 'GOODS' }),
    })
    await trx.raw(
      `insert into held_object (entity_id, system_id, resource, object_id, revision, removed, value)
       select :e, :s, 'items', 'i' || i, '1', false, jsonb_build_object('code', 'IT-' || i, 'kind', 'goods', 'name', 'Article number ' || i || ' of ' || md5(i::text) || case when (i + :at) % 97 = 0 then ' ' else '' end,
         'taxable', i % 3 <> 1, 'itemTaxCode', case when (i + :at) % 41 = 0 then null else (array['GOODS', 'FOOD', 'TOOLS'])[1 + (i + case when (i + :at) % 53 = 0 then 1 else 0 end) % 3] end) from generate_series(1, :n::int) i`,
      { e: ENTITY, s: id, at, n: items },
    )
    await trx.raw(
      `insert into held_object (entity_id, system_id, resource, object_id, revision, removed, value)
       select :e, :s, 'parties', 'cus-' || i, '1', false, jsonb_build_object('name', 'Customer ' || md5(i::text), 'address', null, 'exemption', case when (i + case when (i + :at) % 71 = 0 then 1 else 0 end) % 20 = 0 then jsonb_build_object('reason', 'resale', 'certificate', null, 'from', null, 'to', null) end) from generate_series(1, :n::int) i`,
      { e: ENTITY, s: id, at, n: parties },
    )
  }
  await noteSetUp(books)
}

async function measure(database: Database, items: number, parties: number): Promise<AlignTimes> {
  const inside = <T>(work: (books: Books) => Promise<T>): Promise<T> => inEntity(database, ENTITY, work)
  const grid = (kind: AlignKind, query: object): Promise<{ readonly findings: number }> =>
    inside((books) => agreementGrid(books, MONTH, kind, GridQuery.parse(query)))
  const here = { e: ENTITY, p: MONTH }
  const build = await timed(() => inside((books) => ensureAligned(books, MONTH)), 1)
  const linked = await timed(async () => {
    const link = { kind: 'item', systemId: 'shop-1', objectId: 'i1' } as const
    await inside(async (books) => {
      const key = { entity_id: ENTITY, system_id: link.systemId, kind: link.kind, object_id: link.objectId }
      await books
        .trx('link')
        .insert({ ...key, baseline_id: 'IT-77', linked_by: 'bench', evidence: json([]) })
        .onConflict(Object.keys(key))
        .merge()
      await noteMoved(books, [{ ...link, stoodFor: ['IT-1', 'IT-77'] }])
    })
    await inside((books) => ensureAligned(books, MONTH))
  }, 3)
  const open = await timed(() => grid('items', {}), 7)
  const bareOpen = await timed(
    () =>
      inside(({ trx }) =>
        trx.raw(
          `select * from align_row where entity_id = :e and period = :p and kind = 'items' order by place limit ${PAGE_ROWS}`,
          here,
        ),
      ),
    7,
  )
  const filter = await timed(
    () => grid('items', { search: 'number 77', only: 'differs', sort: 'findings' }),
    7,
  )
  const bareFilter = await timed(
    () =>
      inside(({ trx }) =>
        trx.raw(
          `select * from align_row where entity_id = :e and period = :p and kind = 'items' and findings > 0 and search like '%number%' and search like '%77%' order by findings desc, place limit ${PAGE_ROWS}`,
          here,
        ),
      ),
    7,
  )
  return {
    items,
    parties,
    systems: SYSTEMS,
    build,
    linked,
    open,
    bareOpen,
    filter,
    bareFilter,
    findings: (await grid('items', {})).findings,
  }
}
