import type { AccountChoices } from '@axion/contract'
import { covers } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { postingRuleId } from '../baseline/tables.ts'
import { loadHeld, type HeldSystem } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { lastDayOf } from '../tieout/periods.ts'
import { fits, ruleOf } from './kinds/accounts.ts'
import { purposesOf } from './purposes.ts'

/** The accounts of the ledger that a posting rule may go to, and what a new one for it would be numbered where the ledger lets one be made. */
export async function accountChoices(trx: Transaction, entityId: string, month: string, ruleId: string): Promise<AccountChoices> {
  const rule = ruleOf(ruleId)
  const ledger = (await loadHeld(trx, entityId)).find(({ row }) => row.role === 'ledger')
  if (!rule || !ledger) return { systemId: ledger?.row.system_id ?? null, kind: null, keptFor: null, accounts: [], opens: null }
  const ground = { index: await loadBaseline(trx, entityId), date: lastDayOf(month), purposes: await purposesOf(trx, entityId) }
  const { postingRules } = ground.index.baseline
  const now = postingRules.find((one) => covers(one.valid, ground.date) && postingRuleId(one.kind, one.agencyId, one.only) === ruleId)?.account
  const accounts = ledger.accounts.map(({ value }) => value).filter((account) => fits(rule.kind, account, ground).fits).map(({ number, name }) => ({ number, name })).sort((a, b) => (a.number < b.number ? -1 : 1))
  const alike = postingRules.filter((one) => one.kind === rule.kind && covers(one.valid, ground.date)).map((one) => one.account)
  return {
    systemId: ledger.row.system_id, kind: rule.kind, keptFor: (now && ground.purposes.get(now)) || null, accounts,
    opens: ledger.row.about.creates.includes('accounts') ? nextFree(now ?? alike.sort().at(-1) ?? accounts.at(-1)?.number ?? '', ledger, postingRules.map((one) => one.account)) : null,
  }
}

/** The first number after another's that neither the ledger nor a posting rule has; nothing where numbers are no numbers. */
function nextFree(after: string, { accounts }: HeldSystem, named: readonly string[]): string {
  if (!/^\d{1,15}$/.test(after)) return ''
  const taken = new Set([...accounts.map(({ value }) => value.number), ...named])
  for (let number = BigInt(after) + 1n, tried = 0; tried <= taken.size; number++, tried++) {
    const text = number.toString().padStart(after.length, '0')
    if (!taken.has(text)) return text
  }
  return ''
}
