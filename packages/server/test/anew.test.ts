import { LINK_KINDS, WHOLE_SCOPE, type LinkKind } from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { changing } from '../src/database/connection.ts'
import { proveAll } from '../src/proof/prove.ts'
import { drawing } from '../../demo/src/shared/draw.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

/** What is proved after whatever was done equals what is proved from nothing: whoever adds an act that writes adds it here. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld({
    others: otherSystems(SEED).filter((system) => ['pos', 'commerce'].includes(system.id)),
  })
})
afterAll(() => world.close())

const RESOURCE: Readonly<Partial<Record<LinkKind, readonly [resource: string, table: string]>>> = {
  agency: ['agencies', 'agency'],
  'combined-rate': ['tax-rates', 'combined_rate'],
  item: ['items', 'item'],
  party: ['parties', 'party'],
  location: ['locations', 'location'],
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

async function fromNothing(): Promise<ReadonlySet<string>> {
  await world.ownerSql(`delete from unit`)
  await changing(world.services.database, 'larkspur', (books) => proveAll(books, '2026-09'))
  return kept()
}

const drawn = drawing(Number(process.env['SEED'] ?? 20_261_128))
const draw = {
  below: (limit: number): number => drawn(0, limit - 1),
  is: (percent: number): boolean => drawn(0, 99) < percent,
  of: <T>(some: readonly T[]): T => some[drawn(0, some.length - 1)] as T,
}

async function linked(): Promise<string> {
  const kind = draw.of(LINK_KINDS.filter((one) => one in RESOURCE))
  const [resource, table] = RESOURCE[kind] as readonly [string, string]
  const held = await world.ownerSql<{ system_id: string; object_id: string }>(
    `select system_id, object_id from held_object where resource = '${resource}' and not removed order by 1, 2`,
  )
  const baseline = await world.ownerSql<{ id: string }>(
    `select distinct object_id as id from ${table} where upper_inf(recorded) order by 1`,
  )
  const { system_id: systemId, object_id: objectId } = draw.of(held)
  const baselineId = draw.of(baseline).id
  const body = { systemId, kind, objectId }
  const answer = await (draw.is(70)
    ? world.as('preparer', 'PUT', `${MONTH}/links`, { ...body, baselineId })
    : world.as('preparer', 'DELETE', `${MONTH}/links`, body))
  return `${kind} ${objectId} ${answer.statusCode}`
}

async function registered(): Promise<string> {
  const agency = draw.of(['TDT', 'HCT', 'CPL'])
  const to = draw.is(50) ? '2026-09-14' : null
  const versions = [{ number: 'N-1', basis: 'cash', frequency: 'quarter', from: '2024-01-01', to }]
  const answer = await world.as('preparer', 'PUT', `${MONTH}/registrations/${agency}`, { versions })
  return `${agency} ${answer.statusCode}`
}

async function scoped(): Promise<string> {
  const system = draw.of(['billing', 'pos'])
  const path = `${MONTH}/systems/${system}/scope`
  const scope = { ...WHOLE_SCOPE, from: draw.of([null, '2026-09-08', '2026-09-20']) }
  const { revision } = (await world.as('administrator', 'POST', `${path}/preview`, scope)).json<{
    revision: string
  }>()
  return `${system} ${(await world.as('administrator', 'PUT', path, { scope, revision })).statusCode}`
}

async function atSource(): Promise<string> {
  const documents = await world.ownerSql<{ id: string }>(
    `select document_id as id from document where system_id = 'billing' and kind = 'invoice' and status = 'open' order by 1`,
  )
  const { id } = draw.of(documents)
  const action = draw.of(['void', 'credit', 'amount'])
  await (action === 'amount'
    ? world.desk('billing', 'invoices', { id, amount: `${draw.below(900)}.5${draw.below(10)}` })
    : world.desk('billing', 'state', { id, action }))
  await world.run('/pulls', { systemIds: draw.is(50) ? ['billing'] : null })
  return `${id} ${action}`
}

async function inLedger(): Promise<string> {
  const entries = await world.ledgerSql<{ id: string }>(
    `select id from object where resource = 'journal-entries' and not removed and value->>'voided' = 'false' order by 1`,
  )
  if (entries.length === 0) return 'no entries'
  const { id } = draw.of(entries)
  const action = draw.of(['void', 'copy', 'date'])
  await world.desk('ledger', 'entries', { id, action, ...(action === 'date' ? { date: '2026-10-01' } : {}) })
  await world.run('/pulls', { systemIds: ['ledger'] })
  return `${id} ${action}`
}

async function posted(): Promise<string> {
  await world.run('/post/rehearsal')
  const begun = await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
  if (begun.statusCode === 409) return 'nothing to post'
  const { done } = await world.finish(begun.json<{ run: string }>().run)
  await world.run('/pulls', { systemIds: null })
  return String(done)
}

const ACTS = { linked, registered, scoped, atSource, inLedger, posted }

it('is the same after any acts as from nothing', async () => {
  const done: string[] = []
  for (let act = 0; act < Number(process.env['ACTS'] ?? 16); act++) {
    const name = act === 4 ? 'posted' : draw.of(Object.keys(ACTS) as (keyof typeof ACTS)[])
    done.push(`${name}: ${await ACTS[name]()}`)
    const [after, anew] = [await kept(), await fromNothing()]
    expect({
      done,
      tooMuch: [...after].filter((line) => !anew.has(line)),
      tooLittle: [...anew].filter((line) => !after.has(line)),
    }).toEqual({ done, tooMuch: [], tooLittle: [] })
  }
}, 600_000)
