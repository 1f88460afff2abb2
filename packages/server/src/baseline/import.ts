import type { BaselineImport } from '@axion/contract'
import { type Books, type Transaction } from '../database/connection.ts'
import { isOverlap } from '../database/sqlState.ts'
import { canonical } from '../database/json.ts'
import { insertRows } from '../database/insert.ts'
import { Problem } from '../faults/problem.ts'
import { readBaseline } from './read.ts'
import { rowsOf } from './rows.ts'
import { dimensionId } from './tables/postings.ts'
import type { BaselineRow } from './tables/table.ts'

export interface ImportReport {
  readonly added: number
  readonly ended: number
}

/** So many rows are written between two looks at whether somebody wants it to end. */
const SLICE = 2000

interface StoredRow {
  readonly version_id: string
  readonly object_id: string
  readonly from: string | null
  readonly to: string | null
  readonly [column: string]: unknown
}

/**
 * Makes the baseline what the import says, from now on: versions that differ are ended and new ones recorded.
 * What was believed before stays readable by its recorded time.
 * @param at the instant that all of it is recorded at
 * @param written told how many rows are written so far; what it throws ends the import
 * @throws AXION_BASELINE_INCONSISTENT, AXION_BASELINE_OVERLAP; then nothing is changed
 */
export async function importBaseline(
  books: Books,
  baseline: BaselineImport,
  at: string,
  written: (rows: number) => Promise<void> = () => Promise.resolve(),
): Promise<ImportReport> {
  requireReferences(baseline)
  let added = 0
  let ended = 0
  for (const [table, rows] of Object.entries(rowsOf(baseline))) {
    const report = await importTable(books, table, rows, { at, written: (fresh) => written(added + fresh) })
    added += report.added
    ended += report.ended
  }
  return { added, ended }
}

/** An instant to record something at, past all that the entity has recorded: by the database's clock, unless that was set back. */
export async function recordedAt({ trx, entityId }: Books): Promise<string> {
  const [row] = (await trx('legal_entity')
    .where({ entity_id: entityId })
    .update({
      recorded_last: trx.raw(`greatest(clock_timestamp(), recorded_last + interval '1 microsecond')`),
    })
    .returning(trx.raw('recorded_last::text as at'))) as { at: string }[]
  return row?.at ?? ''
}

/**
 * Takes an import back: what it recorded is ended, and what it ended stands again, each under its own dates.
 * @throws AXION_NOT_UNDONE where any of it was changed again since
 */
export async function unimport(books: Books, at: string): Promise<void> {
  const { trx, entityId } = books
  const tables: { readonly table: string; readonly columns: readonly string[] }[] = []
  for (const table of Object.keys(rowsOf(await readBaseline(books))))
    tables.push({ table, columns: await columnsOf(trx, table) })
  for (const { table, columns } of tables) {
    const { rows: changed } = (await trx.raw(
      `select r.object_id from :table: r where r.entity_id = :e and lower(r.recorded) = :at::timestamptz and not upper_inf(r.recorded)
         and not exists (select from :table: s where ${isAgain(columns)}) limit 1`,
      { table, e: entityId, at },
    )) as { rows: { object_id: string }[] }
    if (changed[0])
      throw new Problem('AXION_NOT_UNDONE', {
        what: changed[0].object_id,
        why: 'it was changed again since',
      })
  }
  const now = await recordedAt(books)
  for (const { table, columns } of tables) {
    const names = columns.map((name) => `"${name}"`).join(', ')
    await trx.raw(
      `update :table: s set recorded = tstzrange(lower(s.recorded), :now::timestamptz) from :table: r
       where r.entity_id = :e and lower(r.recorded) = :at::timestamptz and ${isAgain(columns)}`,
      { table, e: entityId, at, now },
    )
    try {
      await trx.raw(
        `insert into :table: (${names}, recorded) select ${names}, tstzrange(:now::timestamptz, null) from :table: where entity_id = :e and upper(recorded) = :at::timestamptz`,
        { table, e: entityId, at, now },
      )
    } catch (error) {
      throw isOverlap(error)
        ? new Problem('AXION_NOT_UNDONE', {
            what: `The file’s ${table.replace('_', ' ')}`,
            why: 'another was agreed since for days that it held',
          })
        : error
    }
  }
}

/** What a row says, beside when it was recorded. */
async function columnsOf(trx: Transaction, table: string): Promise<readonly string[]> {
  const { rows } = (await trx.raw(
    `select column_name as name from information_schema.columns where table_schema = 'public' and table_name = :table and column_name not in ('version_id', 'recorded')`,
    { table },
  )) as { rows: { name: string }[] }
  return rows.map(({ name }) => name)
}

/** SQL: the row `s` stands, and says what `r` says: it is that row, or stands again for it after what came between was taken back. */
function isAgain(columns: readonly string[]): string {
  const of = (row: string): string => columns.map((name) => `${row}."${name}"`).join(', ')
  return `upper_inf(s.recorded) and s.entity_id = r.entity_id and s.object_id = r.object_id and (${of('s')}) is not distinct from (${of('r')})`
}

/** The same of one table alone. References are the caller's to check. */
export async function importTable(
  { trx, entityId }: Books,
  table: string,
  rows: readonly BaselineRow[],
  {
    at,
    written = () => Promise.resolve(),
  }: { readonly at: string; readonly written?: (rows: number) => Promise<void> },
): Promise<ImportReport> {
  const current = (await trx(table)
    .where({ entity_id: entityId })
    .whereRaw('upper_inf(recorded)')
    .select(
      '*',
      trx.raw('lower(valid)::text as "from"'),
      trx.raw('(upper(valid) - 1)::text as "to"'),
    )) as StoredRow[]
  const wanted = new Map(rows.map((row) => [wantedKey(row), row]))
  const obsolete = current.filter((row) => !wanted.delete(storedKey(row, rows[0])))
  if (obsolete.length > 0) {
    await trx(table)
      .where({ entity_id: entityId })
      .whereRaw('version_id = any(?)', [obsolete.map((row) => row.version_id)])
      .update({ recorded: trx.raw('tstzrange(lower(recorded), ?::timestamptz)', [at]) })
  }
  try {
    const fresh = [...wanted.values()].map(({ objectId, from, to, values }) => ({
      entity_id: entityId,
      object_id: objectId,
      ...values,
      valid: `[${from ?? ''},${to ?? ''}]`,
      recorded: `["${at}",)`,
    }))
    for (let done = 0; done < fresh.length; done += SLICE) {
      await insertRows(trx, table, fresh.slice(done, done + SLICE))
      await written(Math.min(fresh.length, done + SLICE))
    }
  } catch (error) {
    throw isOverlap(error)
      ? new Problem('AXION_BASELINE_OVERLAP', { what: `a ${table.replace('_', ' ')}` })
      : error
  }
  return { added: wanted.size, ended: obsolete.length }
}

function wantedKey({ objectId, from, to, values }: BaselineRow): string {
  return JSON.stringify([objectId, from, to, ...Object.values(values).map(comparable)])
}

function storedKey(row: StoredRow, like: BaselineRow | undefined): string {
  return JSON.stringify([
    row.object_id,
    row.from,
    row.to,
    ...Object.keys(like?.values ?? {}).map((column) => comparable(row[column])),
  ])
}

/** Covers as canonical text; a percent without idle zeros. */
function comparable(value: unknown): unknown {
  if (typeof value === 'string' && /^\d+\.\d+$/.test(value)) return value.replace(/\.?0+$/, '')
  return typeof value === 'object' && value !== null ? canonical(value) : value
}

/** @throws AXION_BASELINE_INCONSISTENT where something names what is not there */
export function requireReferences(baseline: BaselineImport): void {
  const codes = (rows: readonly { readonly code: string }[]): ReadonlySet<string> =>
    new Set(rows.map((row) => row.code))
  const agencies = codes(baseline.agencies)
  const jurisdictions = codes(baseline.jurisdictions)
  const itemTaxCodes = codes(baseline.itemTaxCodes)
  const check = (known: ReadonlySet<string>, what: string | null, where: string): void => {
    if (what !== null && !known.has(what)) throw new Problem('AXION_BASELINE_INCONSISTENT', { where, what })
  }
  for (const j of baseline.jurisdictions) {
    check(jurisdictions, j.parent, `The jurisdiction ${j.code}`)
    check(agencies, j.agency, `The jurisdiction ${j.code}`)
  }
  for (const rate of baseline.rateVersions)
    for (const j of [rate.jurisdiction, ...rate.onTopOf]) check(jurisdictions, j, 'A rate version')
  for (const rate of baseline.combinedRates)
    for (const j of rate.jurisdictions) check(jurisdictions, j, `The combined rate ${rate.code}`)
  for (const item of baseline.items) check(itemTaxCodes, item.itemTaxCode, `The item ${item.code}`)
  for (const rule of baseline.codeRules) {
    check(jurisdictions, rule.jurisdiction, 'A code rule')
    check(itemTaxCodes, rule.itemTaxCode, 'A code rule')
  }
  for (const registration of baseline.registrations) check(agencies, registration.agency, 'A registration')
  for (const rate of baseline.combinedRates)
    check(itemTaxCodes, rate.itemTaxCode, `The combined rate ${rate.code}`)
  for (const rule of baseline.regionRules) check(jurisdictions, rule.jurisdiction, 'A region rule')
  check(itemTaxCodes, baseline.defaults?.itemTaxCode ?? null, 'The default of new items')
  const parties = codes(baseline.parties)
  for (const certificate of baseline.certificates) {
    check(parties, certificate.party, `The certificate ${certificate.code}`)
    for (const region of certificate.regions)
      check(jurisdictions, region, `The certificate ${certificate.code}`)
  }
  for (const rounding of baseline.roundings) check(jurisdictions, rounding.jurisdiction, 'A rounding place')
  const methods = codes(baseline.paymentMethods)
  const items = codes(baseline.items)
  for (const { agency, only } of baseline.postingRules) {
    check(agencies, agency, 'A posting rule')
    // Parties and channels are known by documents too: a rule may come before them.
    const known =
      only?.by === 'item'
        ? items
        : only?.by === 'item-tax-code'
          ? itemTaxCodes
          : only?.by === 'method'
            ? methods
            : null
    if (known && only) check(known, only.id, 'A posting rule')
  }
  const dimensions = new Set(baseline.dimensions.map(({ dimension, code }) => dimensionId(dimension, code)))
  const regions = new Set(
    baseline.jurisdictions.flatMap((j) =>
      j.covers.flatMap(({ country, region }) => (region === undefined ? [country] : [country, region])),
    ),
  )
  for (const { code, when, then } of baseline.rules) {
    const where = `The rule ${code}`
    check(items, when.item, where)
    check(regions, when.region, where)
    check(methods, when.method, where)
    check(items, then.item, where)
    check(itemTaxCodes, then.itemTaxCode, where)
    check(dimensions, then.dimension, where)
  }
  for (const said of baseline.collecting) check(jurisdictions, said.jurisdiction, 'Who collects')
  for (const threshold of baseline.thresholds)
    check(jurisdictions, threshold.jurisdiction, 'A registration threshold')
}
