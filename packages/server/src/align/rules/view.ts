import { SPECIAL_LINES, type RulesView, type SpecialGroup, type SpecialLine } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { readBaseline } from '../../baseline/read.ts'
import { dimensionId } from '../../baseline/tables.ts'
import { loadHeld } from '../../connect/held.ts'
import type { Transaction } from '../../database/connection.ts'
import { SPECIAL_GROUP } from '../../tieout/specialLines.ts'
import { purposesOf } from '../purposes.ts'
import { accountsForRules } from './check.ts'
import { standingOf } from './keepRules.ts'

const MOST_GROUPS = 300

interface GroupRow {
  readonly key: string
  readonly what: SpecialLine
  readonly system: string
  readonly wording: string
  readonly documents: number
  readonly amount: string
  readonly codes: readonly (string | null)[]
  readonly accounts: readonly (string | null)[]
  readonly rules: readonly string[]
  readonly open: boolean
  readonly mixed: boolean
  readonly cost: boolean
}

/** The rules in their order with what each decided in the month, and the month's amounts that are no item of the catalogue. */
export async function rulesView(trx: Transaction, entityId: string, month: string, currency: string): Promise<RulesView> {
  const baseline = await readBaseline(trx, entityId)
  const ledger = (await loadHeld(trx, entityId, ['accounts'])).find(({ row }) => row.role === 'ledger')
  const costs = (ledger?.accounts ?? []).filter(({ value }) => value.type === 'expense').map(({ value }) => value.number)
  const { rows: decided } = (await trx.raw(
    `select rule, count(distinct unit_id)::int as documents, sum(amount)::bigint::text as amount from special_line, unnest(rules) rule where entity_id = :e and period = :p group by rule`, { e: entityId, p: month })) as { rows: { rule: string; documents: number; amount: string }[] }
  const { rows: groups } = (await trx.raw(
    `with lines as (select s.*, ${SPECIAL_GROUP} as key from special_line s where s.entity_id = :e and s.period = :p and s.what <> 'item'),
       mixed as (select distinct key from (select key from lines where what in ('no-item', 'unknown-item') group by key, region having bool_or(taxed = 'taxed') and bool_or(taxed = 'untaxed')) m),
       ruled as (select key, array_agg(distinct rule) as rules from lines, unnest(rules) rule group by key)
     select key, l.what, y.name as system, l.wording, count(distinct l.unit_id)::int as documents, sum(l.amount)::bigint::text as amount, array_agg(distinct l.item_tax_code) as codes, array_agg(distinct l.account) as accounts, coalesce(r.rules, '{}') as rules,
       bool_or(l.open) as open, m.key is not null as mixed, coalesce(bool_or(l.taxed = 'taxed' and l.account = any(:costs)), false) as cost
     from lines l join system y on y.entity_id = l.entity_id and y.system_id = l.system_id left join mixed m using (key) left join ruled r using (key)
     group by key, l.what, y.name, l.wording, r.rules, m.key order by bool_or(l.open) desc, abs(sum(l.amount)) desc, key`, { e: entityId, p: month, costs })) as { rows: GroupRow[] }
  const named = (of: readonly { readonly code: string; readonly name: string }[]): { id: string; name: string }[] => of.map(({ code, name }) => ({ id: code, name }))
  const { rows: channels } = (await trx.raw(
    `select distinct channel from (select value->>'channel' as channel from source_document where entity_id = :e union all select value->>'channel' from held_record where entity_id = :e and resource = 'documents') c where channel is not null order by 1 limit 100`, { e: entityId })) as { rows: { channel: string }[] }
  const nameOf = new Map([...named(baseline.itemTaxCodes)].map(({ id, name }) => [id, name]))
  const used = new Set(baseline.rules.flatMap(({ when }) => [when.item, when.party]))
  return {
    currency, standing: standingOf(baseline.rules), total: groups.length, open: groups.filter((group) => group.open).length,
    rules: baseline.rules.map((rule) => {
      const of = decided.find((one) => one.rule === rule.code)
      return { ...rule, documents: of?.documents ?? 0, amount: formatAmount(BigInt(of?.amount ?? '0'), currency) }
    }),
    names: Object.fromEntries([...baseline.items, ...baseline.parties].filter(({ code }) => used.has(code)).map(({ code, name }) => [code, name])),
    choices: {
      codes: named(baseline.itemTaxCodes), methods: named(baseline.paymentMethods), dimensions: baseline.dimensions.map(({ dimension, code, name }) => ({ id: dimensionId(dimension, code), name: `${dimension}: ${name}` })),
      regions: regionsOf(baseline.jurisdictions), accounts: accountsForRules(baseline, ledger, await purposesOf(trx, entityId)).map(({ number, name }) => ({ id: number, name })), channels: channels.map(({ channel }) => channel),
    },
    groups: groups.slice(0, MOST_GROUPS).map((group): SpecialGroup => ({
      key: group.key, what: (SPECIAL_LINES.find((one) => one === group.what) ?? 'no-item') as SpecialGroup['what'], system: group.system, wording: group.wording, documents: group.documents, amount: formatAmount(BigInt(group.amount), currency),
      treatments: group.codes.flatMap((code) => (code === null ? [] : [nameOf.get(code) ?? code])), accounts: group.accounts.flatMap((account) => (account === null ? [] : [ledger?.accountName(account) ?? account])),
      rules: group.rules.map((code) => baseline.rules.find((rule) => rule.code === code)?.name ?? code), open: group.open, mixed: group.mixed, costTaxed: group.cost,
    })),
  }
}

/** Countries and regions by their ISO codes, as jurisdictions cover them. */
function regionsOf(jurisdictions: readonly { readonly name: string; readonly level: string; readonly covers: readonly { readonly country: string; readonly region?: string | undefined }[] }[]): { id: string; name: string }[] {
  const regions = new Map<string, string>()
  for (const { name, level, covers } of jurisdictions) {
    for (const { country, region } of covers) {
      if (level === 'country') regions.set(country, name)
      else if (region !== undefined && (level === 'region' || !regions.has(region))) regions.set(region, level === 'region' ? name : region)
    }
  }
  return [...regions].map(([id, name]) => ({ id, name })).sort((a, b) => a.name.localeCompare(b.name))
}
