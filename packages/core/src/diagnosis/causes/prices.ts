import { assuming, type Cause } from './cause.ts'

/** Prices read the other way. */
export interface PricesInside {
  readonly kind: 'prices'
  readonly includeTax: boolean
}

export const pricesInside: Cause<PricesInside, { readonly includeTax: boolean }> = {
  kind: 'prices',
  rank: () => 8,
  key: (a) => [a.includeTax],
  candidates: ({ document }) => [
    { kind: 'prices', includeTax: !(document.original?.document ?? document).pricesIncludeTax },
  ],
  apply: (a, on) => assuming(on, { pricesIncludeTax: a.includeTax }),
  facts: ({ includeTax }) => ({ includeTax }),
  says: (f) =>
    f.includeTax
      ? `${f.system} read prices before tax as if tax were inside.`
      : `${f.system} put tax on prices that have it inside.`,
}
