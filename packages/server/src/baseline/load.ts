import type { Columns } from '../database/row.ts'
import {
  currencyDigits,
  groupBy,
  indexBaseline,
  multiply,
  parseDecimal,
  parsePercent,
  ratio,
  type Address,
  type BaselineIndex,
  type CodeTreatment,
  type Cover,
  type DateRange,
  type Level,
  type MethodKind,
  type NewItems,
  type PostingKind,
  type PostingScope,
  type Ratio,
  type Registration,
  type RegionRule,
  type RoundingPlace,
} from '@axion/core'
import type { Books } from '../database/connection.ts'

interface VersionRow {
  readonly object_id: string
  readonly from: string | null
  readonly to: string | null
}
const BEGINNING = '0001-01-01'

/**
 * The baseline as recorded now, or as it was at an instant that `recordedAt` gave, indexed for the core. A version is named by its object and its first day.
 */
export async function loadBaseline(
  { trx, entityId }: Books,
  recordedAt: string | null = null,
): Promise<BaselineIndex> {
  const recorded = recordedAt === null ? 'upper_inf(recorded)' : 'recorded @> ?::timestamptz'
  const rows = async <T>(table: string): Promise<(T & VersionRow)[]> =>
    (await trx(table)
      .where({ entity_id: entityId })
      .whereRaw(recorded, recordedAt === null ? [] : [recordedAt])
      .orderBy('version_id')
      .select(
        '*',
        trx.raw('lower(valid)::text as "from"'),
        trx.raw('(upper(valid) - 1)::text as "to"'),
      )) as (T & VersionRow)[]
  const valid = ({ from, to }: VersionRow): DateRange => ({ from: from ?? BEGINNING, to })
  const versionId = (row: VersionRow): string => `${row.object_id}@${row.from ?? ''}`

  return indexBaseline({
    agencies: (await rows<{ name: string }>('agency')).map((r) => ({
      id: r.object_id,
      code: r.object_id,
      name: r.name,
    })),
    jurisdictions: (
      await rows<{
        name: string
        level: Level
        parent: string | null
        agency: string | null
        covers: Cover[]
      }>('jurisdiction')
    ).map((r) => ({
      id: r.object_id,
      name: r.name,
      level: r.level,
      parentId: r.parent,
      agencyId: r.agency,
      covers: r.covers,
    })),
    rateVersions: (
      await rows<{ jurisdiction: string; percent: string; on_top_of: string[] }>('rate_version')
    ).map((r) => ({
      id: versionId(r),
      jurisdictionId: r.jurisdiction,
      percent: parsePercent(r.percent),
      onTopOf: r.on_top_of,
      valid: valid(r),
    })),
    combinedRates: (
      await rows<{ name: string; jurisdictions: string[]; item_tax_code: string | null }>('combined_rate')
    ).map((r) => ({
      id: r.object_id,
      code: r.object_id,
      name: r.name,
      jurisdictionIds: r.jurisdictions,
      itemTaxCode: r.item_tax_code,
      valid: valid(r),
    })),
    itemTaxCodes: (await rows<{ name: string }>('item_tax_code')).map((r) => ({
      id: r.object_id,
      name: r.name,
    })),
    items: [
      ...groupBy(await rows<{ name: string; item_tax_code: string }>('item'), (r) => r.object_id).values(),
    ].map((versions) => {
      const codes = versions
        .map((r) => ({ itemTaxCode: r.item_tax_code, name: r.name, valid: valid(r) }))
        .sort((a, b) => (a.valid.from < b.valid.from ? -1 : 1))
      const last = codes.at(-1)
      return {
        id: versions[0]?.object_id ?? '',
        name: last?.name ?? '',
        itemTaxCode: last?.itemTaxCode ?? '',
        ...(codes.length > 1 || last?.valid.from !== BEGINNING || last.valid.to !== null ? { codes } : {}),
      }
    }),
    codeRules: (await rows<CodeRuleRow>('code_rule')).map((r) => ({
      id: versionId(r),
      jurisdictionId: r.jurisdiction,
      itemTaxCode: r.item_tax_code,
      treatment: r.treatment,
      currency: r.currency,
      valid: valid(r),
      percent: r.percent === null ? null : parsePercent(r.percent),
      recoverable: r.recoverable === null ? null : parsePercent(r.recoverable),
      perUnit: r.per_unit === null || r.currency === null ? null : minorPerUnit(r.per_unit, r.currency),
      threshold:
        r.threshold === null ? null : { limit: BigInt(r.threshold), taxes: r.threshold_taxes ?? 'whole' },
      cap: r.cap === null ? null : BigInt(r.cap),
    })),
    regionRules: (
      await rows<{
        jurisdiction: string
        origin_levels: Level[]
        taxed_by: RegionRule['taxedBy']
        taxed_before_discount: boolean
        exemption_reasons: string[]
      }>('region_rule')
    ).map((r) => ({
      id: versionId(r),
      jurisdictionId: r.jurisdiction,
      originLevels: r.origin_levels,
      taxedBy: r.taxed_by,
      taxedBeforeDiscount: r.taxed_before_discount,
      exemptionReasons: r.exemption_reasons,
      valid: valid(r),
    })),
    parties: (
      await rows<{ name: string; claims: string | null; catch_all: boolean; address: Address | null }>(
        'party',
      )
    ).map((r) => ({
      id: r.object_id,
      name: r.name,
      claims: r.claims,
      catchAll: r.catch_all,
      address: r.address,
    })),
    certificates: (
      await rows<{ number: string; party: string; reason: string; regions: string[] }>('certificate')
    ).map((r) => ({
      id: r.object_id,
      number: r.number,
      partyId: r.party,
      reason: r.reason,
      regionIds: r.regions,
      valid: valid(r),
    })),
    homeAddress: (await rows<{ address: Address }>('home_address'))[0]?.address ?? null,
    defaults: (
      await rows<{ item_tax_code: string | null; parties_taxable: boolean | null; new_items: NewItems }>(
        'agreed_default',
      )
    ).map((r) => ({
      itemTaxCode: r.item_tax_code,
      partiesTaxable: r.parties_taxable,
      newItems: r.new_items,
    }))[0] ?? { itemTaxCode: null, partiesTaxable: null, newItems: 'left-open' },
    registrations: (
      await rows<{
        agency: string
        number: string
        basis: Registration['basis']
        frequency: Registration['frequency']
      }>('registration')
    ).map((r) => ({
      id: versionId(r),
      agencyId: r.agency,
      number: r.number,
      basis: r.basis,
      frequency: r.frequency,
      valid: valid(r),
    })),
    roundings: (await rows<{ jurisdiction: string } & RoundingPlace>('rounding_place')).map((r) => ({
      id: versionId(r),
      jurisdictionId: r.jurisdiction,
      place: { level: r.level, unit: r.unit, tie: r.tie },
      valid: valid(r),
    })),
    postingRules: (
      await rows<{
        kind: PostingKind
        agency: string | null
        only_by: PostingScope | null
        only_id: string | null
        account: string
      }>('posting_rule')
    ).map((r) => ({
      id: versionId(r),
      kind: r.kind,
      agencyId: r.agency,
      only: r.only_by === null ? null : { by: r.only_by, id: r.only_id ?? '' },
      account: r.account,
      valid: valid(r),
    })),
    thresholds: (
      await rows<{
        jurisdiction: string
        sales: string | null
        transactions: number | null
        currency: string | null
      }>('registration_threshold')
    ).map((r) => ({
      id: versionId(r),
      jurisdictionId: r.jurisdiction,
      sales: r.sales === null ? null : BigInt(r.sales),
      transactions: r.transactions,
      currency: r.currency,
      valid: valid(r),
    })),
    paymentMethods: (await rows<{ name: string; kind: MethodKind }>('payment_method')).map((r) => ({
      id: r.object_id,
      name: r.name,
      kind: r.kind,
    })),
    locations: (
      await rows<{ name: string; time_zone: string; cut_off: string | null; address: Address }>('location')
    ).map((r) => ({
      id: r.object_id,
      name: r.name,
      timeZone: r.time_zone,
      cutOff: r.cut_off,
      address: r.address,
    })),
    dimensions: (await rows<{ dimension: string; code: string; name: string }>('dimension_value')).map(
      (r) => ({ id: r.object_id, dimension: r.dimension, code: r.code, name: r.name }),
    ),
    lineRules: (await rows<RuleRow>('line_rule'))
      .sort((a, b) => a.place - b.place)
      .map((r) => ({
        id: r.object_id,
        name: r.name,
        valid: valid(r),
        when: {
          item: r.item,
          text: r.text,
          region: r.region,
          party: r.party,
          method: r.method,
          channel: r.channel,
        },
        then: { itemTaxCode: r.item_tax_code, account: r.account, dimension: r.dimension },
      })),
  })
}

type RuleRow = Columns<
  'line_rule',
  | 'name'
  | 'place'
  | 'item'
  | 'text'
  | 'region'
  | 'party'
  | 'method'
  | 'channel'
  | 'item_tax_code'
  | 'account'
  | 'dimension'
>

interface CodeRuleRow extends Columns<
  'code_rule',
  | 'jurisdiction'
  | 'item_tax_code'
  | 'treatment'
  | 'percent'
  | 'per_unit'
  | 'recoverable'
  | 'threshold'
  | 'threshold_taxes'
  | 'cap'
  | 'currency'
> {
  readonly treatment: CodeTreatment
  readonly threshold_taxes: 'whole' | 'excess' | null
}

/** Currency for one unit of quantity, as minor units. */
function minorPerUnit(text: string, currency: string): Ratio {
  return multiply(parseDecimal(text), ratio(10n ** BigInt(currencyDigits(currency))))
}
