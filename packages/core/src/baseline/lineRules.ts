import { foldName } from '../crosswalk/folding.ts'
import type { TaxDocument, DocumentLine } from '../determination/document.ts'
import type { LineRule, SaleKind, StatedFlag } from './baseline.ts'
import { covers, type IsoDate } from './dates.ts'
import type { BaselineIndex } from './lookup.ts'

/** What the rules decide of a line (C4), and which rule decided it; what none decides stays as it is without them. */
export interface LineDecision {
  /** What it counts as, where it is no item of the catalogue. */
  readonly item: string | null
  readonly itemTaxCode: string | null
  readonly account: string | null
  /** Values of tracking dimensions, at most one of each dimension. */
  readonly dimensions: readonly string[]
  /** The rules that decided something, in their order. */
  readonly rules: readonly string[]
  /** Whether the source's own flag decided what it is taxed as: agreed that it does, and checked by nobody. */
  readonly bySource: boolean
  /** Whether a rule says what a sale of the document's kind stands under. */
  readonly kindAgreed: boolean
}

/** What conditions look at: a line, and the document that it stands on. */
export interface LineFacts {
  /** The baseline's item; null, and of one that it does not know, where a rule may say what it counts as. */
  readonly item: string | null
  readonly isInCatalogue: boolean
  readonly text: string
  readonly country: string
  readonly region: string | null
  readonly party: string | null
  readonly methods: readonly string[]
  readonly channel: string | null
  readonly system: string | null
  /** Null where the source says nothing of it. */
  readonly stated: StatedFlag | null
  /** Null on an ordinary sale. */
  readonly saleKind: SaleKind | null
}

/** No condition at all: a rule states those that it has in place of these. */
export const NO_CONDITIONS: LineRule['when'] = {
  item: null,
  text: null,
  region: null,
  party: null,
  method: null,
  channel: null,
  system: null,
  stated: null,
  saleKind: null,
}
export const NO_OUTCOMES: LineRule['then'] = { item: null, itemTaxCode: null, account: null, dimension: null }

const UNDECIDED: LineDecision = {
  item: null,
  itemTaxCode: null,
  account: null,
  dimensions: [],
  rules: [],
  bySource: false,
  kindAgreed: false,
}

/**
 * Decides a line by rules in their order: for each outcome, the first that holds on the day, and whose every condition is met.
 * What a line counts as by one rule, later rules find it to be. A text is met where the line's contains it, whatever its case, spaces and dashes; a region by a country too.
 */
export function decideLine(
  rules: readonly LineRule[],
  facts: LineFacts,
  date: IsoDate,
  dimensionOf: (id: string) => string,
): LineDecision {
  let decision = UNDECIDED
  for (const rule of rules) {
    if (!covers(rule.valid, date) || !meets(rule, { ...facts, item: decision.item ?? facts.item })) continue
    const { then, when } = rule
    const dimension = then.dimension
    const takes = {
      item: decision.item === null && then.item !== null && !facts.isInCatalogue,
      itemTaxCode: decision.itemTaxCode === null && then.itemTaxCode !== null,
      account: decision.account === null && then.account !== null,
      dimension:
        dimension !== null && !decision.dimensions.some((id) => dimensionOf(id) === dimensionOf(dimension)),
    }
    const taxedAs = takes.item || takes.itemTaxCode
    const kindAgreed = decision.kindAgreed || (when.saleKind !== null && then.itemTaxCode !== null)
    if (!taxedAs && !takes.account && !takes.dimension) {
      decision = { ...decision, kindAgreed }
      continue
    }
    decision = {
      item: takes.item ? then.item : decision.item,
      itemTaxCode: takes.itemTaxCode ? then.itemTaxCode : decision.itemTaxCode,
      account: takes.account ? then.account : decision.account,
      dimensions:
        takes.dimension && dimension !== null ? [...decision.dimensions, dimension] : decision.dimensions,
      rules: [...decision.rules, rule.id],
      bySource: decision.bySource || (taxedAs && when.stated !== null),
      kindAgreed,
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
    (when.channel === null || when.channel === facts.channel) &&
    (when.system === null || when.system === facts.system) &&
    (when.stated === null || when.stated === facts.stated) &&
    (when.saleKind === null || when.saleKind === facts.saleKind)
  )
}

/**
 * A document with its lines decided: a rule's item tax code stands in place of the item's own, and a line that is no item of the catalogue
 * counts as the one that a rule names. The supply date says which rules hold. The region is the outlet's of a counter sale, else the destination's.
 */
export function decided(document: TaxDocument, index: BaselineIndex): TaxDocument {
  const { baseline, dimension } = index
  if (baseline.lineRules.length === 0) return document
  const where = document.outlet ?? document.shipTo
  const dimensionOf = (id: string): string => dimension(id)?.dimension ?? id
  const lines = document.lines.map((line): DocumentLine => {
    const facts = {
      item: line.itemId ?? null,
      isInCatalogue: line.itemId != null && index.itemTaxCodeOf(line.itemId) !== undefined,
      text: line.text ?? '',
      country: where.country,
      region: where.region,
      party: document.partyId,
      methods: document.methods ?? [],
      channel: document.channel ?? null,
      system: document.system ?? null,
      stated: line.stated ?? null,
      saleKind: document.saleKind ?? null,
    }
    const decision = decideLine(baseline.lineRules, facts, document.supplyDate, dimensionOf)
    if (decision.rules.length === 0) return line
    const { item } = decision
    const own = item === null ? line.itemTaxCode : (index.itemTaxCodeOf(item, document.supplyDate) ?? null)
    return {
      ...line,
      ...(item === null ? {} : { itemId: item }),
      itemTaxCode: decision.itemTaxCode ?? own,
      decision,
    }
  })
  return { ...document, lines }
}

/** Whether what a document is taxed as was decided by its source's own flags; of what takes back, by its original's. */
export function isBySource({ lines, original }: TaxDocument): boolean {
  return (original?.document.lines ?? lines).some(({ decision }) => decision?.bySource === true)
}
