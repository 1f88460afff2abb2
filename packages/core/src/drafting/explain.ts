import type { BaselineIndex } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import type { Assumed } from '../determination/determination.ts'
import type { TaxDocument } from '../determination/document.ts'
import { sum } from '../money/currency.ts'
import type { Agencies } from './agencies.ts'
import type { Sale } from './given.ts'
import type { CodeOf } from './observed.ts'

/** How the documents of systems are read under a draft. */
export interface Reading {
  readonly agencies: Agencies
  readonly codeOf: CodeOf
  /** The drafted party that a system's stands for. */
  readonly partyOf: (holderId: string, id: string) => string
}

const READ = new WeakMap<Reading, WeakMap<Sale, TaxDocument>>()

/** The same, once for each reading. */
function readOnce(sale: Sale, reading: Reading): TaxDocument {
  const read = READ.get(reading) ?? new WeakMap<Sale, TaxDocument>()
  READ.set(reading, read)
  const document = read.get(sale) ?? readAs(sale, reading)
  read.set(sale, document)
  return document
}

/** The document with its lines under the codes that their systems have them under. */
function readAs({ document, named, holderId }: Sale, { codeOf, partyOf }: Reading): TaxDocument {
  const coded = (of: TaxDocument, own: boolean): TaxDocument => ({
    ...of,
    partyId: of.partyId === null ? null : partyOf(holderId, of.partyId),
    lines: of.lines.map((line) => {
      const itemCode = own ? named.get(line.id)?.itemCode : line.itemId
      return { ...line, itemTaxCode: itemCode == null ? null : codeOf(holderId, itemCode) }
    }),
  })
  const { original } = document
  return {
    ...coded(document, true),
    original: original && { ...original, document: coded(original.document, false) },
  }
}

/** Whether a baseline comes to what the document's system charged, to the cent: by agency where it states the split, else in all. */
export function explains(sale: Sale, index: BaselineIndex, reading: Reading, assumed: Assumed = {}): boolean {
  const determination = determine(readOnce(sale, reading), index, assumed)
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
