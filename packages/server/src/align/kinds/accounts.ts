import { findingOf, type Account, type SystemRole } from '@axion/contract'
import {
  covers,
  POSTED_BY_AGENCY,
  POSTING_KINDS,
  POSTING_SCOPES,
  type PostingKind,
  type PostingRule,
  type PostingScope,
} from '@axion/core'
import { postingRuleId } from '../../baseline/tables/postings.ts'
import { STOCK_KINDS } from '../../connect/readiness.ts'
import { Problem } from '../../faults/problem.ts'
import type { Found, GridBasis, KindOfSetUp, BaselineRow } from './kind.ts'

const KIND_NAMES: Readonly<Record<PostingKind, string>> = {
  receivable: 'What customers owe',
  revenue: 'Revenue',
  shipping: 'Shipping revenue',
  tax: 'Tax owed',
  discount: 'Discounts',
  reimbursement: 'What third parties reimburse',
  clearing: 'Clearing',
  payout: 'Payouts',
  fee: 'Processors’ fees',
  'marketplace-tax': 'Tax a marketplace collects',
  'cash-difference': 'Cash over and short',
  rounding: 'Rounding',
  payable: 'What suppliers are owed',
  expense: 'Purchases',
  'input-tax': 'Recoverable tax',
  'use-tax': 'Use tax',
  'cost-of-sales': 'Cost of sales',
  inventory: 'Inventory',
}
const SCOPE_NAMES: Readonly<Record<PostingScope, string>> = {
  party: 'of',
  item: 'of',
  'item-tax-code': 'under',
  channel: 'through',
  method: 'paid by',
}
/** Which types of account a kind of amount may go to (E2). */
const TYPES: Readonly<Record<PostingKind, readonly Account['type'][]>> = {
  receivable: ['receivable'],
  revenue: ['income'],
  shipping: ['income'],
  tax: ['current-liability'],
  discount: ['income', 'expense'],
  reimbursement: ['receivable', 'asset'],
  clearing: ['bank', 'asset', 'liability', 'current-liability'],
  payout: ['bank'],
  fee: ['expense'],
  'marketplace-tax': ['current-liability', 'liability'],
  'cash-difference': ['expense', 'income'],
  rounding: ['expense', 'income'],
  payable: ['current-liability', 'liability'],
  expense: ['expense', 'asset'],
  'input-tax': ['asset', 'current-liability'],
  'use-tax': ['current-liability'],
  'cost-of-sales': ['expense'],
  inventory: ['asset'],
}
/** Kinds that every document has, and those that come with a system of a role. */
const NEEDED: readonly PostingKind[] = ['receivable', 'revenue', 'shipping']
const COMES_WITH: Readonly<Record<SystemRole, readonly PostingKind[]>> = {
  ledger: [],
  billing: [],
  commerce: [],
  bank: [],
  'tax-service': [],
  pos: ['cash-difference', 'rounding'],
  payments: ['payout', 'fee'],
  purchasing: ['payable', 'expense'],
}

/** Posting rules beside the accounts of the ledger that they name. */
export const ACCOUNTS: KindOfSetUp = {
  kind: 'accounts',
  link: null,
  resource: 'accounts',
  rows: (basis) => {
    const { index, date } = basis
    const rowOf = (rule: Named, total: string): BaselineRow => ({
      id: postingRuleId(rule.kind, rule.agencyId, rule.only),
      name: nameOf(index, rule),
      group: nameOf(index, rule) === KIND_NAMES[rule.kind] ? '' : KIND_NAMES[rule.kind],
      detail: wantedOf(rule),
      total,
    })
    // What has no rule comes first (E3).
    return [
      ...lacking(basis).map((rule) => rowOf(rule, '')),
      ...index.baseline.postingRules
        .filter((rule) => covers(rule.valid, date))
        .map((rule) => rowOf(rule, rule.account)),
    ]
  },
  needs: (_, rowId) => rowId !== '',
  matters: () => false,
  says: () => '',
  meets: (row, { accounts }) => accounts.find((account) => account.value.number === row.total)?.id ?? null,
  about: (basis, row) => [
    ...(row.total === '' ? [findingOf('AXION_NO_RULE', { name: row.name })] : []),
    ...sharing(basis, row),
  ],
  compare: ({ index, date, purposes }, row, objectId, { held }) => {
    const account = held.accounts.find((a) => a.id === objectId)?.value
    if (!account) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const { fits: isFit, wanted } = fits(
      ruleOf(row.id) ?? { kind: row.id.split(' ')[0] as PostingKind, only: null },
      account,
      { index, date, purposes },
    )
    const facts = {
      name: row.name,
      system: held.row.name,
      ours: wanted,
      theirs: `${account.number} ${account.name}`,
      type: typeName(account.type),
    }
    return {
      agrees: isFit,
      words: isFit ? account.name : `${typeName(account.type)}: ${account.name}`,
      found: isFit ? [] : [findingOf('AXION_ACCOUNT_TYPE', facts)],
      remedies:
        isFit || !held.row.about.takes.includes('accounts')
          ? []
          : [{ kind: 'send', align: 'accounts', systemId: held.row.system_id, objectId }],
      fields: [{ field: 'Type', ours: facts.ours, theirs: facts.type, agrees: isFit }],
    }
  },
}

function sharing({ index, date }: Pick<GridBasis, 'index' | 'date'>, row: BaselineRow): Found[] {
  const [kind, agency] = row.id.split(' ')
  if (kind !== 'tax' || !agency) return []
  const others = index.baseline.postingRules.filter(
    (rule) => rule.kind === 'tax' && rule.account === row.total && covers(rule.valid, date),
  )
  // Said once, at the first of those who share.
  if (others.length < 2 || others[0]?.agencyId !== agency) return []
  const names = others.map((rule) => index.agency(rule.agencyId ?? '')?.name ?? '').join(', ')
  const facts = { name: row.name, theirs: row.total, names }
  return [findingOf('AXION_ACCOUNT_SHARED', facts)]
}

export type Named = Pick<PostingRule, 'kind' | 'agencyId' | 'only'>

/** Kinds of amount that documents have, agencies the entity is registered with or has tax back from, and payment methods, that no rule sends anywhere. */
export function lacking({ index, date, systems }: GridBasis): Named[] {
  const roles = new Set(systems.map(({ held }) => held.row.role))
  const stock = systems.some(({ held }) => held.row.settings?.keepsInventory === true) ? STOCK_KINDS : []
  const kinds = [...NEEDED, ...[...roles].flatMap((role) => COMES_WITH[role]), ...stock]
    .filter((kind) => !index.postingRuleOn(kind, null, date))
    .map((kind) => ({ kind, agencyId: null, only: null }))
  const registered = [
    ...new Set(index.baseline.registrations.filter((r) => covers(r.valid, date)).map((r) => r.agencyId)),
  ]
  const agencies = registered
    .filter((id) => !index.postingRuleOn('tax', id, date))
    .map((agencyId) => ({ kind: 'tax' as const, agencyId, only: null }))
  const recovering = new Set(
    !roles.has('purchasing')
      ? []
      : index.baseline.codeRules
          .filter((rule) => rule.recoverable !== null && covers(rule.valid, date))
          .flatMap((rule) => index.jurisdiction(rule.jurisdictionId)?.agencyId ?? []),
  )
  const recovered = [...recovering]
    .filter((id) => !index.postingRuleOn('input-tax', id, date))
    .map((agencyId) => ({ kind: 'input-tax' as const, agencyId, only: null }))
  const methods = index.baseline.paymentMethods
    .filter(({ id }) => !index.postingRuleFor('clearing', { method: id }, date))
    .map(({ id }) => ({ kind: 'clearing' as const, agencyId: null, only: { by: 'method' as const, id } }))
  return [...kinds, ...agencies, ...recovered, ...methods]
}

export function nameOf(
  index: GridBasis['index'],
  { kind, agencyId, only }: Pick<PostingRule, 'kind' | 'agencyId' | 'only'>,
): string {
  if (agencyId !== null)
    return [...(kind === 'tax' ? [] : [KIND_NAMES[kind]]), index.agency(agencyId)?.name ?? agencyId].join(
      ', ',
    )
  if (kind === 'clearing' && only) return `Clearing, ${scopeName(index, only).toLowerCase()}`
  return only === null
    ? KIND_NAMES[kind]
    : `${KIND_NAMES[kind]} ${SCOPE_NAMES[only.by]} ${scopeName(index, only)}`
}

function scopeName(
  { baseline }: GridBasis['index'],
  { by, id }: { readonly by: PostingScope; readonly id: string },
): string {
  const of: Readonly<Record<PostingScope, readonly { readonly id: string; readonly name: string }[]>> = {
    party: baseline.parties,
    item: baseline.items,
    'item-tax-code': baseline.itemTaxCodes,
    channel: [],
    method: baseline.paymentMethods,
  }
  return of[by].find((one) => one.id === id)?.name ?? id
}

/** What a posting rule is about, read from its id; null where it is about nothing. */
export function ruleOf(ruleId: string): Pick<PostingRule, 'kind' | 'agencyId' | 'only'> | null {
  const [first = '', by, ...rest] = ruleId.split(' ')
  const kind = POSTING_KINDS.find((one) => one === first)
  if (!kind) return null
  if (POSTED_BY_AGENCY.includes(kind))
    return by === undefined || rest.length > 0 ? null : { kind, agencyId: by, only: null }
  const scope = POSTING_SCOPES.find((one) => one === by)
  if (by === undefined) return { kind, agencyId: null, only: null }
  return scope && rest.length > 0 ? { kind, agencyId: null, only: { by: scope, id: rest.join(' ') } } : null
}

/** Whether a kind of amount may go to an account, and what it should be (E2). Recoverable tax may share a liability account with the tax that is owed. */
export function fits(
  { kind, only }: Pick<PostingRule, 'kind' | 'only'>,
  { number, type }: Pick<Account, 'number' | 'type'>,
  { index, date, purposes }: Pick<GridBasis, 'index' | 'date' | 'purposes'>,
): { readonly fits: boolean; readonly wanted: string } {
  const keptFor = purposes.get(number)
  if (keptFor && !keptFor.includes(kind))
    return {
      fits: false,
      wanted: `another account: this one is kept for ${keptFor.map((one) => KIND_NAMES[one].toLowerCase()).join(' and ')}`,
    }
  const forTax = (): boolean =>
    index.baseline.postingRules.some(
      (rule) => rule.kind === 'tax' && rule.account === number && covers(rule.valid, date),
    )
  // What is no tax never goes where an agency's tax is owed.
  if (!POSTED_BY_AGENCY.includes(kind) && forTax())
    return { fits: false, wanted: `${wantedOf({ kind, only })}, and no account that tax is owed on` }
  const isFit =
    isOwedOn({ kind, only }) && OWED.includes(type)
      ? !forTax()
      : TYPES[kind].includes(type) && (kind !== 'input-tax' || type === 'asset' || forTax())
  return { fits: isFit, wanted: wantedOf({ kind, only }) }
}

/** What some items bring in is no revenue yet: gift cards, store credit, lay-away, what consignors are due. It is owed on, and kept apart from tax. */
const OWED: readonly Account['type'][] = ['liability', 'current-liability']
const isOwedOn = ({ kind, only }: Pick<PostingRule, 'kind' | 'only'>): boolean =>
  kind === 'revenue' && (only?.by === 'item' || only?.by === 'item-tax-code')

function wantedOf({ kind, only }: Pick<PostingRule, 'kind' | 'only'>): string {
  if (isOwedOn({ kind, only })) return 'income, or a liability without tax'
  return kind === 'input-tax'
    ? 'asset, or the account of the tax owed'
    : TYPES[kind].map(typeName).join(' or ')
}

/** The account of a posting rule as it would be opened in the ledger: with the rule's number, of the type that its kind of amount wants. */
export function accountFor(
  { index, date }: Pick<GridBasis, 'index' | 'date'>,
  ruleId: string,
): { readonly number: string; readonly name: string; readonly type: Account['type'] } {
  const rule = index.baseline.postingRules.find(
    (one) => covers(one.valid, date) && postingRuleId(one.kind, one.agencyId, one.only) === ruleId,
  )
  if (!rule) throw new Problem('AXION_NOT_FOUND', { what: 'such posting rule' })
  return { number: rule.account, ...accountNamed(index, rule) }
}

/** What an account for a kind of amount is called, and of what type it is. */
export function accountNamed(index: GridBasis['index'], rule: Named): Pick<Account, 'name' | 'type'> {
  const name = nameOf(index, rule)
  return {
    name: rule.kind === 'tax' ? `${name}, tax owed` : name,
    type: TYPES[rule.kind][0] ?? 'asset',
  }
}

export function typeName(type: Account['type']): string {
  return type.replaceAll('-', ' ')
}
