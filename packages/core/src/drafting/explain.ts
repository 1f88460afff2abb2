import type { BaselineIndex } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import type { Assumed } from '../determination/determination.ts'
import type { DocumentLine, TaxDocument } from '../determination/document.ts'
import { sum } from '../money/currency.ts'
import type { Agencies } from './agencies.ts'
import type { Sale } from './given.ts'

/** How the documents of systems are read under a draft. */
export interface Reading {
  readonly agencies: Agencies
  /** The drafted item, and party, that a system's stands for. */
  readonly itemOf: (holderId: string, itemCode: string) => string
  readonly partyOf: (holderId: string, id: string) => string
}

/** The document with its lines under the codes that the baseline has their items under. */
function readAs(
  { document, named, holderId }: Sale,
  index: BaselineIndex,
  { itemOf, partyOf }: Reading,
): TaxDocument {
  const coded = (
    of: TaxDocument,
    itemCodeOf: (line: DocumentLine) => string | null | undefined,
  ): TaxDocument => ({
    ...of,
    partyId: of.partyId === null ? null : partyOf(holderId, of.partyId),
    lines: of.lines.map((line) => {
      const itemCode = itemCodeOf(line)
      const item = itemCode == null ? null : itemOf(holderId, itemCode)
      return {
        ...line,
        itemTaxCode: item === null ? null : (index.itemTaxCodeOf(item, of.supplyDate) ?? null),
      }
    }),
  })
  const { original } = document
  return {
    ...coded(document, (line) => named.get(line.id)?.itemCode),
    original: original && { ...original, document: coded(original.document, (line) => line.itemId) },
  }
}

const READ = new WeakMap<BaselineIndex, WeakMap<Sale, TaxDocument>>()

/** The same, once for each baseline. */
function readOnce(sale: Sale, index: BaselineIndex, reading: Reading): TaxDocument {
  const read = READ.get(index) ?? new WeakMap<Sale, TaxDocument>()
  READ.set(index, read)
  const document = read.get(sale) ?? readAs(sale, index, reading)
  read.set(sale, document)
  return document
}

/** Whether a baseline comes to what the document's system charged, to the cent: by agency where it states the split, else in all. */
export function explains(sale: Sale, index: BaselineIndex, reading: Reading, assumed: Assumed = {}): boolean {
  const determination = determine(readOnce(sale, index, reading), index, assumed)
  if (!determination.complete) return false
  const split = sale.taxes.every(({ components }) => components !== null)
  const stated = new Map<string, bigint>()
  const add = (to: Map<string, bigint>, agency: string, tax: bigint): unknown =>
    to.set(agency, (to.get(agency) ?? 0n) + tax)
  for (const { tax, components } of sale.taxes)
    if (split)
      for (const part of components ?? [])
        add(stated, reading.agencies.of(sale.holderId, part.agencyId)?.code ?? `?${part.agencyId}`, part.tax)
    else add(stated, '', tax)
  const expected = new Map<string, bigint>()
  for (const row of determination.rows) add(expected, split ? row.agencyId : '', row.tax)
  return (
    [...new Set([...stated.keys(), ...expected.keys()])].every(
      (agency) => (stated.get(agency) ?? 0n) === (expected.get(agency) ?? 0n),
    ) && sum([...stated.values()]) === sum([...expected.values()])
  )
}
