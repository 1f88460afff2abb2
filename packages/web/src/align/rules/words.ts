import type { RuleDraft, RulesView, SpecialGroup } from '@axion/contract'

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
  ]
    .filter(Boolean)
    .join(', ')
}

/** What comes out of it: "under Ware, to 4010 Wrapping". */
export function sayThen({ then }: RuleDraft, { choices }: Named): string {
  return [
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
  when: { item: null, text: null, region: null, party: null, method: null, channel: null },
  then: { itemTaxCode: null, account: null, dimension: null },
}

/** Whether it states at least one condition and one outcome, and has a name. */
export function isWhole({ name, when, then }: RuleDraft): boolean {
  return (
    name.trim() !== '' && [when, then].every((part) => Object.values(part).some((value) => value !== null))
  )
}
