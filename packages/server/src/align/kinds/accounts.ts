import { covers, type PostingKind, type PostingRule } from '@axion/core'
import type { Account } from '@axion/contract'
import type { Found, Ground, KindOfSetUp, Row } from './kind.ts'

const KIND_NAMES: Readonly<Record<PostingKind, string>> = {
  receivable: 'What customers owe', revenue: 'Revenue', shipping: 'Shipping revenue', tax: 'Tax owed', discount: 'Discounts', reimbursement: 'What third parties reimburse',
}
/** Which types of account a kind of amount may go to (E2). */
const TYPES: Readonly<Record<PostingKind, readonly Account['type'][]>> = {
  receivable: ['receivable'], revenue: ['income'], shipping: ['income'], tax: ['current-liability'], discount: ['income', 'expense'], reimbursement: ['receivable', 'asset'],
}
const NEEDED: readonly PostingKind[] = ['receivable', 'revenue', 'shipping']

/** Posting rules beside the accounts of the ledger that they name. */
export const ACCOUNTS: KindOfSetUp = {
  kind: 'accounts', link: null, resource: 'accounts',
  rows: ({ index, date }) => [
    ...index.baseline.postingRules.filter((rule) => covers(rule.valid, date)).map((rule) => ({ id: idOf(rule.kind, rule.agencyId), name: nameOf(index, rule), group: KIND_NAMES[rule.kind], detail: TYPES[rule.kind].map(typeName).join(' or '), total: rule.account })),
    ...lacking({ index, date }).map(({ kind, agencyId, name }) => ({ id: idOf(kind, agencyId), name, group: KIND_NAMES[kind], detail: TYPES[kind].map(typeName).join(' or '), total: '' })),
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
      agrees: fits, words: fits ? account.name : `${typeName(account.type)}: ${account.name}`, found: fits ? [] : [{ code: 'AXION_ACCOUNT_TYPE', facts }], remedies: [],
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

/** Kinds of amount that every document has, and agencies the entity is registered with, that no rule sends anywhere. */
function lacking({ index, date }: Pick<Ground, 'index' | 'date'>): { readonly kind: PostingKind; readonly agencyId: string | null; readonly name: string }[] {
  const kinds = NEEDED.filter((kind) => !index.postingRuleOn(kind, null, date)).map((kind) => ({ kind, agencyId: null, name: KIND_NAMES[kind] }))
  const registered = [...new Set(index.baseline.registrations.filter((r) => covers(r.valid, date)).map((r) => r.agencyId))]
  return [...kinds, ...registered.filter((id) => !index.postingRuleOn('tax', id, date)).map((id) => ({ kind: 'tax' as const, agencyId: id, name: index.agency(id)?.name ?? id }))]
}

function idOf(kind: PostingKind, agencyId: string | null): string {
  return agencyId === null ? kind : `${kind} ${agencyId}`
}

function nameOf(index: Ground['index'], { kind, agencyId }: PostingRule): string {
  return agencyId === null ? KIND_NAMES[kind] : (index.agency(agencyId)?.name ?? agencyId)
}

function typeName(type: Account['type']): string {
  return type.replaceAll('-', ' ')
}
