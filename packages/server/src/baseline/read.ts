import { BaselineImport } from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Books } from '../database/connection.ts'

interface Dated {
  readonly object_id: string
  readonly from: string | null
  readonly to: string | null
}
type Row = Dated & Readonly<Record<string, unknown>>

/** The whole baseline as it stands now, as an import would state it: importing it again changes nothing. */
export async function readBaseline({ trx, entityId }: Books): Promise<BaselineImport> {
  const rows = async (table: string): Promise<Row[]> =>
    (await trx(table)
      .where({ entity_id: entityId })
      .whereRaw('upper_inf(recorded)')
      .orderByRaw('object_id, lower(valid) nulls first')
      .select(
        '*',
        trx.raw('lower(valid)::text as "from"'),
        trx.raw('(upper(valid) - 1)::text as "to"'),
      )) as Row[]
  const valid = ({ from, to }: Dated): { from: string; to: string | null } => ({
    from: from ?? '0001-01-01',
    to,
  })
  const amount = (units: unknown, currency: unknown): string | null =>
    units === null || currency === null ? null : formatAmount(BigInt(units as string), currency as string)
  return BaselineImport.parse({
    homeAddress: (await rows('home_address'))[0]?.['address'] ?? null,
    defaults:
      (await rows('agreed_default')).map((r) => ({
        itemTaxCode: r['item_tax_code'],
        partiesTaxable: r['parties_taxable'],
        newItems: r['new_items'],
      }))[0] ?? null,
    agencies: (await rows('agency')).map((r) => ({ code: r.object_id, name: r['name'] })),
    jurisdictions: (await rows('jurisdiction')).map((r) => ({
      code: r.object_id,
      name: r['name'],
      level: r['level'],
      parent: r['parent'],
      agency: r['agency'],
      covers: r['covers'],
    })),
    rateVersions: (await rows('rate_version')).map((r) => ({
      jurisdiction: r['jurisdiction'],
      percent: plain(r['percent']),
      onTopOf: r['on_top_of'],
      ...valid(r),
    })),
    combinedRates: (await rows('combined_rate')).map((r) => ({
      code: r.object_id,
      name: r['name'],
      jurisdictions: r['jurisdictions'],
      itemTaxCode: r['item_tax_code'],
      ...valid(r),
    })),
    itemTaxCodes: (await rows('item_tax_code')).map((r) => ({ code: r.object_id, name: r['name'] })),
    items: (await rows('item')).map((r) => ({
      code: r.object_id,
      name: r['name'],
      itemTaxCode: r['item_tax_code'],
      from: r.from,
      to: r.to,
    })),
    codeRules: (await rows('code_rule')).map((r) => ({
      jurisdiction: r['jurisdiction'],
      itemTaxCode: r['item_tax_code'],
      treatment: r['treatment'],
      percent: r['percent'] === null ? null : plain(r['percent']),
      perUnit: r['per_unit'] === null ? null : plain(r['per_unit']),
      threshold:
        r['threshold'] === null
          ? null
          : { limit: amount(r['threshold'], r['currency']) ?? '', taxes: r['threshold_taxes'] },
      cap: amount(r['cap'], r['currency']),
      currency: r['currency'],
      recoverable: r['recoverable'] === null ? null : plain(r['recoverable']),
      ...valid(r),
    })),
    registrations: (await rows('registration')).map((r) => ({
      agency: r['agency'],
      number: r['number'],
      basis: r['basis'],
      frequency: r['frequency'],
      ...valid(r),
    })),
    thresholds: (await rows('registration_threshold')).map((r) => ({
      jurisdiction: r['jurisdiction'],
      sales: amount(r['sales'], r['currency']),
      transactions: r['transactions'],
      currency: r['currency'],
      ...valid(r),
    })),
    roundings: (await rows('rounding_place')).map((r) => ({
      jurisdiction: r['jurisdiction'],
      level: r['level'],
      unit: r['unit'],
      tie: r['tie'],
      ...valid(r),
    })),
    regionRules: (await rows('region_rule')).map((r) => ({
      jurisdiction: r['jurisdiction'],
      originLevels: r['origin_levels'],
      taxedBy: r['taxed_by'],
      taxedBeforeDiscount: r['taxed_before_discount'],
      exemptionReasons: r['exemption_reasons'],
      ...valid(r),
    })),
    parties: (await rows('party')).map((r) => ({
      code: r.object_id,
      name: r['name'],
      claims: r['claims'],
      catchAll: r['catch_all'],
      address: r['address'],
    })),
    certificates: (await rows('certificate')).map((r) => ({
      code: r.object_id,
      number: r['number'],
      party: r['party'],
      reason: r['reason'],
      regions: r['regions'],
      ...valid(r),
    })),
    postingRules: (await rows('posting_rule')).map((r) => ({
      kind: r['kind'],
      agency: r['agency'],
      account: r['account'],
      only: r['only_by'] === null ? null : { by: r['only_by'], id: r['only_id'] },
      ...valid(r),
    })),
    paymentMethods: (await rows('payment_method')).map((r) => ({
      code: r.object_id,
      name: r['name'],
      kind: r['kind'],
    })),
    locations: (await rows('location')).map((r) => ({
      code: r.object_id,
      name: r['name'],
      timeZone: r['time_zone'],
      cutOff: r['cut_off'],
      address: r['address'],
    })),
    rules: (await rows('line_rule'))
      .sort((a, b) => (a['place'] as number) - (b['place'] as number))
      .map((r) => ({
        code: r.object_id,
        name: r['name'],
        when: {
          item: r['item'],
          text: r['text'],
          region: r['region'],
          party: r['party'],
          method: r['method'],
          channel: r['channel'],
        },
        then: { itemTaxCode: r['item_tax_code'], account: r['account'], dimension: r['dimension'] },
        ...valid(r),
      })),
    dimensions: (await rows('dimension_value')).map((r) => ({
      dimension: r['dimension'],
      code: r['code'],
      name: r['name'],
    })),
  })
}

/** A decimal without idle zeros. */
function plain(decimal: unknown): string {
  const text = String(decimal as string)
  return text.includes('.') ? text.replace(/\.?0+$/, '') : text
}
