import type { BaselineRemedy } from '@axion/contract'
import { covers, type BaselineIndex } from '@axion/core'
import { postingRuleId } from '../../baseline/tables/postings.ts'
import { Problem } from '../../faults/problem.ts'
import { standsFor } from '../../setUp/crosswalk.ts'
import { fits, nameOf, ruleOf } from '../kinds/accounts.ts'
import { KINDS, type GridBasis, type AlignedSystem } from '../kinds/index.ts'
import { planned, type Plan } from './plan.ts'
import { introductionOf } from './takeIn.ts'
import { ADOPTING } from './adopt.ts'

/** What taking a system's values, or an object that only it has, would change in the baseline. */
export function takingOf(basis: GridBasis, month: string, remedy: BaselineRemedy): Plan {
  const aligned = basis.systems.find(({ held }) => held.row.system_id === remedy.systemId)
  if (!aligned) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  if (remedy.kind === 'take-in') return introductionOf(basis, aligned, remedy)
  if (remedy.kind === 'post-to') return postingOf(basis, aligned, month, remedy)
  const link = KINDS[remedy.align].link
  const stands = link && standsFor(aligned.crosswalk.find(link, remedy.objectId))
  const object = aligned.held[remedy.align].find((one) => one.id === remedy.objectId)
  const moves =
    object && stands
      ? ADOPTING[remedy.align](basis, aligned, { month, objectId: remedy.objectId, id: stands })
      : null
  if (!object || !moves) throw new Problem('AXION_NOT_FOUND', { what: 'such object, linked to the baseline' })
  if (moves.steps.length === 0)
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'take over: it agrees by now' })
  return planned(aligned.held, moves.name, moves.changes, {
    to: 'baseline',
    revisions: moves.steps,
    introduces: false,
    link: null,
  })
}

/** A posting rule that sends its amounts to another account of the ledger from the month on; one that is not of the right type is refused (E2). */
function postingOf(
  { index, date, purposes }: GridBasis,
  { held }: AlignedSystem,
  month: string,
  { ruleId, account: number, opens }: Extract<BaselineRemedy, { readonly kind: 'post-to' }>,
): Plan {
  const rule = ruleOf(ruleId)
  if (!rule || !isKnown(index, rule))
    throw new Problem('AXION_NOT_FOUND', { what: 'such kind of amount to post' })
  const account = held.accounts.find((a) => a.value.number === number)?.value
  // One that is to be opened will be of the right type; the grid then says that the ledger lacks it, and makes it there.
  if (!account && !(opens === true && held.row.about.creates.includes('accounts')))
    throw new Problem('AXION_ACCOUNT_NOT_IN_LEDGER', { account: number })
  const name = nameOf(index, rule)
  const { fits: may, wanted } = account
    ? fits(rule, account, { index, date, purposes })
    : { fits: true, wanted: '' }
  if (account && !may)
    throw new Problem('AXION_ACCOUNT_UNFIT', {
      name,
      account: held.accountName(number),
      type: account.type.replaceAll('-', ' '),
      wanted,
    })
  const now = index.baseline.postingRules.find(
    (one) => covers(one.valid, date) && postingRuleId(one.kind, one.agencyId, one.only) === ruleId,
  )
  if (now?.account === number)
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'change: it goes there already' })
  const values = {
    kind: rule.kind,
    agency: rule.agencyId,
    only_by: rule.only?.by ?? null,
    only_id: rule.only?.id ?? null,
    account: number,
  }
  const changes = [
    {
      field: `Account, from ${month}-01`,
      from: now ? held.accountName(now.account) : '',
      to: account ? held.accountName(number) : `${number}, to be made in ${held.row.name}`,
    },
  ]
  return planned(held, name, changes, {
    to: 'baseline',
    introduces: now === undefined,
    link: null,
    revisions: [{ table: 'posting_rule', objectId: ruleId, values, from: `${month}-01` }],
  })
}

/** Whether the baseline has what a rule would be narrowed to; parties and channels may be known by documents alone. */
function isKnown(
  { baseline, agency, itemTaxCodeOf }: BaselineIndex,
  { agencyId, only }: NonNullable<ReturnType<typeof ruleOf>>,
): boolean {
  if (agencyId !== null) return agency(agencyId) !== undefined
  if (only?.by === 'item') return itemTaxCodeOf(only.id) !== undefined
  if (only?.by === 'item-tax-code') return baseline.itemTaxCodes.some((code) => code.id === only.id)
  return only?.by !== 'method' || baseline.paymentMethods.some((method) => method.id === only.id)
}
