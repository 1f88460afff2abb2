import { SALE_WORDS, type RuleDraft, type RulesView, type SpecialGroup } from '@axion/contract'
import { NO_CONDITIONS, NO_OUTCOMES, type StatedFlag } from '@axion/core'

/** What a source's own flag says of a line, in words. */
export const STATED_WORDS: Readonly<Record<StatedFlag, string>> = {
  taxable: 'flagged taxable by its source',
  'not-taxable': 'flagged not taxable by its source',
}

export const SPECIAL_WORDS: Readonly<Record<SpecialGroup['what'], string>> = {
  'no-item': 'Line without an item',
  'unknown-item': 'Item nobody agreed upon',
  shipping: 'Shipping',
  discount: 'Discount',
  reimbursement: 'Reimbursement',
}

type Named = Pick<RulesView, 'choices' | 'names'>
const nameIn = (of: readonly { readonly id: string; readonly name: string }[], id: string): string =>
  of.find((one) => one.id === id)?.name ?? id

/** What a rule asks for, in words: "text has “gift wrap”, in Vellmark". */
export function sayWhen({ when }: RuleDraft, { choices, names }: Named): string {
  return [
    when.item && `item is ${names[when.item] ?? when.item}`,
    when.text && `text has “${when.text}”`,
    when.region && `in ${nameIn(choices.regions, when.region)}`,
    when.party && `party is ${names[when.party] ?? when.party}`,
    when.method && `paid by ${nameIn(choices.methods, when.method)}`,
    when.channel && `sold through ${when.channel}`,
    when.system && `of ${nameIn(choices.systems, when.system)}`,
    when.stated && STATED_WORDS[when.stated],
    when.saleKind && `sold for ${SALE_WORDS[when.saleKind]}`,
  ]
    .filter(Boolean)
    .join(', ')
}

/** What comes out of it: "under Ware, to 4010 Wrapping". */
export function sayThen({ then }: RuleDraft, { choices, names }: Named): string {
  return [
    then.item && `counts as ${names[then.item] ?? then.item}`,
    then.itemTaxCode && `under ${nameIn(choices.codes, then.itemTaxCode)}`,
    then.account &&
      `to ${[then.account, choices.accounts.find((one) => one.id === then.account)?.name].filter(Boolean).join(' ')}`,
    then.dimension && nameIn(choices.dimensions, then.dimension),
  ]
    .filter(Boolean)
    .join(', ')
}

export const EMPTY_RULE: Omit<RuleDraft, 'from'> = {
  code: null,
  name: '',
  to: null,
  when: NO_CONDITIONS,
  then: NO_OUTCOMES,
}

/** Whether it states at least one condition and one outcome, and has a name. */
export function isWhole({ name, when, then }: RuleDraft): boolean {
  return (
    name.trim() !== '' && [when, then].every((part) => Object.values(part).some((value) => value !== null))
  )
}

/** Whether what it decides is what the source's own flag says: agreed that it does, and checked by nobody. */
export function isBySource({ when, then }: RuleDraft): boolean {
  return when.stated !== null && (then.itemTaxCode !== null || then.item !== null)
}
