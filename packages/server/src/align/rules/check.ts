import type { Account, BaselineImport } from '@axion/contract'
import type { PostingKind } from '@axion/core'
import { requireReferences } from '../../baseline/import.ts'
import { Problem } from '../../faults/problem.ts'
import type { HeldSystem } from '../../setUp/held.ts'
import type { Purposes } from '../purposes.ts'

/** What a line may be booked to: revenue, a cost that is handed on, or what is owed for it. What tax is posted to is for tax alone. */
const TYPES: readonly Account['type'][] = ['income', 'expense', 'current-liability', 'liability']

/** Kinds of amount that a line may be. */
const LINE_KINDS: readonly PostingKind[] = ['revenue', 'shipping', 'expense']

export function accountsForRules(
  baseline: BaselineImport,
  ledger: HeldSystem | undefined,
  purposes: Purposes,
): Account[] {
  const isKept = (number: string): boolean =>
    !(purposes.get(number) ?? LINE_KINDS).some((kind) => LINE_KINDS.includes(kind))
  const forTax = new Set(
    baseline.postingRules.filter(({ kind }) => kind === 'tax').map(({ account }) => account),
  )
  return (ledger?.accounts ?? [])
    .map(({ value }) => value)
    .filter(({ type, number }) => TYPES.includes(type) && !forTax.has(number) && !isKept(number))
    .sort((a, b) => (a.number < b.number ? -1 : 1))
}

/**
 * Sees that rules name what is there, and accounts that lines may go to.
 * @throws AXION_BASELINE_INCONSISTENT, AXION_ACCOUNT_NOT_IN_LEDGER, AXION_ACCOUNT_UNFIT
 */
export function checkRules(
  baseline: BaselineImport,
  ledger: HeldSystem | undefined,
  purposes: Purposes,
): void {
  requireReferences(baseline)
  const fit = new Set(accountsForRules(baseline, ledger, purposes).map(({ number }) => number))
  for (const {
    name,
    then: { account },
  } of baseline.rules) {
    if (account === null || fit.has(account)) continue
    const held = ledger?.accounts.find(({ value }) => value.number === account)?.value
    if (!held) throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account })
    throw new Problem('AXION_ACCOUNT_UNFIT', {
      account: `${held.number} ${held.name}`,
      type: held.type.replaceAll('-', ' '),
      name: `What the rule “${name}” decides`,
      wanted:
        'an account of income, expense or liability that no tax is posted to, and that is kept for nothing else',
    })
  }
}
