import { covers, POSTING_KINDS, POSTING_SCOPES, type PostingKind, type PostingRule, type PostingScope } from '@axion/core'
import type { Account } from '@axion/contract'
import { postingRuleId } from '../../baseline/tables.ts'
import { Problem } from '../../faults/problem.ts'
import type { Found, Ground, KindOfSetUp, Row } from './kind.ts'

const KIND_NAMES: Readonly<Record<PostingKind, string>> = {
  receivable: 'What customers owe', revenue: 'Revenue', shipping: 'Shipping revenue', tax: 'Tax owed', discount: 'Discounts', reimbursement: 'What third parties reimburse', clearing: 'Clearing',
}
const SCOPE_NAMES: Readonly<Record<PostingScope, string>> = { party: 'of', item: 'of', 'item-tax-code': 'under', channel: 'through', method: 'paid by' }
/** Which types of account a kind of amount may go to (E2). */
const TYPES: Readonly<Record<PostingKind, readonly Account['type'][]>> = {
  receivable: ['receivable'], revenue: ['income'], shipping: ['income'], tax: ['current-liability'], discount: ['income', 'expense'], reimbursement: ['receivable', 'asset'], clearing: ['bank', 'asset', 'liability', 'current-liability'],
}
const NEEDED: readonly PostingKind[] = ['receivable', 'revenue', 'shipping']

/** Posting rules beside the accounts of the ledger that they name. */
export const ACCOUNTS: KindOfSetUp = {
  kind: 'accounts', link: null, resource: 'accounts',
  rows: ({ index, date }) => [
    ...index.baseline.postingRules.filter((rule) => covers(rule.valid, date)).map((rule) => ({ id: postingRuleId(rule.kind, rule.agencyId, rule.only), name: nameOf(index, rule), group: KIND_NAMES[rule.kind], detail: TYPES[rule.kind].map(typeName).join(' or '), total: rule.account })),
    ...lacking({ index, date }).map((rule) => ({ id: postingRuleId(rule.kind, rule.agencyId, rule.only), name: nameOf(index, rule), group: KIND_NAMES[rule.kind], detail: TYPES[rule.kind].map(typeName).join(' or '), total: '' })),
  ],
  needs: (_, rowId) => rowId !== '',
  matters: () => false,
  says: () => '',
  meets: (row, { accounts }) => accounts.find((account) => account.value.number === row.total)?.id ?? null,
  about: (ground, row) => [
    ...(row.total === '' ? [{ code: 'AXION_NO_RULE', facts: { name: row.name } } as const] : []),
    ...sharing(ground, row),
  ],
  compare: (_, row, objectId, { held }) => {
    const account = held.accounts.find((a) => a.id === objectId)?.value
    if (!account) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const wanted = TYPES[row.id.split(' ')[0] as PostingKind]
    const fits = wanted.includes(account.type)
    const facts = { name: row.name, system: held.row.name, ours: wanted.map(typeName).join(' or '), theirs: `${account.number} ${account.name}`, type: typeName(account.type) }
    return {
      agrees: fits, words: fits ? account.name : `${typeName(account.type)}: ${account.name}`, found: fits ? [] : [{ code: 'AXION_ACCOUNT_TYPE', facts }],
      remedies: fits || !held.row.about.takes.includes('accounts') ? [] : [{ kind: 'send', align: 'accounts', systemId: held.row.system_id, objectId }],
      fields: [{ field: 'Type', ours: facts.ours, theirs: facts.type, agrees: fits }],
    }
  },
}

function sharing({ index, date }: Pick<Ground, 'index' | 'date'>, row: Row): Found[] {
  const [kind, agency] = row.id.split(' ')
  if (kind !== 'tax' || !agency) return []
  const others = index.baseline.postingRules.filter((rule) => rule.kind === 'tax' && rule.account === row.total && covers(rule.valid, date))
  // Said once, at the first of those who share.
  if (others.length < 2 || others[0]?.agencyId !== agency) return []
  return [{ code: 'AXION_ACCOUNT_SHARED', facts: { name: row.name, theirs: row.total, names: others.map((rule) => index.agency(rule.agencyId ?? '')?.name ?? '').join(', ') } }]
}

/** Kinds of amount that every document has, agencies the entity is registered with, and payment methods, that no rule sends anywhere. */
function lacking({ index, date }: Pick<Ground, 'index' | 'date'>): Pick<PostingRule, 'kind' | 'agencyId' | 'only'>[] {
  const kinds = NEEDED.filter((kind) => !index.postingRuleOn(kind, null, date)).map((kind) => ({ kind, agencyId: null, only: null }))
  const registered = [...new Set(index.baseline.registrations.filter((r) => covers(r.valid, date)).map((r) => r.agencyId))]
  const agencies = registered.filter((id) => !index.postingRuleOn('tax', id, date)).map((agencyId) => ({ kind: 'tax' as const, agencyId, only: null }))
  const methods = index.baseline.paymentMethods.filter(({ id }) => !index.postingRuleFor('clearing', { method: id }, date)).map(({ id }) => ({ kind: 'clearing' as const, agencyId: null, only: { by: 'method' as const, id } }))
  return [...kinds, ...agencies, ...methods]
}

export function nameOf(index: Ground['index'], { kind, agencyId, only }: Pick<PostingRule, 'kind' | 'agencyId' | 'only'>): string {
  if (agencyId !== null) return index.agency(agencyId)?.name ?? agencyId
  if (kind === 'clearing' && only) return `Clearing, ${scopeName(index, only).toLowerCase()}`
  return only === null ? KIND_NAMES[kind] : `${KIND_NAMES[kind]} ${SCOPE_NAMES[only.by]} ${scopeName(index, only)}`
}

function scopeName({ baseline }: Ground['index'], { by, id }: { readonly by: PostingScope; readonly id: string }): string {
  const of: Readonly<Record<PostingScope, readonly { readonly id: string; readonly name: string }[]>> = { party: baseline.parties, item: baseline.items, 'item-tax-code': baseline.itemTaxCodes, channel: [], method: baseline.paymentMethods }
  return of[by].find((one) => one.id === id)?.name ?? id
}

/** What a posting rule is about, read from its id; null where it is about nothing. */
export function ruleOf(ruleId: string): Pick<PostingRule, 'kind' | 'agencyId' | 'only'> | null {
  const [first = '', by, ...rest] = ruleId.split(' ')
  const kind = POSTING_KINDS.find((one) => one === first)
  if (!kind) return null
  if (kind === 'tax') return by === undefined || rest.length > 0 ? null : { kind, agencyId: by, only: null }
  const scope = POSTING_SCOPES.find((one) => one === by)
  if (by === undefined) return { kind, agencyId: null, only: null }
  return scope && rest.length > 0 ? { kind, agencyId: null, only: { by: scope, id: rest.join(' ') } } : null
}

/** Whether a kind of amount may go to an account of this type, and what it should be (E2). */
export function fits(kind: PostingKind, type: Account['type']): { readonly fits: boolean; readonly wanted: string } {
  return { fits: TYPES[kind].includes(type), wanted: TYPES[kind].map(typeName).join(' or ') }
}

/** The account of a posting rule as it would be opened in the ledger: with the rule's number, of the type that its kind of amount wants. */
export function accountFor({ index, date }: Pick<Ground, 'index' | 'date'>, ruleId: string): { readonly number: string; readonly name: string; readonly type: Account['type'] } {
  const rule = index.baseline.postingRules.find((one) => covers(one.valid, date) && postingRuleId(one.kind, one.agencyId, one.only) === ruleId)
  const kind = POSTING_KINDS.find((one) => one === rule?.kind)
  if (!rule || !kind) throw new Problem('AXION_NOT_FOUND', { what: 'such posting rule' })
  const name = nameOf(index, rule)
  return { number: rule.account, name: kind === 'tax' ? `${name}, tax owed` : name, type: TYPES[kind][0] ?? 'asset' }
}

function typeName(type: Account['type']): string {
  return type.replaceAll('-', ' ')
}
