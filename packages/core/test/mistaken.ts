import { indexBaseline, type BaselineIndex } from '../src/baseline/lookup.ts'
import { determine } from '../src/determination/determine.ts'
import type { TaxDocument } from '../src/determination/document.ts'
import { assume, type Assumption } from '../src/diagnosis/causes/index.ts'
import type { Recomputable } from '../src/diagnosis/causes/cause.ts'
import { recompute, UNCHANGED } from '../src/diagnosis/recompute.ts'
import { parsePercent } from '../src/money/decimal.ts'
import { expectedVoice, type VoiceFacts } from '../src/tieout/facts.ts'
import { baseline, invoice, rule } from './baseline.ts'

export const rate = (id: string, jurisdictionIds: readonly string[], itemTaxCode: string | null = null) => ({
  id,
  code: id,
  name: id,
  jurisdictionIds,
  itemTaxCode,
  valid: { from: '2020-01-01', to: null },
})
export const index = indexBaseline({
  ...baseline,
  combinedRates: [
    rate('STD', ['XA', 'north']),
    rate('ALL', ['north', 'hollow', 'rail']),
    rate('RED', ['north'], 'FOOD'),
    rate('LESS', ['north', 'hollow']),
    rate('SOUTH', ['south']),
  ],
  parties: [
    ...baseline.parties,
    { id: 'inn', name: 'An inn', claims: null, catchAll: false, address: baseline.homeAddress },
  ],
  codeRules: [
    rule('r1', 'north', 'GOODS', 'standard'),
    rule('r2', 'north', 'FOOD', 'reduced', { percent: parsePercent('2') }),
    rule('r3', 'north', 'BOOK', 'exempt'),
    rule('r4', 'north', 'WORK', 'standard'),
    rule('r5', 'north', 'SHIP', 'follows-goods'),
  ],
})
export const STATE = { country: 'XA', region: 'XA-NO', city: 'Elsewhere', postalCode: '30000' }

export function seen(document: TaxDocument, within: BaselineIndex = index): Recomputable {
  const determination = determine(document, within)
  return {
    document,
    determination,
    expected: expectedVoice(document, determination, within),
    index: within,
  }
}
export const naming = (document: TaxDocument, ...named: readonly (string | null)[]): TaxDocument => ({
  ...document,
  lines: document.lines.map((line, at) => {
    const id = named[at] ?? null
    return id === null ? line : { ...line, names: { systemRateId: `their-${id}`, combinedRateId: id } }
  }),
})
/** A credit note over all of a sale, line by line. */
export const credited = (original: TaxDocument, changes: Partial<TaxDocument> = {}): TaxDocument => ({
  ...original,
  id: 'c1',
  kind: 'credit-note',
  lines: original.lines.map((line) => ({
    ...line,
    id: `c${line.id}`,
    amount: -line.amount,
    credits: line.id,
  })),
  discount: -original.discount,
  original: { document: original, before: new Map() },
  ...changes,
})
export const voiceOf = (of: Recomputable, ...assumptions: readonly Assumption[]): VoiceFacts | null => {
  const changed = assumptions.reduce<ReturnType<typeof assume>>(
    (on, assumption) => on && assume(assumption, on, of),
    UNCHANGED(of.document),
  )
  return changed && recompute(changed, of)
}

export const two = invoice([
  [10000n, 'GOODS'],
  [5000n, 'WORK'],
])
export function percent(jurisdictionId: string, combinedRateId: string): Assumption {
  const at = { systemId: 's', systemRateId: 'r', combinedRateId, jurisdictionId }
  return { kind: 'component-percent', ...at, percent: parsePercent('1') }
}
