import type { AccountChoices } from '@axion/contract'
import { covers, lastDayOf } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { postingRuleId } from '../baseline/tables/postings.ts'
import type { Books } from '../database/connection.ts'
import { loadHeld } from '../setUp/held.ts'
import { fits, nameOf, ruleOf } from './kinds/accounts.ts'
import { nextFree } from './openings.ts'
import { purposesOf } from './purposes.ts'

/** The accounts of the ledger that a posting rule may go to, and what a new one for it would be numbered where the ledger lets one be made. */
export async function accountChoices(books: Books, month: string, ruleId: string): Promise<AccountChoices> {
  const rule = ruleOf(ruleId)
  const ledger = (await loadHeld(books)).find(({ row }) => row.role === 'ledger')
  if (!rule || !ledger)
    return {
      systemId: ledger?.row.system_id ?? null,
      kind: null,
      keptFor: null,
      accounts: [],
      opens: null,
      spans: [],
      changes: [],
    }
  const basis = {
    index: await loadBaseline(books),
    date: lastDayOf(month),
    purposes: await purposesOf(books),
  }
  const { postingRules } = basis.index.baseline
  const own = postingRules.filter((one) => postingRuleId(one.kind, one.agencyId, one.only) === ruleId)
  const now = own.find((one) => covers(one.valid, basis.date))?.account
  const accounts = ledger.accounts
    .map(({ value }) => value)
    .filter((account) => fits(rule, account, basis).fits)
    .map(({ number, name }) => ({ number, name }))
    .sort((a, b) => (a.number < b.number ? -1 : 1))
  const alike = postingRules
    .filter((one) => one.kind === rule.kind && covers(one.valid, basis.date))
    .map((one) => one.account)
  return {
    systemId: ledger.row.system_id,
    kind: rule.kind,
    keptFor: (now && basis.purposes.get(now)) || null,
    accounts,
    opens: ledger.row.about.creates.includes('accounts')
      ? nextFree(
          now ?? alike.sort().at(-1) ?? accounts.at(-1)?.number ?? '',
          new Set([
            ...ledger.accounts.map(({ value }) => value.number),
            ...postingRules.map((one) => one.account),
          ]),
        )
      : null,
    spans: own
      .map(({ account, valid }) => ({
        account,
        name: ledger.accounts.find(({ value }) => value.number === account)?.value.name ?? '',
        from: valid.from === BEGINNING ? null : valid.from,
        to: valid.to,
      }))
      .sort((a, b) => ((a.from ?? '') < (b.from ?? '') ? -1 : 1)),
    changes: await changesOf(books, `${ledger.row.name}: ${nameOf(basis.index, rule)}`),
  }
}

const BEGINNING = '0001-01-01'
const SHOWN = 5

/** What the trail says of a posting rule: the account before and after, and the day from which it holds. */
async function changesOf({ trx, entityId }: Books, object: string): Promise<AccountChoices['changes']> {
  const rows = (await trx('audit_entry')
    .where({ entity_id: entityId, action: 'posting-rule', object })
    .orderBy('place', 'desc')
    .limit(SHOWN)
    .select('at', 'person', 'before', 'after')) as {
    at: Date
    person: string
    before: Readonly<Record<string, string>>
    after: Readonly<Record<string, string>>
  }[]
  return rows.flatMap(({ at, person, before, after }) =>
    Object.entries(after).map(([field, account]) => ({
      at: at.toISOString(),
      person,
      before: before[field] ?? '',
      after: account,
      from: /\d{4}-\d{2}-\d{2}/.exec(field)?.[0] ?? '',
    })),
  )
}
