import { assuming, type Cause } from './cause.ts'

/** All of the shipping taxed, or none. */
export interface ShippingTaxed {
  readonly kind: 'shipping'
  readonly taxed: boolean
}

export const shippingTaxed: Cause<ShippingTaxed, { readonly taxed: boolean }> = {
  kind: 'shipping',
  rank: () => 10,
  key: (a) => [a.taxed],
  candidates: ({ document }) =>
    (document.original?.document ?? document).lines.some((line) => line.kind === 'shipping')
      ? [true, false].map((taxed) => ({ kind: 'shipping', taxed }))
      : [],
  apply: (a, on) => assuming(on, { shipping: a.taxed ? 'taxed' : 'untaxed' }),
  facts: ({ taxed }) => ({ taxed }),
  says: (f) => `${f.system} taxed ${f.taxed ? 'all' : 'none'} of the shipping.`,
}
