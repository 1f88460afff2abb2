import type { AgreedKind, DecisionRow } from '@axion/contract'

/** What is decided, as one and as many, and what a group of them is taken as. */
export const ABOUT_WORDS: Readonly<Record<DecisionRow['about'], readonly [one: string, many: string]>> = {
  agency: ['agency', 'agencies'],
  place: ['place', 'places'],
  rate: ['rate', 'rates'],
  code: ['item tax code', 'item tax codes'],
  item: ['item', 'items'],
  party: ['party', 'parties'],
  method: ['payment method', 'payment methods'],
  location: ['location', 'locations'],
  rounding: ['rounding place', 'rounding places'],
  region: ['region’s rule', 'regions’ rules'],
  posting: ['account', 'accounts'],
}

/** Where what nobody drafted right is entered by hand. */
export const ENTERED_AS: Readonly<Record<DecisionRow['about'], AgreedKind>> = {
  agency: 'agencies',
  place: 'jurisdictions',
  rate: 'combinedRates',
  code: 'codeRules',
  item: 'items',
  party: 'parties',
  method: 'paymentMethods',
  location: 'locations',
  rounding: 'roundings',
  region: 'regionRules',
  posting: 'postingRules',
}

/** In the order in which one rests on the other. */
export const ABOUT = Object.keys(ABOUT_WORDS) as DecisionRow['about'][]

/** What a decision is about, as a line begins. */
export function nameOf({ about, key, name }: Pick<DecisionRow, 'about' | 'key' | 'name'>): string {
  if (about === 'rounding') return `How ${name} rounds`
  if (about === 'region') return `How ${name} taxes`
  if (about !== 'posting') return name
  return key.startsWith('posting:tax:')
    ? `Where tax owed to ${name} goes`
    : `Where ${{ receivable: 'what customers owe', revenue: 'revenue', shipping: 'shipping' }[name] ?? name} goes`
}

/** Decisions of one kind and standing that are taken together. */
export interface Batch {
  readonly about: DecisionRow['about']
  readonly standing: 'agreed' | 'alone'
  readonly rows: readonly DecisionRow[]
  /** Those of them that rest on nothing that is still to be answered. */
  readonly ready: readonly DecisionRow[]
}

/** What may be taken at once, kind by kind; what is open, or has more than words against it, is answered line by line. */
export function batchesOf(decisions: readonly DecisionRow[], standing: Batch['standing']): Batch[] {
  return ABOUT.flatMap((about): Batch[] => {
    const rows = decisions.filter(
      (one) => one.about === about && one.standing === standing && one.options.length > 0,
    )
    return rows.length === 0
      ? []
      : [{ about, standing, rows, ready: rows.filter(({ waitsFor }) => waitsFor.length === 0) }]
  })
}
