import type { CodeTreatment, Jurisdiction, RoundingPlace } from '../baseline/baseline.ts'
import type { BaselineIndex } from '../baseline/lookup.ts'
import type { Finding } from '../faults.ts'
import type { MinorUnits } from '../money/currency.ts'
import type { Percent } from '../money/decimal.ts'
import type { DocumentLine, TaxDocument } from './document.ts'
import { placeOf } from './place.ts'
import { taxAt, type TaxedLine } from './taxRounding.ts'

export type Reason = CodeTreatment | 'not-registered'

/** What a row was computed from, so that a change knows exactly what it touches. */
export interface RowSource {
  readonly rateVersion: string | null
  readonly codeRule: string | null
  readonly registration: string | null
  readonly rounding: string | null
}

/** One line's tax in one jurisdiction. An untaxed row has percent 0 and base 0; its reason stands on the net. */
export interface TaxRow {
  readonly lineId: string
  readonly jurisdictionId: string
  readonly agencyId: string
  readonly percent: Percent
  readonly net: MinorUnits
  readonly base: MinorUnits
  readonly tax: MinorUnits
  readonly reason: Reason
  readonly source: RowSource
}

export interface Determination {
  readonly rows: readonly TaxRow[]
  readonly findings: readonly Finding[]
  readonly jurisdictions: readonly Jurisdiction[]
  /** Null where the region has none: then nothing taxable is worked out, and a finding says so. */
  readonly rounding: RoundingPlace | null
  /** A finding that leaves the tax open: the rows are then not a claim about this document. */
  readonly complete: boolean
}

/** What may be asked to differ from the baseline: diagnosis recomputes under one of these at a time. */
export interface Assumed {
  readonly percentOf?: (jurisdictionId: string) => Percent | undefined
  readonly rounding?: RoundingPlace
}

interface OpenRow extends Omit<TaxRow, 'tax'> {
  readonly line: DocumentLine
}

/**
 * K3 for destination sourcing: place, item tax code rule, registration, then tax at the region's rounding place.
 * The supply date decides rate, rule and registration; the first reason in the order of the steps wins.
 * Bad or missing baseline facts are findings in the result, never guesses.
 */
export function determine(document: TaxDocument, index: BaselineIndex, assumed: Assumed = {}): Determination {
  const place = placeOf(document.shipTo, index.baseline.jurisdictions)
  const findings: Finding[] = [...place.findings]
  const region = place.jurisdictions.find((j) => j.level === 'region')
  const regionRounding = region && index.roundingOn(region.id, document.supplyDate)
  const rounding = assumed.rounding ?? regionRounding?.place ?? null
  const levying = place.jurisdictions.filter((j) => index.levies(j.id))

  const open = document.lines.flatMap((line) =>
    levying.flatMap((jurisdiction) => {
      const row = rowOf(document, line, jurisdiction, index, assumed)
      if ('code' in row) findings.push(row)
      return 'code' in row ? [] : [{ ...row, source: { ...row.source, rounding: regionRounding?.id ?? null } }]
    }),
  )
  if (!rounding && open.some((row) => row.reason === 'standard')) {
    findings.push({ code: 'AXION_NO_ROUNDING_PLACE', facts: { region: region?.name ?? '', document: document.number } })
  }
  return {
    rows: findings.length === 0 && rounding ? withTax(open, rounding) : open.map((row) => closed(row, 0n)),
    findings,
    jurisdictions: place.jurisdictions,
    rounding,
    complete: findings.length === 0,
  }
}

function rowOf(document: TaxDocument, line: DocumentLine, at: Jurisdiction, index: BaselineIndex, assumed: Assumed): OpenRow | Finding {
  const date = document.supplyDate
  const facts = { document: document.number, line: line.id, jurisdiction: at.name, date }
  if (line.itemTaxCode === null) return { code: 'AXION_NO_ITEM_TAX_CODE', facts }
  const rule = index.codeRuleOn(at.id, line.itemTaxCode, date)
  if (!rule) return { code: 'AXION_NO_CODE_RULE', facts: { ...facts, itemTaxCode: line.itemTaxCode } }
  if (at.agencyId === null) return { code: 'AXION_JURISDICTION_WITHOUT_AGENCY', facts }
  const row = { line, lineId: line.id, jurisdictionId: at.id, agencyId: at.agencyId, net: line.net }
  const source = { rateVersion: null, codeRule: rule.id, registration: null, rounding: null }
  const untaxed = { ...row, percent: 0n, base: 0n, source }
  if (rule.treatment === 'exempt') return { ...untaxed, reason: 'exempt' }
  const registration = index.registrationOn(at.agencyId, date)
  if (!registration) return { ...untaxed, reason: 'not-registered' }
  const version = index.rateOn(at.id, date)
  if (!version) return { code: 'AXION_NO_RATE_ON_DATE', facts }
  return {
    ...row,
    percent: assumed.percentOf?.(at.id) ?? version.percent,
    base: line.net,
    reason: 'standard',
    source: { ...source, rateVersion: version.id, registration: registration.id },
  }
}

function withTax(rows: readonly OpenRow[], rounding: RoundingPlace): TaxRow[] {
  const taxed = rows.filter((row) => row.reason === 'standard')
  const lines = new Map<string, TaxedLine>()
  for (const row of taxed) {
    const components = [...(lines.get(row.lineId)?.components ?? []), { jurisdictionId: row.jurisdictionId, percent: row.percent }]
    lines.set(row.lineId, { lineId: row.lineId, base: row.base, quantity: row.line.quantity, components })
  }
  const tax = new Map(taxAt(rounding, [...lines.values()]).map((t) => [`${t.lineId}\n${t.jurisdictionId}`, t.tax]))
  return rows.map((row) => closed(row, tax.get(`${row.lineId}\n${row.jurisdictionId}`) ?? 0n))
}

function closed({ line: _line, ...row }: OpenRow, tax: MinorUnits): TaxRow {
  return { ...row, tax }
}
