import { createHash } from 'node:crypto'
import {
  MOST_TRIED,
  TRIED_FIELDS,
  type BaselineImport,
  type DocumentTried,
  type RulesTried,
} from '@axion/contract'
import {
  accountOf,
  decided,
  formatAmount,
  indexBaseline,
  sum,
  type BaselineIndex,
  type DocumentLine,
  type LineRule,
  type TaxDocument,
} from '@axion/core'
import { type Books } from '../../database/connection.ts'
import { json } from '../../database/json.ts'
import { familiesOf, type Families } from '../../documents/families.ts'
import { nameOf } from '../../documents/ids.ts'
import { newestDocuments, storedOf, type Newest } from '../../documents/newest.ts'
import {
  inBaseCurrency,
  sourceUnit,
  taxDocumentOf,
  type SourceUnit,
  type StoredDocument,
} from '../../documents/units.ts'
import { differingBookings } from '../../post/differing.ts'
import { groundsOf } from '../../proof/grounds.ts'
import type { HeldSystem } from '../../setUp/held.ts'

const SLICE = 2000
const NAMED = 50

/** What other rules would have changed of the newest documents: by decision, and in the tax that is expected. Nothing is written. */
export async function tryRules(books: Books, wanted: BaselineImport['rules']): Promise<RulesTried> {
  const { currency } = books
  const { index, systems, currency: baseCurrency } = await groundsOf(books)
  const under = (lineRules: readonly LineRule[]): BaselineIndex =>
    indexBaseline({ ...index.baseline, lineRules })
  const basis: TrialBasis = {
    systems,
    baseCurrency,
    bare: under([]),
    before: index,
    after: under(wanted.map(asLineRule)),
  }
  const { newest: rows, of } = await newestDocuments(books, MOST_TRIED)

  const changed: Changed[] = []
  for (let at = 0; at < rows.length; at += SLICE) {
    const slice = rows.slice(at, at + SLICE)
    for (const { stored, families, unit } of await documentsOf(books, slice))
      changed.push(...changeOf(stored, families, unit, basis))
  }
  const documents = changed.map(({ document }) => document.unit)
  const differing = await differingBookings(books, { documents }, basis.after)
  const booked = new Set(differing.map((one) => one.unit))
  const both = changed.filter(({ before, after }) => before !== null && after !== null)
  const fresh = changed.filter(({ before, after }) => before === null && after !== null)
  const total = (of: readonly (bigint | null)[]): string =>
    formatAmount(sum(of.map((tax) => tax ?? 0n)), currency)
  const outcome = {
    currency,
    tried: rows.length,
    of,
    changed: changed.length,
    booked: booked.size,
    unknown: changed.length - both.length - fresh.length,
    known: { documents: fresh.length, tax: total(fresh.map(({ after }) => after)) },
    taxBefore: both.length === 0 ? null : total(both.map(({ before }) => before)),
    taxAfter: both.length === 0 ? null : total(both.map(({ after }) => after)),
    documents: changed
      .slice(0, NAMED)
      .map(({ document }): DocumentTried => ({ ...document, booked: booked.has(document.unit) })),
  }
  const fingerprint = json([
    index.baseline.lineRules,
    wanted,
    { ...outcome, documents: changed.map(({ document }) => document) },
  ])
  return { ...outcome, revision: createHash('sha256').update(fingerprint).digest('base64url') }
}

export function asLineRule({ code, name, when, then, from, to }: BaselineImport['rules'][number]): LineRule {
  return { id: code, name, when, then, valid: { from, to } }
}

interface TrialBasis {
  readonly systems: readonly HeldSystem[]
  readonly baseCurrency: string
  readonly bare: BaselineIndex
  readonly before: BaselineIndex
  readonly after: BaselineIndex
}

interface Changed {
  /** The tax that is expected, in the base currency; null where it is not known. */
  readonly before: bigint | null
  readonly after: bigint | null
  readonly document: Omit<DocumentTried, 'booked'>
}

interface Tried {
  readonly stored: StoredDocument
  readonly families: Families
  readonly unit: string
}

async function documentsOf(books: Books, slice: readonly Newest[]): Promise<Tried[]> {
  const documents = await storedOf(books, slice)
  const families = await familiesOf(books, documents)
  const found = new Map(documents.map((stored) => [`${stored.system_id}/${stored.document_id}`, stored]))
  return slice.flatMap((one) => {
    const stored = found.get(`${one.system_id}/${one.id}`)
    return stored ? [{ stored, families, unit: nameOf(stored) }] : []
  })
}

function changeOf(
  stored: StoredDocument,
  families: Families,
  unit: string,
  { systems, baseCurrency, bare, before, after }: TrialBasis,
): Changed[] {
  const system = systems.find((one) => one.row.system_id === stored.system_id)
  if (!system) return []
  const family = families(stored)
  const { decoded, document } = taxDocumentOf(stored, system, { index: bare, currency: baseCurrency }, family)
  const was = decided(document, before)
  const will = decided(document, after)
  const lines = was.lines.flatMap((line, at) => {
    const changes = changesBetween(
      { was: line, before: was, will: will.lines[at] ?? line, after: will },
      before,
    )
    return changes.length === 0 ? [] : [{ text: line.text ?? '', changes }]
  })
  // A credit note goes by its original: what changes there changes here.
  const original = document.original?.document
  const follows =
    original !== undefined &&
    decided(original, before).lines.some(
      (line, at) =>
        changesBetween(
          { was: line, before: original, will: decided(original, after).lines[at] ?? line, after: original },
          before,
        ).length > 0,
    )
  if (lines.length === 0 && !follows) return []
  const [first, second] = [before, after].map((index) =>
    taxOf(sourceUnit(stored, system, { index, currency: baseCurrency }, family), decoded.currency),
  )
  return [
    {
      before: first?.inBase ?? null,
      after: second?.inBase ?? null,
      document: {
        unit,
        number: decoded.number,
        system: system.row.name,
        party: decoded.party.name,
        date: decoded.documentDate,
        currency: decoded.currency,
        taxBefore: first?.text ?? null,
        taxAfter: second?.text ?? null,
        lines,
      },
    },
  ]
}

type LineChange = DocumentTried['lines'][number]['changes'][number]

/** How a line is decided otherwise: what comes out of it, not which rule did it. */
function changesBetween(
  {
    was,
    before,
    will,
    after,
  }: {
    readonly was: DocumentLine
    readonly before: TaxDocument
    readonly will: DocumentLine
    readonly after: TaxDocument
  },
  index: BaselineIndex,
): LineChange[] {
  const kind = was.kind === 'shipping' ? 'shipping' : 'revenue'
  const codeName = (code: string | null): string =>
    index.baseline.itemTaxCodes.find((one) => one.id === code)?.name ?? code ?? ''
  const values = (line: DocumentLine, document: TaxDocument): readonly string[] => [
    index.item(line.itemId ?? '')?.name ?? '',
    codeName(line.itemTaxCode),
    accountOf(kind, document, line, index) ?? '',
    (line.decision?.dimensions ?? [])
      .map((id) => index.dimension(id)?.name ?? id)
      .sort()
      .join(', '),
  ]
  const [old, fresh] = [values(was, before), values(will, after)]
  return TRIED_FIELDS.flatMap((field, at) =>
    old[at] === fresh[at] ? [] : [{ field, before: old[at] ?? '', after: fresh[at] ?? '' }],
  )
}

function taxOf(
  { determination, expected, document }: SourceUnit,
  currency: string,
): { readonly text: string; readonly inBase: bigint } | null {
  if (!determination.complete) return null
  return {
    text: formatAmount(sum(expected.facts.map((fact) => fact.tax)), currency),
    inBase: sum(inBaseCurrency(expected, document.exchange).facts),
  }
}
