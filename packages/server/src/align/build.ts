import { SEVERITIES, type FindingCode, type FindingKind } from '@axion/contract'
import { lastDayOf } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { waitFor, type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import type { Clock } from '../setUp/clock.ts'
import { crosswalk } from '../setUp/crosswalk.ts'
import { ALL_SET_UP, loadHeld } from '../setUp/held.ts'
import { writeGrids } from './grid/written.ts'
import { summedStakes } from './grid/stakes.ts'
import type { GridBasis } from './kinds/index.ts'
import { movedSince } from './moved.ts'
import { purposesOf } from './purposes.ts'
import { noteAmounts } from './rules/amounts.ts'

/**
 * Sees to it that a month's grids stand as they should: worked out from the set-up and the baseline, with what is at stake by the
 * month's documents. Does nothing where neither moved since. Grids are kept as rows, so that opening one and filtering it is a query.
 */
export async function ensureAligned(books: Books, month: string): Promise<void> {
  const { trx, entityId } = books
  const state = async (): Promise<{ clock: Clock; built: Clock | undefined }> => ({
    clock: (await trx('align_clock').where({ entity_id: entityId }).first('set_up', 'facts')) ?? {
      set_up: '0',
      facts: '0',
    },
    built: await trx('align_built').where({ entity_id: entityId, period: month }).first('set_up', 'facts'),
  })
  const before = await state()
  if (isFresh(before)) return
  await waitFor(books, `grids ${month}`)
  const now = await state()
  if (isFresh(now)) return
  if (now.built?.set_up !== now.clock.set_up) {
    const moved = now.built ? await movedSince(books, now.built.set_up, now.clock.set_up) : null
    await writeGrids(books, month, { basis: await basisOf(books, month), moved })
  }
  await refreshStakes(books, month)
  await trx('align_built')
    .insert({
      entity_id: entityId,
      period: month,
      ...now.clock,
      stakes: json(await summedStakes(books, month)),
    })
    .onConflict(['entity_id', 'period'])
    .merge()
}

function isFresh({ clock, built }: { readonly clock: Clock; readonly built: Clock | undefined }): boolean {
  return built?.set_up === clock.set_up && built.facts === clock.facts
}

/** The baseline and what every system holds, side by side, as they stand now. */
export async function basisOf(books: Books, month: string): Promise<GridBasis> {
  const index = await loadBaseline(books)
  const date = lastDayOf(month)
  return {
    index,
    date,
    purposes: await purposesOf(books),
    systems: (await loadHeld(books, ALL_SET_UP)).map((held) => ({
      held,
      crosswalk: crosswalk(held, index, date),
    })),
  }
}

/** A row's findings, how bad they are, and by what keys they put tax at stake: those that nobody left with a reason. */
export async function countFindings(
  { trx, entityId }: Books,
  month: string,
  { kind, rowId }: { readonly kind: FindingKind; readonly rowId: string },
): Promise<void> {
  await trx.raw(
    `update align_row r set findings = f.n, worst = f.worst, keys = f.keys
     from (select count(*) as n, coalesce(max(array_position(:severities::text[], severity) - 1), -1) as worst, coalesce(array_agg(distinct finding_key) filter (where finding_key is not null), '{}') as keys
       from align_finding where entity_id = :entity and period = :month and kind = :kind and row_id = :row and left_because is null) f
     where r.entity_id = :entity and r.period = :month and r.kind = :kind and r.row_id = :row`,
    { entity: entityId, month, kind, row: rowId, severities: [...SEVERITIES].reverse() },
  )
  await trx('align_built').where({ entity_id: entityId, period: month }).update({ stakes: null })
}

/** What is at stake by each row's findings, a document counted once at its largest; and how many documents each row touches. */
async function refreshStakes(books: Books, month: string): Promise<void> {
  await noteSales(books, month)
  await noteAmounts(books, month)
  await put(books, month, 'stake', STAKED)
  await put(books, month, 'documents', TOUCHED)
}

const STAKED = `
  with own as (select kind, row_id, unnest(keys) as finding_key from align_row where entity_id = :e and period = :p),
    largest as (select o.kind, o.row_id, s.unit_id, max(s.amount) as amount from own o join stake_share s on s.entity_id = :e and s.period = :p and s.finding_key = o.finding_key group by 1, 2, 3)
  select kind, row_id, sum(amount) as n from largest group by 1, 2`

const TOUCHED = `
  with counted as (select split_part(touch, '|', 1) as kind, substr(touch, strpos(touch, '|') + 1) as row_id, documents from touch_sum where entity_id = :e and period = :p)
  select kind, row_id, sum(documents) as n from (
    select kind, row_id, documents from counted
    union all select 'accounts', 'tax ' || row_id, documents from counted where kind = 'agencies'
    union all select 'methods', coalesce(l.baseline_id, h.value->>'code'), count(*) from held_record r
      join held_object h on h.entity_id = r.entity_id and h.system_id = r.system_id and h.resource = 'payment-methods' and h.object_id = r.value->>'paymentMethodId'
      left join link l on l.entity_id = r.entity_id and l.system_id = r.system_id and l.kind = 'payment-method' and l.object_id = h.object_id
      where r.entity_id = :e and r.period = :p and r.resource = 'settlements' and not r.removed group by 2) x
  where row_id is not null group by 1, 2`

/** Findings that documents give rise to, and not the set-up: sales to a party without a certificate, or taxed in spite of one. */
async function noteSales(books: Books, month: string): Promise<void> {
  const { trx, entityId } = books
  const here = { e: entityId, p: month, codes: SALES_CODES }
  const { rows: before } = (await trx.raw(
    'delete from align_finding where entity_id = :e and period = :p and code = any(:codes) returning row_id',
    here,
  )) as { rows: { row_id: string }[] }
  const { rows: after } = (await trx.raw(
    `insert into align_finding (entity_id, period, kind, row_id, place, code, severity, system_id, finding_key, facts, left_because)
     select r.entity_id, r.period, r.kind, r.row_id, 900 + (s.code = :second)::int, s.code, 'costs', null, s.finding_key, jsonb_build_object('name', r.name),
       (select jsonb_build_object('reason', l.reason, 'person', l.person, 'at', l.at) from align_left l where l.entity_id = r.entity_id and l.kind = r.kind and l.row_id = r.row_id and l.code = s.code and l.system_id = '')
     from (select distinct finding_key, split_part(finding_key, '|', 3) as party, case split_part(finding_key, '|', 4) when 'without' then :first else :second end as code from stake_share where entity_id = :e and period = :p and starts_with(finding_key, 'sales|party|')) s
       join align_row r on r.entity_id = :e and r.period = :p and r.kind = 'parties' and r.row_id = s.party returning row_id`,
    { ...here, first: SALES_CODES[0], second: SALES_CODES[1] },
  )) as { rows: { row_id: string }[] }
  for (const rowId of new Set([...before, ...after].map((row) => row.row_id)))
    await countFindings(books, month, { kind: 'parties', rowId })
}

const SALES_CODES: readonly [FindingCode, FindingCode] = [
  'AXION_SALES_WITHOUT_CERTIFICATE',
  'AXION_SALES_TAXED_IN_SPITE',
]

/** @param sums SQL of what rows come to, by kind and row; of others it is nothing */
async function put(
  { trx, entityId }: Books,
  month: string,
  column: 'stake' | 'documents',
  sums: string,
): Promise<void> {
  await trx.raw(
    `with s as materialized (${sums}),
       come as (update align_row r set ${column} = s.n from s where r.entity_id = :e and r.period = :p and r.kind = s.kind and r.row_id = s.row_id and r.${column} <> s.n)
     update align_row r set ${column} = 0 where r.entity_id = :e and r.period = :p and r.${column} <> 0 and (r.kind, r.row_id) not in (select kind, row_id from s)`,
    { e: entityId, p: month },
  )
}
