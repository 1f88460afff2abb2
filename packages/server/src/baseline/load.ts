import { indexBaseline, parsePercent, type BaselineIndex, type Cover, type DateRange, type Level, type PostingKind, type RoundingPlace } from '@axion/core'
import type { Transaction } from '../database/connection.ts'

interface Row {
  readonly object_id: string
  readonly from: string | null
  readonly to: string | null
}
const BEGINNING = '0001-01-01'

/**
 * The baseline as recorded now, or as it was at an instant, indexed for the core. A version is named by its object and its first day.
 */
export async function loadBaseline(trx: Transaction, entityId: string, recordedAt: Date | null = null): Promise<BaselineIndex> {
  const recorded = recordedAt === null ? 'upper_inf(recorded)' : 'recorded @> ?::timestamptz'
  const rows = async <T>(table: string): Promise<(T & Row)[]> =>
    (await trx(table).where({ entity_id: entityId }).whereRaw(recorded, recordedAt === null ? [] : [recordedAt]).orderBy('version_id')
      .select('*', trx.raw('lower(valid)::text as "from"'), trx.raw('(upper(valid) - 1)::text as "to"'))) as (T & Row)[]
  const valid = ({ from, to }: Row): DateRange => ({ from: from ?? BEGINNING, to })
  const versionId = (row: Row): string => `${row.object_id}@${row.from ?? ''}`

  return indexBaseline({
    agencies: (await rows<{ name: string }>('agency')).map((r) => ({ id: r.object_id, code: r.object_id, name: r.name })),
    jurisdictions: (await rows<{ name: string; level: Level; parent: string | null; agency: string | null; covers: Cover[] }>('jurisdiction')).map((r) => ({
      id: r.object_id, name: r.name, level: r.level, parentId: r.parent, agencyId: r.agency, covers: r.covers,
    })),
    rateVersions: (await rows<{ jurisdiction: string; percent: string }>('rate_version')).map((r) => ({
      id: versionId(r), jurisdictionId: r.jurisdiction, percent: parsePercent(r.percent), valid: valid(r),
    })),
    combinedRates: (await rows<{ name: string; jurisdictions: string[] }>('combined_rate')).map((r) => ({
      id: r.object_id, code: r.object_id, name: r.name, jurisdictionIds: r.jurisdictions, valid: valid(r),
    })),
    itemTaxCodes: (await rows<{ name: string }>('item_tax_code')).map((r) => ({ id: r.object_id, name: r.name })),
    items: (await rows<{ name: string; item_tax_code: string }>('item')).map((r) => ({ id: r.object_id, name: r.name, itemTaxCode: r.item_tax_code })),
    codeRules: (await rows<{ jurisdiction: string; item_tax_code: string; treatment: 'standard' | 'exempt' }>('code_rule')).map((r) => ({
      id: versionId(r), jurisdictionId: r.jurisdiction, itemTaxCode: r.item_tax_code, treatment: r.treatment, valid: valid(r),
    })),
    registrations: (await rows<{ agency: string; number: string }>('registration')).map((r) => ({ id: versionId(r), agencyId: r.agency, number: r.number, valid: valid(r) })),
    roundings: (await rows<{ jurisdiction: string } & RoundingPlace>('rounding_place')).map((r) => ({
      id: versionId(r), jurisdictionId: r.jurisdiction, place: { level: r.level, unit: r.unit, tie: r.tie }, valid: valid(r),
    })),
    postingRules: (await rows<{ kind: PostingKind; agency: string | null; account: string }>('posting_rule')).map((r) => ({
      id: versionId(r), kind: r.kind, agencyId: r.agency, account: r.account, valid: valid(r),
    })),
  })
}
