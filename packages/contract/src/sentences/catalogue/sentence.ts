import type { Facts, FactsIn, FactTable } from '@axion/core'

export interface Sentence<F = Facts> {
  /** HTTP status when it is an answer to a request. */
  readonly status: number
  /** What happened, with the facts in it. */
  readonly says: (facts: F) => string
  /** What to do about it. */
  readonly mend: string
}

/** A sentence for each code of a table of facts. */
export type Said<T extends FactTable> = { readonly [C in keyof T]: Sentence<FactsIn<T[C]>> }

export const on = ({ document }: { readonly document?: string }): string =>
  document ? ` on ${document}` : ''
export const withArticle = (noun: string): string => `${/^[aeiou]/i.test(noun) ? 'an' : 'a'} ${noun}`
export const sentence = <F>(status: number, says: (facts: F) => string, mend: string): Sentence<F> => ({
  status,
  says,
  mend,
})
