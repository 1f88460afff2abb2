import {
  determine,
  indexBaseline,
  parsePercent,
  sum,
  type Baseline,
  type RegionRule,
  type TaxDocument,
} from '../src/index.ts'
import { baseline, rule } from './baseline.ts'

/** A region with one percent, line by line, and whatever else a case needs. */
export const simple = (percent: string, changes: Partial<Baseline> = {}): Baseline => ({
  ...baseline,
  jurisdictions: baseline.jurisdictions.filter((j) => ['XA', 'north'].includes(j.id)),
  rateVersions: [
    {
      id: 'v',
      jurisdictionId: 'north',
      percent: parsePercent(percent),
      onTopOf: [],
      valid: { from: '2020-01-01', to: null },
    },
  ],
  roundings: [
    {
      id: 'round',
      jurisdictionId: 'north',
      place: { level: 'line', unit: 'combined', tie: 'half-away' },
      valid: { from: '2020-01-01', to: null },
    },
  ],
  ...changes,
})
export const regionRule = (changes: Partial<RegionRule>): Partial<Baseline> => ({
  regionRules: baseline.regionRules.map((r) => ({ ...r, ...changes })),
})
export const taxOf = (document: TaxDocument, on: Baseline): bigint =>
  sum(determine(document, indexBaseline(on)).rows.map((row) => row.tax))
export const rowsOf = (document: TaxDocument, on: Baseline = baseline) =>
  determine(document, indexBaseline(on)).rows.map((r) => [
    r.lineId,
    r.jurisdictionId,
    r.net,
    r.base,
    r.tax,
    r.reason,
  ])
export const codesOf = (document: TaxDocument, on: Baseline = baseline) =>
  determine(document, indexBaseline(on)).findings.map((f) => f.code)
export const limit = (
  threshold: bigint | null,
  taxes: 'whole' | 'excess',
  cap: bigint | null,
): Partial<Baseline> => ({
  codeRules: [
    rule('r', 'north', 'GOODS', 'standard', {
      threshold: threshold === null ? null : { limit: threshold, taxes },
      cap,
      currency: 'USD',
    }),
  ],
})
