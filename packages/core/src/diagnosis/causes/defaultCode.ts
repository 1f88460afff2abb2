import type { TaxDocument } from '../../determination/document.ts'
import type { Cause } from './cause.ts'

/** An item on a system's default code. */
export interface DefaultCode {
  readonly kind: 'default-code'
  readonly systemId: string
  readonly itemTaxCode: string
  /** The line whose item is on it; null: all are. */
  readonly lineId: string | null
}

export const defaultCode: Cause<DefaultCode, { readonly code: string }> = {
  kind: 'default-code',
  rank: () => 3,
  key: (a) => [a.systemId, a.itemTaxCode],
  candidates: () => [],
  apply: (a, on) => ({ ...on, document: onCode(on.document, a.itemTaxCode, a.lineId) }),
  facts: (a) => ({ code: a.itemTaxCode }),
  says: (f) => `${f.system} has items on its default code ${f.code} instead of their own.`,
}

/** A default code holds for credits as for sales: the original is rated under it too. */
function onCode(document: TaxDocument, itemTaxCode: string, lineId: string | null): TaxDocument {
  const recoded = (of: TaxDocument, only: string | null): TaxDocument => ({
    ...of,
    lines: of.lines.map((line) =>
      line.kind !== 'shipping' && (only === null || line.id === only) ? { ...line, itemTaxCode } : line,
    ),
  })
  const credited = document.lines.find((line) => line.id === lineId)?.credits ?? null
  const { original } = document
  return {
    ...recoded(document, lineId),
    original:
      original === null || (lineId !== null && credited === null)
        ? original
        : { ...original, document: recoded(original.document, lineId === null ? null : credited) },
  }
}
