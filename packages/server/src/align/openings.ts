import type { Account } from '@axion/contract'
import { covers, foldName } from '@axion/core'
import { postingRuleId } from '../baseline/tables/postings.ts'
import type { HeldSystem } from '../setUp/held.ts'
import { accountNamed, fits, lacking, type Named } from './kinds/accounts.ts'
import type { GridBasis } from './kinds/kind.ts'

/** Where a kind of amount that the month holds, and that goes nowhere yet, is proposed to go. */
export interface Opening {
  readonly account: Account
  /** The ledger has none of that name and type: it is made there. */
  readonly opens: boolean
}

/**
 * For each kind of amount that no rule sends anywhere, by the rule's id: the one account of the ledger that has the proposed name and the right
 * type, else a new one after the last of its kind. Null where the ledger lets nobody else make one, or has no number that another follows.
 */
export function openings(basis: GridBasis, ledger: HeldSystem): ReadonlyMap<string, Opening | null> {
  const numbers = new Set([
    ...ledger.accounts.map(({ value }) => value.number),
    ...basis.index.baseline.postingRules.map(({ account }) => account),
  ])
  return new Map(
    lacking(basis).map((rule) => {
      const opening = openingOf(basis, ledger, { rule, numbers })
      if (opening) numbers.add(opening.account.number)
      return [postingRuleId(rule.kind, rule.agencyId, rule.only), opening] as const
    }),
  )
}

function openingOf(
  basis: GridBasis,
  ledger: HeldSystem,
  { rule, numbers }: { readonly rule: Named; readonly numbers: ReadonlySet<string> },
): Opening | null {
  const wanted = accountNamed(basis.index, rule)
  const fit = ledger.accounts.map(({ value }) => value).filter((account) => fits(rule, account, basis).fits)
  const same = fit.filter(({ name }) => foldName(name) === foldName(wanted.name))
  if (same[0] && same.length === 1) return { account: same[0], opens: false }
  if (!ledger.row.about.creates.includes('accounts')) return null
  const number = nextFree(lastOf(basis, ledger, { rule, fit }), numbers)
  return number === '' ? null : { account: { ...wanted, number }, opens: true }
}

/** The account that a new one comes after: the last that the kind is posted to, else the last that it could be, else the last of its type, else of all. */
function lastOf(
  { index, date }: GridBasis,
  ledger: HeldSystem,
  { rule, fit }: { readonly rule: Named; readonly fit: readonly Account[] },
): string {
  const alike = index.baseline.postingRules
    .filter(({ kind, valid }) => kind === rule.kind && covers(valid, date))
    .map(({ account }) => account)
  const all = ledger.accounts.map(({ value }) => value)
  const { type } = accountNamed(index, rule)
  return (
    [alike, fit.map(numberOf), all.filter((one) => one.type === type).map(numberOf), all.map(numberOf)]
      .map((of) =>
        of
          .filter((number) => NUMBER.test(number))
          .sort(byNumber)
          .at(-1),
      )
      .find((last) => last !== undefined) ?? ''
  )
}

const NUMBER = /^\d{1,15}$/
const numberOf = ({ number }: Account): string => number
const byNumber = (a: string, b: string): number => a.length - b.length || (a < b ? -1 : 1)

/** The first number after another's that neither the ledger nor a posting rule has; nothing where numbers are no numbers. */
export function nextFree(after: string, taken: ReadonlySet<string>): string {
  if (!NUMBER.test(after)) return ''
  for (let number = BigInt(after) + 1n, tried = 0; tried <= taken.size; number++, tried++) {
    const text = number.toString().padStart(after.length, '0')
    if (!taken.has(text)) return text
  }
  return ''
}
