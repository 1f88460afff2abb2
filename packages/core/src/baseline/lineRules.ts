import { foldName } from '../crosswalk/folding.ts'
import type { TaxDocument, DocumentLine } from '../determination/document.ts'
import type { LineRule } from './baseline.ts'
import { covers, type IsoDate } from './dates.ts'
import type { BaselineIndex } from './lookup.ts'

/** What the rules decide of a line (C4), and which rule decided it; what none decides stays as it is without them. */
export interface LineDecision {
  readonly itemTaxCode: string | null
  readonly account: string | null
  /** Values of tracking dimensions, at most one of each dimension. */
  readonly dimensions: readonly string[]
  /** The rules that decided something, in their order. */
  readonly rules: readonly string[]
}

/** What conditions look at: a line, and the document that it stands on. */
export interface LineFacts {
  readonly item: string | null
  readonly text: string
  readonly country: string
  readonly region: string | null
  readonly party: string | null
  readonly methods: readonly string[]
  readonly channel: string | null
}

const UNDECIDED: LineDecision = { itemTaxCode: null, account: null, dimensions: [], rules: [] }

/**
 * Decides a line by rules in their order: for each outcome, the first that holds on the day, and whose every condition is met.
 * A text is met where the line's contains it, whatever its case, spaces and dashes; a region by a country too.
 */
export function decideLine(
  rules: readonly LineRule[],
  facts: LineFacts,
  date: IsoDate,
  dimensionOf: (id: string) => string,
): LineDecision {
  let decision = UNDECIDED
  for (const rule of rules) {
    if (!covers(rule.valid, date) || !meets(rule, facts)) continue
    const { itemTaxCode, account, dimension } = rule.then
    const takes = {
      itemTaxCode: decision.itemTaxCode === null && itemTaxCode !== null,
      account: decision.account === null && account !== null,
      dimension:
        dimension !== null && !decision.dimensions.some((id) => dimensionOf(id) === dimensionOf(dimension)),
    }
    if (!takes.itemTaxCode && !takes.account && !takes.dimension) continue
    decision = {
      itemTaxCode: takes.itemTaxCode ? itemTaxCode : decision.itemTaxCode,
      account: takes.account ? account : decision.account,
      dimensions:
        takes.dimension && dimension !== null ? [...decision.dimensions, dimension] : decision.dimensions,
      rules: [...decision.rules, rule.id],
    }
  }
  return decision
}

function meets({ when }: LineRule, facts: LineFacts): boolean {
  return (
    (when.item === null || when.item === facts.item) &&
    (when.text === null || foldName(facts.text).includes(foldName(when.text))) &&
    (when.region === null || when.region === facts.region || when.region === facts.country) &&
    (when.party === null || when.party === facts.party) &&
    (when.method === null || facts.methods.includes(when.method)) &&
    (when.channel === null || when.channel === facts.channel)
  )
}

/**
 * A document with its lines decided: a rule's item tax code stands in place of the item's own. The supply date says which rules hold.
 * The region is the outlet's of a counter sale, else the destination's.
 */
export function decided(document: TaxDocument, { baseline, dimension }: BaselineIndex): TaxDocument {
  if (baseline.lineRules.length === 0) return document
  const where = document.outlet ?? document.shipTo
  const dimensionOf = (id: string): string => dimension(id)?.dimension ?? id
  const lines = document.lines.map((line): DocumentLine => {
    const facts = {
      item: line.itemId ?? null,
      text: line.text ?? '',
      country: where.country,
      region: where.region,
      party: document.partyId,
      methods: document.methods ?? [],
      channel: document.channel ?? null,
    }
    const decision = decideLine(baseline.lineRules, facts, document.supplyDate, dimensionOf)
    return decision.rules.length === 0
      ? line
      : { ...line, itemTaxCode: decision.itemTaxCode ?? line.itemTaxCode, decision }
  })
  return { ...document, lines }
}
