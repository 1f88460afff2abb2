import { SPECIAL_LINES, type FindingView, type RulesView, type SpecialGroup } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { readBaseline } from '../../baseline/read.ts'
import { dimensionId } from '../../baseline/tables/postings.ts'
import type { Books } from '../../database/connection.ts'
import { connectedSystems, loadHeld } from '../../setUp/held.ts'
import { ensureAligned } from '../build.ts'
import { amountFindings } from '../grid/findings.ts'
import { purposesOf } from '../purposes.ts'
import { amountGroups, amountRowId, type AmountGroup } from './amounts.ts'
import { accountsForRules } from './check.ts'
import { standingOf } from './keepRules.ts'

const MOST_GROUPS = 300

/** The rules in their order with what each decided in the month, and the month's amounts that are no item of the catalogue. */
export async function rulesView(books: Books, month: string): Promise<RulesView> {
  const { trx, entityId, currency } = books
  await ensureAligned(books, month)
  const baseline = await readBaseline(books)
  const ledger = (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger')
  const { rows: decided } = (await trx.raw(
    `select rule, count(distinct unit_id)::int as documents, sum(amount)::bigint::text as amount from special_line, unnest(rules) rule where entity_id = :e and period = :p group by rule`,
    { e: entityId, p: month },
  )) as { rows: { rule: string; documents: number; amount: string }[] }
  const groups = await amountGroups(books, month)
  const found = await amountFindings(books, month)
  const findingsOf = (group: AmountGroup): readonly FindingView[] => found.get(amountRowId(group.key)) ?? []
  const counting = groups.map((group) => findingsOf(group).filter((finding) => finding.left === null))
  const named = (
    of: readonly { readonly code: string; readonly name: string }[],
  ): { id: string; name: string }[] => of.map(({ code, name }) => ({ id: code, name }))
  const { rows: channels } = (await trx.raw(
    `select distinct channel from (select value->>'channel' as channel from document where entity_id = :e) c where channel is not null order by 1 limit 100`,
    { e: entityId },
  )) as { rows: { channel: string }[] }
  const sources = (await connectedSystems(books))
    .filter(({ role }) => role !== 'ledger')
    .map(({ system_id: id, name }) => ({ id, name }))
  const nameOf = new Map([...named(baseline.itemTaxCodes)].map(({ id, name }) => [id, name]))
  const used = new Set(baseline.rules.flatMap(({ when, then }) => [when.item, when.party, then.item]))
  return {
    currency,
    standing: standingOf(baseline.rules),
    total: groups.length,
    open: counting.filter((of) => of.some(({ code }) => code === 'AXION_AMOUNT_OPEN')).length,
    findings: counting.flat().length,
    rules: baseline.rules.map((rule) => {
      const of = decided.find((one) => one.rule === rule.code)
      return {
        ...rule,
        documents: of?.documents ?? 0,
        amount: formatAmount(BigInt(of?.amount ?? '0'), currency),
      }
    }),
    names: Object.fromEntries(
      [...baseline.items, ...baseline.parties]
        .filter(({ code }) => used.has(code))
        .map(({ code, name }) => [code, name]),
    ),
    choices: {
      codes: named(baseline.itemTaxCodes),
      methods: named(baseline.paymentMethods),
      dimensions: baseline.dimensions.map(({ dimension, code, name }) => ({
        id: dimensionId(dimension, code),
        name: `${dimension}: ${name}`,
      })),
      regions: regionsOf(baseline.jurisdictions),
      accounts: accountsForRules(baseline, ledger, await purposesOf(books)).map(({ number, name }) => ({
        id: number,
        name,
      })),
      systems: sources,
      channels: channels.map(({ channel }) => channel),
    },
    groups: groups.slice(0, MOST_GROUPS).map((group): SpecialGroup => ({
      key: group.key,
      what: (SPECIAL_LINES.find((one) => one === group.what) ?? 'no-item') as SpecialGroup['what'],
      system: group.system,
      wording: group.wording,
      documents: group.documents,
      amount: formatAmount(BigInt(group.amount), currency),
      treatments: group.codes.flatMap((code) => (code === null ? [] : [nameOf.get(code) ?? code])),
      accounts: group.accounts.flatMap((account) =>
        account === null ? [] : [ledger?.accountName(account) ?? account],
      ),
      rules: group.rules.map((code) => baseline.rules.find((rule) => rule.code === code)?.name ?? code),
      rowId: amountRowId(group.key),
      findings: findingsOf(group),
    })),
  }
}

/** Countries and regions by their ISO codes, as jurisdictions cover them. */
function regionsOf(
  jurisdictions: readonly {
    readonly name: string
    readonly level: string
    readonly covers: readonly { readonly country: string; readonly region?: string | undefined }[]
  }[],
): { id: string; name: string }[] {
  const regions = new Map<string, string>()
  for (const { name, level, covers } of jurisdictions) {
    for (const { country, region } of covers) {
      if (level === 'country') regions.set(country, name)
      else if (region !== undefined && (level === 'region' || !regions.has(region)))
        regions.set(region, level === 'region' ? name : region)
    }
  }
  return [...regions].map(([id, name]) => ({ id, name })).sort((a, b) => a.name.localeCompare(b.name))
}
