import {
  kindsWith,
  BaselineImport,
  type RegistrationDraft,
  type RegistrationsView,
  type ThresholdDraft,
} from '@axion/contract'
import { covers, formatAmount, lastDayOf } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { importTable, recordedAt, requireReferences } from '../../baseline/import.ts'
import { readBaseline } from '../../baseline/read.ts'
import { rowsOf } from '../../baseline/rows.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { noteSetUp } from '../../setUp/clock.ts'

/** Registrations and thresholds as they stand, beside the tax that the month's sources charged for each agency. */
export async function registrationsView(books: Books, month: string): Promise<RegistrationsView> {
  const { trx, entityId, currency } = books
  const { agencies, jurisdictions, registrations, thresholds } = await readBaseline(books)
  const charged = await chargedFor(books, month)
  const known = (await trx.raw(
    `select exists (select from unit where entity_id = :e and period = :p and document_id is not null) as known`,
    { e: entityId, p: month },
  )) as { rows: { known: boolean }[] }
  const day = lastDayOf(month)
  return {
    currency,
    known: known.rows[0]?.known === true,
    agencies: agencies.map(({ code, name }) => {
      const versions = registrations
        .filter((one) => one.agency === code)
        .map(({ agency: _agency, ...version }) => version)
      return {
        id: code,
        name,
        regions: jurisdictions.filter((j) => j.agency === code).map((j) => j.name),
        versions,
        holds: versions.some((version) => covers(version, day)),
        charged: formatAmount(charged.get(code) ?? 0n, currency),
      }
    }),
    regions: jurisdictions
      .filter((j) => j.level === 'region' || (j.level === 'country' && j.agency !== null))
      .map(({ code, name, agency }) => ({
        id: code,
        name,
        agency: agencies.find((one) => one.code === agency)?.name ?? null,
        versions: thresholds
          .filter((one) => one.jurisdiction === code)
          .map(({ jurisdiction: _jurisdiction, ...version }) => version),
      })),
  }
}

/** Tax that a month's sources charged for each agency, in the base currency. */
export async function chargedFor(
  { trx, entityId }: Books,
  month: string,
): Promise<ReadonlyMap<string, bigint>> {
  const { rows } = (await trx.raw(
    `select f.agency, sum(f.tax)::bigint::text as tax from unit u cross join lateral (
       select agency, sum(in_base) as tax from tax_fact where entity_id = u.entity_id and unit_id = u.unit_id and voice = 'stated' and agency is not null group by 1) f
     where u.entity_id = :e and u.period = :p and u.taken and u.kind <> all(:bought) group by 1`,
    { e: entityId, p: month, bought: [...kindsWith((kind) => kind.purchase)] },
  )) as { rows: { agency: string; tax: string }[] }
  return new Map(rows.map((row) => [row.agency, BigInt(row.tax)]))
}

/** Keeps all spans of an agency's registration; what is expected of every month is to be worked out anew. @throws AXION_BASELINE_INCONSISTENT, AXION_BASELINE_OVERLAP */
export async function keepRegistrations(
  books: Books,
  agency: string,
  versions: readonly RegistrationDraft[],
): Promise<void> {
  const now = await readBaseline(books)
  const before = now.registrations.filter((one) => one.agency === agency)
  const own = versions.map((version) => ({ ...version, agency }))
  await keep(
    books,
    { ...now, registrations: [...now.registrations.filter((one) => one.agency !== agency), ...own] },
    'registration',
  )
  await audit(
    books.trx,
    'changed-registration',
    now.agencies.find((one) => one.code === agency)?.name ?? agency,
    { before, after: own },
  )
  await noteSetUp(books)
}

/** Keeps all spans of a region's thresholds. @throws AXION_BASELINE_INCONSISTENT, AXION_BASELINE_OVERLAP */
export async function keepThresholds(
  books: Books,
  jurisdiction: string,
  versions: readonly ThresholdDraft[],
): Promise<void> {
  const now = await readBaseline(books)
  const before = now.thresholds.filter((one) => one.jurisdiction === jurisdiction)
  const own = versions.map((version) => ({ ...version, jurisdiction }))
  await keep(
    books,
    { ...now, thresholds: [...now.thresholds.filter((one) => one.jurisdiction !== jurisdiction), ...own] },
    'registration_threshold',
  )
  await audit(
    books.trx,
    'changed-thresholds',
    now.jurisdictions.find((one) => one.code === jurisdiction)?.name ?? jurisdiction,
    { before, after: own },
  )
}

async function keep(
  books: Books,
  wanted: BaselineImport,
  table: 'registration' | 'registration_threshold',
): Promise<void> {
  requireReferences(wanted)
  for (const { from, to } of [...wanted.registrations, ...wanted.thresholds])
    if (to !== null && to < from)
      throw new Problem('AXION_BAD_REQUEST', { path: 'to', problem: `${to} is before ${from}` })
  await importTable(books, table, rowsOf(wanted)[table] ?? [], { at: await recordedAt(books) })
}
