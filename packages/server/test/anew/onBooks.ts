import {
  type Committed,
  type SourceDocument,
  WHOLE_SCOPE,
  type PostView,
  type TieOutView,
} from '@axion/contract'
import { committed, computesFor, keepThere } from '../keeping.ts'
import { MONTH, type World } from '../world.ts'
import type { Act, Acting } from './acting.ts'

const pull = ({ world }: Acting, systemIds: readonly string[] | null = null): Promise<unknown> =>
  world.run('/pulls', { systemIds })

export const scoped: Act = async ({ world, draw }) => {
  const system = draw.of(['billing', 'pos'])
  const path = `${MONTH}/systems/${system}/scope`
  const from = draw.of([null, '2026-08-20', '2026-09-08', '2026-09-20'])
  const scope = { ...WHOLE_SCOPE, from }
  const shown = await world.as('administrator', 'POST', `${path}/preview`, scope)
  const { revision } = shown.json<{ revision: string }>()
  return `${system} ${(await world.as('administrator', 'PUT', path, { scope, revision })).statusCode}`
}

export const opened: Act = async ({ world, draw }) => {
  const day = draw.of([null, '2026-08-01', '2026-09-01', '2026-10-01'])
  const shown = await world.as('administrator', 'POST', `${MONTH}/opening/preview`, { day })
  const { revision } = shown.json<{ revision: string }>()
  const begun = await world.as('administrator', 'PUT', `${MONTH}/opening`, { day, revision })
  if (begun.statusCode !== 200) return `${day} ${begun.statusCode}`
  return `${day} ${(await world.finish(begun.json<{ run: string }>().run)).state}`
}

/** What a tax service keeps of a document is as it should be, another, or nobody's. */
export const keptThere: Act = async (acting) => {
  const { world, draw } = acting
  const documents = await world.ownerSql<{ id: string; value: SourceDocument }>(
    `select document_id as id, value from document where system_id = 'billing' and kind in ('invoice', 'credit-note') order by 1`,
  )
  const { id, value } = draw.of(documents)
  const right = committed(id, value)
  const how = draw.of([
    'right',
    'right',
    'gone',
    'cancelled',
    'untaxed',
    'by-number',
    'moved',
    'nobodys',
    'twice',
  ])
  const as: Readonly<Record<string, () => Committed | null>> = {
    gone: () => null,
    cancelled: () => ({ ...right, status: 'cancelled' }),
    untaxed: () => ({ ...right, taxes: [] }),
    'by-number': () => ({ ...right, documentId: null }),
    moved: () => ({ ...right, documentDate: draw.of(['2026-08-15', '2026-10-01']) }),
    nobodys: () => ({ ...right, documentId: 'inv_nowhere' }),
  }
  await keepThere(world, [[how === 'twice' ? `twice_${id}` : `kept_${id}`, (as[how] ?? (() => right))()]])
  await pull(acting, draw.is(50) ? ['reckoner'] : null)
  return `${id} ${how}`
}

export const computed: Act = async ({ world, draw }) => {
  const systems = draw.of([[], ['billing'], ['billing'], ['billing', 'pos']])
  return `${systems.join()} ${await computesFor(world, systems)}`
}

export const atSource: Act = async (acting) => {
  const { world, draw } = acting
  const documents = await world.ownerSql<{ id: string }>(
    `select document_id as id from document where system_id = 'billing' and kind = 'invoice' and status = 'open' order by 1`,
  )
  const { id } = draw.of(documents)
  const action = draw.of(['void', 'credit', 'amount'])
  await (action === 'amount'
    ? world.desk('billing', 'invoices', { id, amount: `${draw.below(900)}.5${draw.below(10)}` })
    : world.desk('billing', 'state', { id, action }))
  await pull(acting, draw.is(50) ? ['billing'] : null)
  return `${id} ${action}`
}

/** Something that a system holds changes there, without anybody's hand at its desk. */
export const setUpThere: Act = async (acting) => {
  const { world, draw } = acting
  const [system, resource, change] = draw.of([
    ['billing', 'items', `'{"itemTaxCode": "TOOLS"}'`],
    ['billing', 'items', `'{"taxable": false}'`],
    ['billing', 'parties', `'{"exemption": {"reason": "resale", "certificate": null}}'`],
    ['billing', 'tax-rates', `'{"name": "Renamed"}'`],
    ['ledger', 'tax-rates', `'{"components": null, "percent": "7.5"}'`],
    ['ledger', 'agencies', `'{"liabilityAccountId": "acct_2214"}'`],
    ['ledger', 'accounts', `'{"name": "Renamed"}'`],
    ['ledger', 'accounts', `'{"type": "income"}'`],
  ] as const)
  const [one] = await world.standinSql<{ id: string }>(
    system,
    `with one as (select id from object where resource = '${resource}' and not removed order by md5(id || '${draw.below(1000)}') limit 1)
     update object o set value = value || ${change}, revision = revision + 1, sequence = nextval('change_sequence') from one where o.resource = '${resource}' and o.id = one.id returning o.id`,
  )
  await pull(acting, draw.is(50) ? [system] : null)
  return `${resource} ${one?.id} ${change}`
}

export const inLedger: Act = async (acting) => {
  const { world, draw } = acting
  const entries = await world.ledgerSql<{ id: string }>(
    `select id from object where resource = 'journal-entries' and not removed and value->>'voided' = 'false' order by 1`,
  )
  if (entries.length === 0) return 'no entries'
  const { id } = draw.of(entries)
  const action = draw.of(['void', 'copy', 'date'])
  const date = draw.of(['2026-08-31', '2026-10-01'])
  await world.desk('ledger', 'entries', { id, action, ...(action === 'date' ? { date } : {}) })
  await pull(acting, ['ledger'])
  return `${id} ${action}`
}

export const posted: Act = async (acting) => {
  const { world } = acting
  await world.run('/post/rehearsal')
  const begun = await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
  if (begun.statusCode === 409) return 'nothing to post'
  const { done } = await world.finish(begun.json<{ run: string }>().run)
  await pull(acting)
  return String(done)
}

const unitsIn = async (world: World, states: readonly string[]): Promise<string[]> =>
  (await world.ok<PostView>('GET', `${MONTH}/post?limit=200`)).rows
    .filter(({ state }) => states.includes(state))
    .map(({ unit }) => unit)

export const withdrawn: Act = async (acting) => {
  const { world, draw } = acting
  const booked = await unitsIn(world, ['booked', 'sent'])
  if (booked.length === 0) return 'nothing booked'
  const units = [draw.of(booked)]
  const shown = await world.as('preparer', 'POST', `${MONTH}/post/withdrawals/preview`, { units })
  const { revision } = shown.json<{ revision: string }>()
  const begun = await world.as('preparer', 'POST', `${MONTH}/post/withdrawals`, { units, revision })
  if (begun.statusCode >= 300) return String(begun.statusCode)
  await world.finish(begun.json<{ run: string }>().run)
  return units.join()
}

export const inDoubt: Act = async (acting) => {
  const { world, draw } = acting
  const booked = await unitsIn(world, ['booked'])
  if (booked.length === 0) return 'nothing booked'
  const unit = draw.of(booked)
  await world.ownerSql(
    `update booking set state = 'in-doubt', uncertain_since = now(), reason_code = 'AXION_IN_DOUBT', reason_facts = '{}' where system_id || '/' || document_id = $1`,
    [unit],
  )
  const path = draw.of(['look-again', 'not-there'])
  const answer = await world.as('preparer', 'POST', `${MONTH}/post/${path}`, { units: [unit] })
  const run = answer.statusCode < 300 ? answer.json<{ run?: string }>().run : undefined
  if (run !== undefined) await world.finish(run)
  await pull(acting)
  return `${unit} ${path} ${answer.statusCode}`
}

export const kept: Act = async ({ world, draw }) => {
  const { causes } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
  const keepable = causes.filter((cause) => cause.keepable > 0)
  if (keepable.length === 0) return 'nothing to keep'
  const cause = draw.of(keepable).key
  const { revision } = await world.ok<{ revision: string }>(
    'GET',
    `${MONTH}/tie-out/kept/preview?cause=${encodeURIComponent(cause)}`,
  )
  await world.as('preparer', 'POST', `${MONTH}/tie-out/kept`, { cause, reason: 'It is small', revision })
  const { documents } = await world.ok<{ documents: { unit: string; kept: object | null }[] }>(
    'GET',
    `${MONTH}/tie-out/kept`,
  )
  const units = documents.filter((one) => one.kept).map((one) => one.unit)
  const agree = draw.is(70)
  const answer = await world.as('reviewer', 'POST', `${MONTH}/tie-out/kept/review`, { units, agree })
  return `${units.length} ${agree} ${answer.statusCode}`
}

export const doubted: Act = async ({ world, draw }) => {
  const { rows } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
  if (rows.length === 0) return 'nothing to doubt'
  const { unit } = draw.of(rows)
  const answer = await world.as('preparer', 'POST', `${MONTH}/evidence/doubt`, { unit })
  await world.run('/pulls', { systemIds: ['ledger'] })
  return `${unit} ${answer.statusCode}`
}

export const reconnected: Act = async (acting) => {
  const { world, draw } = acting
  const path = '/api/entities/larkspur/systems/pos'
  const off = await world.as('administrator', 'DELETE', path)
  if (draw.is(50)) return `off ${off.statusCode}`
  const on = await world.as('administrator', 'PUT', path, {
    role: 'pos',
    name: draw.of(['Tills', 'Counter']),
    address: `${world.standins}/pos/bridge`,
    token: world.token,
  })
  if (draw.is(50)) await pull(acting)
  return `on ${on.statusCode}`
}
