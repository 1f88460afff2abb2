import { spawn, type ChildProcess } from 'node:child_process'
import {
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  unlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { SYSTEM_ROLES, type SystemRole } from '@axion/contract'
import { samplesOf, writeBridge, type From } from '@axion/newbridge'
import { afterAll, describe, expect, it, test } from 'vitest'
import { freePort, ROOT } from '../../../scripts/lib/home.mjs'
import { checkBridge } from '../src/index.ts'

/** Bridges as `npm run bridge:new` writes them: each passes what is tested of any, and tells what changes in its tables. */
const folder = mkdtempSync(join(tmpdir(), 'axion-bridges-'))
const running: ChildProcess[] = []
afterAll(() => {
  for (const child of running) child.kill('SIGKILL')
  rmSync(folder, { recursive: true, force: true })
})

interface Begun {
  readonly dir: string
  readonly url: string
  readonly token: string
  readonly child: ChildProcess
}

/** @param settled seconds for which a file may still be written to; none: files that were written just now are whole here */
async function begin(dir: string, settled = '0'): Promise<Begun> {
  const port = await freePort()
  const child = spawn(process.execPath, ['--import', 'tsx', 'bridge.ts'], {
    cwd: dir,
    env: { ...process.env, PORT: String(port), SETTLED: settled },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  running.push(child)
  for await (const line of createInterface({ input: child.stdout })) if (line.includes('http://')) break
  return {
    dir,
    child,
    url: `http://127.0.0.1:${port}`,
    token: readFileSync(join(dir, 'token'), 'utf8').trim(),
  }
}

function written(role: SystemRole, from: From, name = `${role}-${from}`): string {
  const dir = join(folder, name)
  writeBridge({ role, dir, from })
  symlinkSync(join(ROOT, 'node_modules'), join(dir, 'node_modules'))
  return dir
}

interface Item {
  readonly id: string
  readonly sequence: string
  readonly removed: boolean
  readonly value: Record<string, unknown> | null
}
async function ask(
  { url, token }: Begun,
  path: string,
): Promise<{ status: number; body: { items: Item[]; next: string; detail?: string } }> {
  const answer = await fetch(url + path, { headers: { authorization: `Bearer ${token}` } })
  return { status: answer.status, body: (await answer.json()) as never }
}
async function stop({ child }: Begun): Promise<void> {
  const ended = new Promise((done) => child.once('exit', done))
  child.kill('SIGKILL')
  await ended
}

test.each(SYSTEM_ROLES.flatMap((role) => (['own', 'csv'] as const).map((from) => [role, from] as const)))(
  'a bridge for %s, from %s, breaks no rule, and has just its sample',
  async (role, from) => {
    const bridge = await begin(written(role, from))
    const results = await checkBridge(bridge.url, bridge.token, { write: true })
    expect(results.filter(({ state }) => state === 'fails')).toEqual([])
    expect(results.filter(({ state }) => state === 'holds').length).toBeGreaterThan(5)
    for (const [resource, rows] of Object.entries(samplesOf(role))) {
      const { items } = (await ask(bridge, `/${resource}?after=0`)).body
      expect(items.map(({ id, value }) => ({ id, value }))).toEqual(rows)
    }
    await stop(bridge)
  },
)

describe('a bridge from tables', () => {
  const table = (dir: string, name: string): string => join(dir, 'data', `${name}.csv`)
  const change = (path: string, to: (text: string) => string): void =>
    writeFileSync(path, to(readFileSync(path, 'utf8')))

  it('tells what is new, changed, gone and back, each once, and goes on where it was after a fall', async () => {
    const dir = written('billing', 'csv', 'changing')
    let bridge = await begin(dir)
    let { next } = (await ask(bridge, '/items?after=0')).body
    const since = async (): Promise<Item[]> => {
      const { body } = await ask(bridge, `/items?after=${next}`)
      next = body.next
      return body.items
    }
    const path = table(dir, 'items')
    const box = readFileSync(path, 'utf8')
    expect(await since()).toEqual([])
    // An id is text, whatever it spells.
    change(path, (text) => `${text}__proto__,ODD,Odd,goods,yes,\n`)
    expect((await since()).map(({ id }) => id)).toEqual(['__proto__'])
    change(path, (text) => `${text}item-2,LID,Lid,goods,yes,\n`)
    expect((await since()).map(({ id }) => id)).toEqual(['item-2'])
    change(path, (text) => text.replace('Lid', 'Round lid'))
    expect(await since()).toMatchObject([{ id: 'item-2', value: { name: 'Round lid', itemTaxCode: null } }])
    writeFileSync(path, box)
    expect(await since()).toMatchObject([
      { id: '__proto__', removed: true },
      { id: 'item-2', removed: true, value: null },
    ])
    await stop(bridge)
    change(path, (text) => `${text}item-2,LID,Lid,goods,yes,\n`)
    bridge = await begin(dir)
    expect(await since()).toMatchObject([{ id: 'item-2', removed: false }])
    expect(await since()).toEqual([])
    // Without its memory it tells all once more, past everything it told before.
    await stop(bridge)
    unlinkSync(join(dir, 'state.json'))
    bridge = await begin(dir)
    expect((await since()).map(({ id }) => id)).toEqual(['item-1', 'item-2'])
    await stop(bridge)
  })

  test.each<[string, string, (text: string) => string, RegExp]>([
    ['a column is gone', 'items', (text) => text.replace('name', 'called'), /items\.csv has no column name/],
    [
      'a column means nothing',
      'items',
      (text) => text.replace('itemTaxCode', 'itemTaxcode'),
      /column itemTaxcode, which means nothing/,
    ],
    [
      'a cell is neither yes nor no',
      'items',
      (text) => text.replace('yes', 'maybe'),
      /items\.csv, line 2: taxable is "maybe"/,
    ],
    [
      'a cell is empty that has to be there',
      'items',
      (text) => text.replace('Box', ''),
      /line 2: name is empty/,
    ],
    ['a row is too long', 'items', (text) => text.replace('Box', 'Box,Box'), /items\.csv: .*line 2/i],
    [
      'a line is of no document',
      'document-lines',
      (text) => text.replaceAll('doc-2', 'doc-9'),
      /document-lines\.csv names doc-9/,
    ],
    ['an id stands twice', 'items', (text) => `${text}item-1,LID,Lid,goods,yes,\n`, /items has item-1 twice/],
  ])('says which table it cannot read, and where: %s', async (what, name, to, says) => {
    const dir = written('billing', 'csv', what.replaceAll(' ', '-'))
    const bridge = await begin(dir)
    const before = (await ask(bridge, '/items?after=0')).body
    const was = readFileSync(table(dir, name), 'utf8')
    change(table(dir, name), to)
    const resource = name === 'items' ? '/items?after=0' : '/documents?after=0'
    const { status, body } = await ask(bridge, resource)
    expect([status, body.detail]).toEqual([500, expect.stringMatching(says)])
    // Nothing was taken for gone meanwhile.
    writeFileSync(table(dir, name), was)
    expect((await ask(bridge, '/items?after=0')).body).toEqual(before)
    await stop(bridge)
  })

  it('reads semicolons, a mark of order and columns that are left out alike, and no table that is being written', async () => {
    const dir = written('billing', 'csv', 'dialects')
    const path = table(dir, 'items')
    const bridge = await begin(dir)
    const before = (await ask(bridge, '/items?after=0')).body
    writeFileSync(path, '\ufeffid;code;name;kind;taxable\nitem-1;BOX;Box;goods;yes\n')
    expect((await ask(bridge, '/items?after=0')).body).toEqual(before)
    renameSync(path, `${path}.away`)
    expect((await ask(bridge, '/items?after=0')).body.detail).toMatch(/items\.csv is not in/)
    await stop(bridge)
    renameSync(`${path}.away`, path)
    const patient = await begin(dir, '7200')
    expect((await ask(patient, '/items?after=0')).status).toBe(503)
    const old = new Date(Date.now() - 86_400_000)
    utimesSync(path, old, old)
    expect((await ask(patient, '/items?after=0')).body).toEqual(before)
    await stop(patient)
  })
})

it('writes over nothing', () => {
  const dir = join(folder, 'there')
  writeBridge({ role: 'bank', dir, from: 'csv' })
  expect(() => writeBridge({ role: 'bank', dir, from: 'own' })).toThrow(/has something in it/)
})
