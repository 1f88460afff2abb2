import {
  BASELINE_SHEETS,
  SYSTEM_SHEETS,
  type AlignKind,
  type BatchView,
  type ConnectView,
  type FilesView,
  type GridView,
  type ImportView,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { changesBetween, heldFrom } from '../src/files/changes.ts'
import { tablesOf } from '../src/tables/tablesOf.ts'
import { csvOf, csvTable } from '../src/tables/csv.ts'
import { decimalText, workbookOf } from '../src/tables/workbook.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

/** Rows of the longest file; npm run test:long has a hundred thousand. */
const MANY = Number(process.env['AXION_IMPORT_ROWS'] ?? 20_000)

let world: World
beforeAll(async () => {
  world = await makeReadyWorld({})
  await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/market/files', {
    role: 'commerce',
    name: 'Market stall',
    company: 'Larkspur at the market',
    baseCurrency: 'USD',
    timeZone: 'America/Chicago',
    defaultItemTaxCode: 'GOODS',
  })
})
afterAll(() => world.close())

const view = (id: string): Promise<ImportView> => world.ok<ImportView>('GET', `${MONTH}/files/imports/${id}`)
const grid = (kind: AlignKind): Promise<GridView> =>
  world.ok<GridView>('GET', `${MONTH}/align/${kind}?limit=500`)
async function bring(
  target: string,
  sheet: string | null,
  content: Buffer | string,
  name = 'file.csv',
): Promise<ImportView> {
  const query = new URLSearchParams({ target, name, ...(sheet ? { sheet } : {}) })
  const answer = await world.upload(
    'preparer',
    `${MONTH}/files/imports?${query.toString()}`,
    Buffer.from(content),
  )
  if (answer.statusCode >= 300) throw new Error(`${answer.statusCode} ${answer.body}`)
  const { import: id, run } = answer.json<{ import: string; run: string }>()
  await world.finish(run)
  return view(id)
}
const read = (
  it: ImportView,
  mappings: ImportView['sheets'][number]['mapping'][] = it.sheets.map((s) => s.mapping),
): ReturnType<World['run']> =>
  world.run(`/files/imports/${it.id}/read`, {
    mappings: Object.fromEntries(it.sheets.map((s, at) => [s.name, mappings[at]])),
  })
const apply = (id: string, mode: 'whole' | 'part', goodOnly = false): ReturnType<World['run']> =>
  world.run(`/files/imports/${id}/apply`, { mode, goodOnly })
async function takes(
  target: string,
  sheet: string | null,
  content: Buffer | string,
  mode: 'whole' | 'part' = 'whole',
  name?: string,
): Promise<ImportView> {
  const it = await bring(target, sheet, content, name)
  expect((await read(it)).problem).toBeNull()
  const seen = await view(it.id)
  expect((await apply(it.id, mode)).problem).toBeNull()
  return seen
}
/** Of an item, its codes with the dates that they hold. */
const codesOf = async (code: string): Promise<(string | null)[][]> =>
  (
    await world.ownerSql<{ item_tax_code: string; from: string | null; to: string | null }>(
      `select item_tax_code, lower(valid)::text as "from", (upper(valid) - 1)::text as "to" from item where entity_id = 'larkspur' and object_id = $1 and upper_inf(recorded) order by lower(valid) nulls first`,
      [code],
    )
  ).map((row) => [row.item_tax_code, row.from, row.to])
const out = async (target: string, sheet: string, format = 'csv'): Promise<Buffer> =>
  (await world.as('preparer', 'GET', `${MONTH}/files/${target}/${sheet}?format=${format}`)).rawPayload

const ITEMS =
  'Code;Name;Kind;Taxable;Item tax code\r\nSMOKER;Smoker, stainless steel;goods;yes;GOODS\r\nHONEY-5;Clover honey, 500 g jar;goods;no;\r\nBALM;"Balm; 60 ml ";goods;yes;GOODS\r\n'

describe('files', () => {
  test.each<[string, string, string]>([
    ['7.45', '7.4500000000000002', '7.45'],
    ['a long number', '12345678901234567', '12345678901234600'],
    ['nil', '0.0', '0'],
    ['a power', '1.5E-3', '0.0015'],
    ['a large power', '2e3', '2000'],
    ['a negative', '-0.10', '-0.1'],
    ['a code', '00-7', '00-7'],
  ])('give %s of a workbook exactly', (_, text, exact) => expect(decimalText(text)).toBe(exact))

  it('go out and come in as the same cells, whatever is in them, as CSV and as XLSX', async () => {
    const rows = [
      ['=1+1', '-5', '@x', "'=quoted", ' space ', 'a;b', 'c,"d"', '007', '', 'Größe – ü'],
      ['+1', '\ttab', 'line\nbreak', "'apostrophe", '0', '', '', '', '', 'x'],
    ]
    const header = rows[0]?.map((__, at) => `Column ${at}`) ?? []
    const csv = csvOf(header, rows)
    expect([csv.includes("'=1+1"), csv.includes(',-5,')]).toEqual([true, true])
    expect(csvTable(Buffer.from(csv), 'x.csv').rows.map((r) => r.cells)).toEqual(rows)
    const [sheet] = await tablesOf(await workbookOf([{ name: 'Items', header, rows }]), 'x.xlsx')
    expect([
      sheet?.name,
      sheet?.rows.map((r) => [...r.cells, ...Array<string>(10).fill('')].slice(0, 10)),
    ]).toEqual(['Items', rows])
  })

  test.each<[string, Buffer | string]>([
    ['nothing but lines', '\n\n'],
    ['no text', Buffer.from([1, 2, 0, 255, 254])],
    ['a quote without an end', 'Code,Name\n"A,B\n'],
    ['a damaged workbook', Buffer.from([0x50, 0x4b, 3, 4, 9, 9, 9])],
  ])('that hold %s are refused, and nothing is left of them', async (_, content) => {
    const it = await bring('market', 'items', content)
    expect(it.state).toBe('failed')
    expect(await world.ownerSql(`select 1 from file_import_row where import_id = '${it.id}'`)).toEqual([])
  })

  it('refuse what is no target, a sheet that the system does not have, and whoever may not', async () => {
    const ask = async (who: string, target: string, sheet: string): Promise<number> =>
      (
        await world.upload(
          who,
          `${MONTH}/files/imports?${new URLSearchParams({ target, sheet, name: 'x.csv' }).toString()}`,
          Buffer.from(ITEMS),
        )
      ).statusCode
    expect([
      await ask('preparer', 'billing', 'items'),
      await ask('preparer', 'market', 'accounts'),
      await ask('viewer', 'market', 'items'),
      await ask('stranger', 'market', 'items'),
    ]).toEqual([404, 404, 403, 404])
  })
})

describe('a system of spreadsheets', () => {
  it('is bound to a company by name, and pulls and checks leave it alone', async () => {
    const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect(systems.find((s) => s.id === 'market')).toMatchObject({
      product: 'Spreadsheets',
      company: 'Larkspur at the market',
    })
    expect((await world.run('/pulls', { systemIds: null })).pulled.every((p) => p.problem === null)).toBe(
      true,
    )
    const { targets } = await world.ok<FilesView>('GET', `${MONTH}/files`)
    expect(targets.filter((t) => t.takes).map((t) => t.id)).toEqual(['baseline', 'market'])
  })

  it('takes a file by its columns’ titles, and what it holds is aligned as any other’s', async () => {
    const it = await takes('market', 'items', ITEMS)
    expect([it.sheets[0]?.remembered, it.changes.whole]).toMatchObject([
      false,
      { added: 3, changed: 0, removed: 0 },
    ])
    const cells = (await grid('items')).rows.flatMap((row) =>
      row.cells.filter((c) => c.systemId === 'market' && c.state !== 'none').map((c) => [row.id, c.state]),
    )
    expect(cells).toEqual([
      ['SMOKER', 'agrees'],
      ['HONEY-5', 'differs'],
      ['(new)', 'agrees'],
      ['market BALM', 'differs'],
    ])
  })

  it('remembers its mapping by the header, keeps what changed as history, and takes away only where the file is the whole', async () => {
    const odd = 'what,bezeichnung,sort,steuer\nSMOKER,Smoker,goods,yes\nBALM,"Balm; 60 ml ",goods,yes\n'
    const first = await bring('market', 'items', odd)
    expect((await read(first)).problem?.says).toContain('Code has no column of the file')
    const mapping = { id: null, code: 0, name: 1, kind: 2, taxable: 3, itemTaxCode: null }
    await read(first, [mapping])
    expect((await view(first.id)).changes).toMatchObject({
      whole: { changed: 2, removed: 1 },
      part: { changed: 2, removed: 0 },
    })
    await apply(first.id, 'part')
    const again = await bring('market', 'items', odd)
    expect(again.sheets[0]).toMatchObject({ remembered: true, mapping })
    const market = (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems.find(
      (s) => s.id === 'market',
    )
    expect(
      market?.changes
        .flatMap((c) => c.fields.map((f) => `${c.label} ${f.field}: ${f.from} > ${f.to}`))
        .sort(),
    ).toEqual([
      'Balm; 60 ml  itemTaxCode: GOODS > ',
      'Smoker itemTaxCode: GOODS > ',
      'Smoker name: Smoker, stainless steel > Smoker',
    ])
    await read(again)
    await apply(again.id, 'whole')
    expect(
      (
        await world.ownerSql(
          `select object_id from held_object where system_id = 'market' and not removed order by 1`,
        )
      ).map((r) => (r as { object_id: string }).object_id),
    ).toEqual(['BALM', 'SMOKER'])
  })

  it('says bad rows by line and reason, and takes the good ones only when it is told to', async () => {
    const it = await bring(
      'market',
      'items',
      `${ITEMS}X1;;goods;yes;\r\nX2;Two;thing;yes;\r\nX3;Three;goods;perhaps;\r\n`,
    )
    await read(it)
    const seen = await view(it.id)
    expect([seen.bad, seen.badRows.map((r) => `${r.line}: ${r.problem.split(':')[0]}`)]).toEqual([
      3,
      ['5: Name is missing', '6: Kind', '7: Taxable'],
    ])
    expect(
      (
        await world.as('preparer', 'POST', `${MONTH}/files/imports/${it.id}/apply`, {
          mode: 'part',
          goodOnly: false,
        })
      ).json<{ code: string }>().code,
    ).toBe('AXION_FILE_BAD_ROWS')
    await apply(it.id, 'part', true)
    expect((await view(it.id)).state).toBe('applied')
    expect(
      (
        await world.as('preparer', 'POST', `${MONTH}/files/imports/${it.id}/apply`, {
          mode: 'part',
          goodOnly: true,
        })
      ).json<{ code: string }>().code,
    ).toBe('AXION_STALE')
  })

  test.each(['csv', 'xlsx'])('what went out as %s comes in as no change, for every kind', async (format) => {
    for (const key of ['agencies', 'tax-rates', 'items', 'parties'] as const) {
      const content = await out('billing', key, format)
      const it = await bring('market', key, content, `billing.${format}`)
      await read(it)
      expect((await apply(it.id, 'whole')).problem, key).toBeNull()
      const again = await bring('market', key, await out('market', key, format), `market.${format}`)
      await read(again)
      const { changes, bad } = await view(again.id)
      expect([key, bad, changes.whole?.added, changes.whole?.changed, changes.whole?.removed]).toEqual([
        key,
        0,
        0,
        0,
        0,
      ])
      const rows = (id: string): Promise<unknown[]> =>
        world.ownerSql(
          `select object_id, value from held_object where system_id = '${id}' and resource = '${key}' and not removed order by 1`,
        )
      expect(await rows('market')).toEqual(await rows('billing'))
    }
    expect(Object.keys(SYSTEM_SHEETS)).toHaveLength(9)
  })
})

describe('the baseline as spreadsheets', () => {
  it('goes out as one workbook, and comes in as no change', async () => {
    const before = await world.ownerSql(
      `select version_id from item union all select version_id from code_rule order by 1`,
    )
    const it = await takes('baseline', null, await out('baseline', 'all', 'xlsx'), 'whole', 'baseline.xlsx')
    expect(it.sheets.map((s) => s.sheet).sort()).toEqual(Object.keys(BASELINE_SHEETS).sort())
    expect(it.changes.whole).toMatchObject({ added: 0, changed: 0, removed: 0 })
    expect(
      await world.ownerSql(
        `select version_id from item union all select version_id from code_rule order by 1`,
      ),
    ).toEqual(before)
  })

  it('is edited in bulk, with a preview of what would change, one sheet at a time', async () => {
    const csv = (await out('baseline', 'items')).toString().replace('Pine hive, eight frames', 'Pine hive')
    const it = await takes('baseline', 'items', csv)
    expect([it.changes.whole?.changed, it.changes.whole?.samples]).toEqual([
      1,
      [
        {
          kind: 'changed',
          label: 'HIVE-8 Pine hive',
          fields: [{ field: 'name', from: 'Pine hive, eight frames', to: 'Pine hive' }],
        },
      ],
    ])
    expect((await grid('items')).rows.find((r) => r.id === 'HIVE-8')?.name).toBe('Pine hive')
    const lacking = await bring('baseline', 'items', 'Code,Name,Item tax code\nNEW,New,NONE\n')
    await read(lacking)
    expect((await apply(lacking.id, 'part')).problem?.says).toContain('The item NEW names NONE')
    expect((await view(lacking.id)).state).toBe('read')
  })

  it('asks from when a row holds that would be otherwise since ever, and one act takes the whole file back', async () => {
    const csv = (await out('baseline', 'items'))
      .toString()
      .split('\r\n')
      .map((line) => (line.includes('HIVE-8') ? line.replace(/,[A-Z]+(?=,[^,]*,[^,]*$)/, ',TOOLS') : line))
      .join('\r\n')
    const it = await bring('baseline', 'items', csv)
    await read(it)
    expect((await view(it.id)).changes.whole).toMatchObject({ changed: 1, earlier: 1 })
    const was = await codesOf('HIVE-8')
    expect(was).toEqual([[expect.any(String), null, null]])
    const asked = await world.as('preparer', 'POST', `${MONTH}/files/imports/${it.id}/apply`, {
      mode: 'whole',
      goodOnly: false,
    })
    expect([asked.statusCode, asked.json<{ code: string }>().code]).toEqual([409, 'AXION_FROM_WHEN'])
    expect(await codesOf('HIVE-8')).toEqual(was)
    const taken = await world.run(`/files/imports/${it.id}/apply`, {
      mode: 'whole',
      goodOnly: false,
      changesFrom: '2026-09-01',
    })
    expect(taken.problem).toBeNull()
    expect(await codesOf('HIVE-8')).toEqual([
      [was[0]?.[0], null, '2026-08-31'],
      ['TOOLS', '2026-09-01', null],
    ])
    const [batch] = (await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)).batches
    expect(batch).toMatchObject({ says: 'Spreadsheet file.csv', canUndo: true })
    expect((await world.run('/align/undo', { batchId: batch?.id })).problem).toBeNull()
    expect(await codesOf('HIVE-8')).toEqual(was)
  })

  it('asks again when it is taken, where the baseline moved since the file was read', async () => {
    const it = await bring('baseline', 'items', 'Code,Name,Item tax code\nLATE-1,Late one,TOOLS\n')
    await read(it)
    expect((await view(it.id)).changes.part).toMatchObject({ added: 1, earlier: 0 })
    await takes('baseline', 'items', 'Code,Name,Item tax code\nLATE-1,Late one,GOODS\n', 'part')
    expect((await apply(it.id, 'part')).problem?.says).toBe(
      '1 row would be otherwise, or gone, for months before 2026-09 too, proved ones included.',
    )
    expect(await codesOf('LATE-1')).toEqual([['GOODS', null, null]])
  })

  it('is not taken back over what was agreed since for the same days', async () => {
    const latest = async (): Promise<BatchView | undefined> =>
      (await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)).batches.find(
        ({ undoneBy }) => undoneBy === null,
      )
    const undo = async (batch: BatchView | undefined): Promise<string | undefined> =>
      (await world.run('/align/undo', { batchId: batch?.id })).problem?.says
    const all = (await out('baseline', 'items')).toString()
    const gone = await bring(
      'baseline',
      'items',
      all
        .split('\r\n')
        .filter((line) => !line.startsWith('LATE-1'))
        .join('\r\n'),
    )
    await read(gone)
    expect((await view(gone.id)).changes.whole).toMatchObject({ removed: 1, earlier: 1 })
    const taking = { mode: 'whole', goodOnly: false, changesFrom: null }
    expect((await world.run(`/files/imports/${gone.id}/apply`, taking)).problem).toBeNull()
    expect(await codesOf('LATE-1')).toEqual([])
    const first = await latest()
    await takes('baseline', 'items', 'Code,Name,Item tax code\nLATE-1,Late one,TOOLS\n', 'part')
    expect(await undo(first)).toBe(
      'The file’s item cannot be taken back: another was agreed since for days that it held.',
    )
    expect(await codesOf('LATE-1')).toEqual([['TOOLS', null, null]])
    expect([await undo(await latest()), await undo(first)]).toEqual([undefined, undefined])
    expect(await codesOf('LATE-1')).toEqual([['GOODS', null, null]])
  })

  const rate = (percent: string, from: string, to: string | null = null): { id: string; value: object } => ({
    id: `WN ${from}`,
    value: { jurisdiction: 'WN', percent, from, to },
  })
  test.each<[string, ReturnType<typeof rate>[], ReturnType<typeof rate>[], number, object[]]>([
    [
      'changed: what held goes on to the day before',
      [rate('5', '2024-01-01')],
      [rate('6', '2024-01-01')],
      1,
      [
        { percent: '5', from: '2024-01-01', to: '2026-08-31' },
        { percent: '6', from: '2026-09-01', to: null },
      ],
    ],
    ['the same', [rate('5', '2024-01-01')], [rate('5.0', '2024-01-01')], 0, [{ percent: '5.0', to: null }]],
    [
      'begun with the month',
      [rate('5', '2026-09-01')],
      [rate('6', '2026-09-01')],
      0,
      [{ percent: '6', from: '2026-09-01' }],
    ],
    ['gone: it ends the day before', [rate('5', '2024-01-01')], [], 1, [{ percent: '5', to: '2026-08-31' }]],
    [
      'gone, ended long ago: it stays',
      [rate('5', '2024-01-01', '2024-12-31')],
      [],
      1,
      [{ percent: '5', to: '2024-12-31' }],
    ],
    ['gone, begun with the month', [rate('5', '2026-09-01')], [], 0, []],
  ])('a rate that is %s', (_, before, after, earlier, held) => {
    expect(changesBetween(before, after, 'whole', '2026-09-01').earlier).toBe(earlier)
    expect(heldFrom(before, after, 'whole', '2026-09-01').map(({ value }) => value)).toMatchObject(held)
    expect(heldFrom(before, after, 'part', '2026-09-01')).toHaveLength(after.length === 0 ? 0 : held.length)
  })

  it(`takes ${MANY} rows with progress; a cancel in the middle leaves nothing of them`, async () => {
    const rows = [
      'Code,Name,Item tax code',
      ...Array.from({ length: MANY }, (_, at) => `N-${at},"Nail, ${at} mm",GOODS`),
    ].join('\n')
    const opened = await bring('baseline', 'items', rows)
    expect([opened.total, opened.state]).toEqual([MANY, 'mapping'])
    const stop = await world.begin(`/files/imports/${opened.id}/read`, {
      mappings: { '': opened.sheets[0]?.mapping },
    })
    await world.whileRunning(stop, (run) => run.done > 0, 'cancel')
    expect([
      (await world.ok<{ state: string }>('GET', `/api/entities/larkspur/runs/${stop}`)).state,
      (await view(opened.id)).state,
    ]).toEqual(['cancelled', 'mapping'])
    await read(opened)
    const counts = (): Promise<unknown[]> =>
      world.ownerSql(`select count(*)::int as n from item where upper_inf(recorded)`)
    const before = await counts()
    const taking = await world.begin(`/files/imports/${opened.id}/apply`, { mode: 'part', goodOnly: false })
    await world.whileRunning(taking, (run) => run.done > 2000 && run.done < MANY, 'cancel')
    expect([await counts(), (await view(opened.id)).state]).toEqual([before, 'read'])
    expect((await apply(opened.id, 'part')).problem).toBeNull()
    expect(await counts()).toEqual([{ n: (before[0] as { n: number }).n + MANY }])
  })
})
