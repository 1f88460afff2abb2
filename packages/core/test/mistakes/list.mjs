/**
 * Mistakes that somebody could make in the core, each of which its own tests must notice: the file, what stands there, and what would
 * stand there instead. `npm run mistakes` makes them one by one in a copy.
 */
export const MISTAKES = [
  {
    name: 'the headline’s money does not take the larger of too much and too little',
    file: 'tieout/unproved.ts',
    right: `  let left = largest(
    sum(over),
    sum(under),`,
    wrong: `  let left = largest(
    sum(over),`,
  },
  {
    name: 'what is too little counts nothing where more is too much',
    file: 'tieout/unproved.ts',
    right: `      sum(gaps.map(({ gap }) => (gap < 0n ? -gap : 0n))),
    )`,
    wrong: `    )`,
  },
  {
    name: 'stakes are summed both ways',
    file: 'crosswalk/stake.ts',
    right: 'return over > short ? over : short',
    wrong: 'return over + short',
  },
  {
    name: 'a cap is not times the quantity',
    file: 'determination/slice.ts',
    right: 'least(price, multiply(ratio(cap), size(quantity)))',
    wrong: 'least(price, ratio(cap))',
  },
  {
    name: 'a threshold is not times the quantity',
    file: 'determination/slice.ts',
    right: 'threshold && multiply(ratio(threshold.limit), size(quantity))',
    wrong: 'threshold && ratio(threshold.limit)',
  },
  {
    name: 'shipping follows services',
    file: 'determination/shipping.ts',
    right: "line.kind === 'goods' && price",
    wrong: "line.kind !== 'shipping' && price",
  },
  {
    name: 'shipping of a return follows goods that are sold',
    file: 'determination/shipping.ts',
    right: ' && price < 0n === taxable < 0n',
    wrong: '',
  },
  {
    name: 'a returned tax per unit keeps its sign',
    file: 'determination/exclusive.ts',
    right: 'quantity: signed(line),',
    wrong: 'quantity: line.line.quantity,',
  },
  {
    name: 'recoverable tax is cut off rather than rounded',
    file: 'determination/recoverable.ts',
    right: 'round(unroundedTax(sum(of.map((row) => row.tax)), BigInt(share))),',
    wrong:
      '((r) => r.numerator / r.denominator)(unroundedTax(sum(of.map((row) => row.tax)), BigInt(share))),',
  },
  {
    name: 'base-currency tax of mixed signs is shared out by weight',
    file: 'bookings/inBase.ts',
    right: 'const parts = oneSided\n      ? allocate',
    wrong: 'const parts = oneSided || true\n      ? allocate',
  },
  {
    name: 'equals are not ranked by how plausible they are',
    file: 'diagnosis/diagnose.ts',
    right: ' || place(a) - place(b),',
    wrong: ',',
  },
  {
    name: 'plausible comes before what explains more',
    file: 'diagnosis/diagnose.ts',
    right: 'explains(b) - explains(a) || a.assumptions.length - b.assumptions.length || place(a) - place(b)',
    wrong: 'place(a) - place(b) || explains(b) - explains(a) || a.assumptions.length - b.assumptions.length',
  },
  {
    name: 'facets come as they were found',
    file: 'tieout/verdict.ts',
    right: 'facets: FACETS.filter((facet) => facets.has(facet)),',
    wrong: 'facets: [...facets],',
  },
  {
    name: 'the headline is another than the first by rank',
    file: 'tieout/verdict.ts',
    right: "  'account',\n  'rounding',\n  'agency',\n  'amount',",
    wrong: "  'amount',\n  'account',\n  'rounding',\n  'agency',",
  },
  {
    name: 'an outlet’s sale goes by where it was sent from',
    file: 'determination/sourcing.ts',
    right: ' || document.outlet != null)',
    wrong: ')',
  },
  {
    name: 'the last +4 of a range is not in it',
    file: 'determination/place.ts',
    right: 'plus4 <= cover.plus4.to',
    wrong: 'plus4 < cover.plus4.to',
  },
  {
    name: 'the first +4 of a range is not in it',
    file: 'determination/place.ts',
    right: 'plus4 >= cover.plus4.from',
    wrong: 'plus4 > cover.plus4.from',
  },
  {
    name: 'a region’s rule goes by the document’s date',
    file: 'determination/sourcing.ts',
    right: 'index.regionRuleOn(region.id, document.supplyDate)',
    wrong: 'index.regionRuleOn(region.id, document.documentDate)',
  },
  {
    name: 'an exempt row names a certificate and a registration as its source',
    file: 'determination/levies.ts',
    right: '      source: { ...levy.source, certificate: null, registration: null },\n',
    wrong: '',
  },
]
