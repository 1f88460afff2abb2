import { assuming, type Cause } from './cause.ts'

/** The discount on the other side of the tax. */
export interface DiscountBefore {
  readonly kind: 'discount'
  readonly beforeTax: boolean
}

export const discountBefore: Cause<DiscountBefore, { readonly beforeTax: boolean }> = {
  kind: 'discount',
  rank: () => 9,
  key: (a) => [a.beforeTax],
  candidates: ({ document }) =>
    (document.original?.document ?? document).discount === 0n
      ? []
      : [true, false].map((beforeTax) => ({ kind: 'discount', beforeTax })),
  apply: (a, on) => assuming(on, { taxedBeforeDiscount: !a.beforeTax }),
  facts: ({ beforeTax }) => ({ beforeTax }),
  says: (f) => `${f.system} took the discount off ${f.beforeTax ? 'before' : 'after'} tax.`,
}
