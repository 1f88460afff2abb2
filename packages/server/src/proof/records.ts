import type { SourceDocument } from '@axion/contract'
import { absolute, amountInBase, combinedRatesOf, groupBy, recoverableTax, sum } from '@axion/core'
import { insertRows, type Transaction } from '../database/connection.ts'
import type { Family } from '../documents/families.ts'
import { specialLinesOf } from '../documents/specialLines.ts'
import { inBaseCurrency, sourceUnit, type SourceUnit, type StoredDocument } from '../documents/units.ts'
import type { Crosswalk } from '../setUp/crosswalk.ts'
import type { Departing } from '../setUp/departing.ts'
import type { HeldSystem } from '../setUp/held.ts'
import { stakesOf } from '../setUp/stake.ts'
import type { Grounds, Touched } from './gather.ts'

const SLICE = 5000

export interface RecordRow {
  readonly system_id: string
  readonly record_id: string
  readonly revision: string
  readonly kind: SourceDocument['kind']
  readonly value: SourceDocument
  readonly removed: boolean
  readonly not_taken: StoredDocument['not_taken']
}

export const recordUnitId = (systemId: string, recordId: string): string => `rec:${systemId}:${recordId}`

/** A record as a document: what was taken back at its source counts as void. */
export function documentOfRecord(row: RecordRow): StoredDocument {
  return {
    system_id: row.system_id,
    document_id: row.record_id,
    revision: row.revision,
    status: row.removed ? 'void' : row.value.status,
    kind: row.kind,
    value: row.value,
    not_taken: row.not_taken,
  }
}

/**
 * Works out what the documents of a month come to that are not booked one to one: what they state, what the baseline expects, and what
 * their system's own set-up puts at stake on them. All of them where the set-up or the baseline moved, else those that changed.
 */
export async function analyseRecords(
  trx: Transaction,
  grounds: Grounds,
  period: string,
  touched: Touched,
  walked: readonly { readonly held: HeldSystem; readonly walk: Crosswalk }[],
  departing: Departing,
): Promise<void> {
  const { entityId } = grounds
  const here = { entity_id: entityId, period }
  if (touched === 'all') await trx('record_unit').where(here).delete()
  const { rows: keys } = (await trx.raw(
    `select r.system_id || '/' || r.record_id as key from held_record r left join record_unit u on u.entity_id = r.entity_id and u.unit_id = 'rec:' || r.system_id || ':' || r.record_id and u.period = r.period
     where r.entity_id = :e and r.period = :p and r.resource = 'documents' and (u.unit_id is null and not r.removed or u.unit_id is not null and (r.removed or u.revision <> r.revision)) order by 1`,
    { e: entityId, p: period },
  )) as { rows: { key: string }[] }
  for (let at = 0; at < keys.length; at += SLICE)
    await analyse(
      trx,
      grounds,
      period,
      keys.slice(at, at + SLICE).map((row) => row.key),
      walked,
      departing,
    )
}

async function analyse(
  trx: Transaction,
  grounds: Grounds,
  period: string,
  keys: readonly string[],
  walked: readonly { readonly held: HeldSystem; readonly walk: Crosswalk }[],
  departing: Departing,
): Promise<void> {
  const { entityId, index, baseCurrency, systems } = grounds
  const records = (await trx('held_record')
    .where({ entity_id: entityId, resource: 'documents' })
    .whereRaw(`system_id || '/' || record_id = any(?)`, [[...keys]])
    .orderBy(['system_id', 'record_id'])) as RecordRow[]
  await trx('record_unit')
    .where({ entity_id: entityId })
    .whereRaw('unit_id = any(?)', [records.map((row) => recordUnitId(row.system_id, row.record_id))])
    .delete()
  const families = await recordFamilies(trx, entityId, records)
  const worked = records
    .filter((row) => !row.removed)
    .flatMap((row) => {
      const system = systems.find((s) => s.row.system_id === row.system_id)
      const stored = documentOfRecord(row)
      return system && !['draft', 'void'].includes(stored.status)
        ? [{ row, source: sourceUnit(stored, system, index, baseCurrency, families(row)) }]
        : []
    })
  await insertRows(
    trx,
    'record_unit',
    worked.map(({ row, source }) => unitRow(entityId, period, row, source, index)),
  )
  const taken = worked.filter(({ row }) => row.not_taken === null)
  await insertRows(
    trx,
    'special_line',
    taken.flatMap(({ row, source }) =>
      specialLinesOf(source, index).map((line) => ({
        entity_id: entityId,
        record_unit: recordUnitId(row.system_id, row.record_id),
        period,
        system_id: row.system_id,
        ...line,
      })),
    ),
  )
  await insertRows(
    trx,
    'record_stake',
    taken.flatMap(({ row, source }) => {
      const { document, determination, decoded } = source
      const staked = {
        document,
        determination,
        systemId: row.system_id,
        rateIds: new Set(decoded.taxes.map((tax) => tax.taxRateId)),
        stated: sum(decoded.taxes.map((tax) => tax.tax)),
        rates: combinedRatesOf(document, determination, index),
        party: decoded.party.id,
        itemCodes: new Map(
          decoded.lines.flatMap((line) =>
            line.itemCode === null ? [] : [[line.id, line.itemCode] as const],
          ),
        ),
        locationId: decoded.locationId,
      }
      const own = walked.filter(({ held }) => held.row.system_id === row.system_id)
      const inBase = (amount: bigint): bigint => amountInBase(amount, document.exchange)
      return stakesOf(staked, own, index, departing).map(({ findingKey, amount }) => ({
        entity_id: entityId,
        finding_key: findingKey,
        unit_id: recordUnitId(row.system_id, row.record_id),
        period,
        currency: baseCurrency,
        amount: inBase(amount).toString(),
      }))
    }),
  )
}

function unitRow(
  entityId: string,
  period: string,
  row: RecordRow,
  source: SourceUnit,
  index: Grounds['index'],
): object {
  const { decoded, document, determination } = source
  const tax = (of: SourceUnit['stated']): bigint => sum(inBaseCurrency(of, document.exchange).facts)
  const [stated, expected] = [tax(source.stated), tax(source.expected)]
  return {
    entity_id: entityId,
    unit_id: recordUnitId(row.system_id, row.record_id),
    system_id: row.system_id,
    record_id: row.record_id,
    revision: row.revision,
    period,
    number: decoded.number,
    party: decoded.party.name,
    document_date: decoded.documentDate,
    kind: row.kind,
    currency: decoded.currency,
    exchange_rate: source.exchangeRate,
    combined_rates: combinedRatesOf(document, determination, index),
    stated: stated.toString(),
    expected: expected.toString(),
    recoverable: recoverableOf(source, index),
    charged: chargedBy(source),
    complete: determination.complete,
    agrees: determination.complete && absolute(stated - expected) === 0n,
  }
}

/** What its source charged for each agency that it names, in minor units of the base currency. */
function chargedBy({ stated, document }: SourceUnit): Readonly<Record<string, string>> {
  const inBase = inBaseCurrency(stated, document.exchange).facts
  const facts = stated.facts.map((fact, at) => ({ agency: fact.agency, tax: inBase[at] ?? 0n }))
  const named = [
    ...groupBy(
      facts.filter((fact) => fact.agency !== null),
      (fact) => fact.agency ?? '',
    ),
  ]
  return Object.fromEntries(named.map(([agency, of]) => [agency, sum(of.map((f) => f.tax)).toString()]))
}

/** What of a purchase's tax can be had back, by agency, in minor units of the base currency. */
function recoverableOf(
  { document, determination }: SourceUnit,
  index: Grounds['index'],
): Readonly<Record<string, string>> {
  const each = recoverableTax(document, determination, index).filter((one) => one.recoverable !== 0n)
  return Object.fromEntries(
    each.map(({ agencyId, recoverable }) => [
      agencyId,
      amountInBase(recoverable, document.exchange).toString(),
    ]),
  )
}

/** What refunds, returns and supplier credits take back, in whatever month it stands. */
export async function recordFamilies(
  trx: Transaction,
  entityId: string,
  records: readonly RecordRow[],
): Promise<(row: RecordRow) => Family | null> {
  const wanted = [...new Set(records.flatMap((row) => row.value.creditsDocumentId ?? []))]
  if (wanted.length === 0) return () => null
  const originals = (await trx('held_record')
    .where({ entity_id: entityId, resource: 'documents' })
    .whereRaw('record_id = any(?)', [wanted])) as RecordRow[]
  const credits = groupBy(
    (await trx('held_record')
      .where({ entity_id: entityId, resource: 'documents', removed: false })
      .whereRaw(`value->>'creditsDocumentId' = any(?)`, [wanted])) as RecordRow[],
    (row) => `${row.system_id}/${row.value.creditsDocumentId}`,
  )
  return (row) => {
    const original = originals.find(
      (one) => one.system_id === row.system_id && one.record_id === row.value.creditsDocumentId,
    )
    return original
      ? {
          original: documentOfRecord(original),
          credits: (credits.get(`${row.system_id}/${original.record_id}`) ?? []).map(documentOfRecord),
        }
      : null
  }
}

/** One record as a document, with what it takes back. */
export async function recordOf(
  trx: Transaction,
  entityId: string,
  systemId: string,
  recordId: string,
): Promise<{ readonly stored: StoredDocument; readonly family: Family | null } | null> {
  const row = (await trx('held_record')
    .where({ entity_id: entityId, system_id: systemId, resource: 'documents', record_id: recordId })
    .first()) as RecordRow | undefined
  return row
    ? { stored: documentOfRecord(row), family: (await recordFamilies(trx, entityId, [row]))(row) }
    : null
}

/** A month's documents of one system, the first so many, with what each takes back. */
export async function documentsOfRecords(
  trx: Transaction,
  entityId: string,
  systemId: string,
  month: string,
  most: number,
): Promise<{
  readonly documents: readonly { readonly stored: StoredDocument; readonly family: Family | null }[]
  readonly total: number
}> {
  const here = {
    entity_id: entityId,
    system_id: systemId,
    resource: 'documents',
    period: month,
    removed: false,
  }
  const rows = (await trx('held_record')
    .where(here)
    .whereRaw(`value->>'status' not in ('draft', 'void')`)
    .orderBy(['day', 'number'])
    .limit(most)) as RecordRow[]
  const { n } = (await trx('held_record').where(here).first(trx.raw('count(*)::int as n'))) as { n: number }
  const families = await recordFamilies(trx, entityId, rows)
  return {
    total: n,
    documents: rows.map((row) => ({ stored: documentOfRecord(row), family: families(row) })),
  }
}

/** Months in which records stand that nobody has analysed as they are now. */
export async function monthsToAnalyse(trx: Transaction, entityId: string): Promise<string[]> {
  const { rows } = (await trx.raw(
    `select distinct r.period from held_record r left join record_unit u on u.entity_id = r.entity_id and u.unit_id = 'rec:' || r.system_id || ':' || r.record_id
     where r.entity_id = :e and r.resource = 'documents' and (u.unit_id is null and not r.removed and r.value->>'status' not in ('draft', 'void') or u.unit_id is not null and (r.removed or u.revision <> r.revision or u.period <> r.period))`,
    { e: entityId },
  )) as { rows: { period: string }[] }
  return rows.map((row) => row.period)
}
