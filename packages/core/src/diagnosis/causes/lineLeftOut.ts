import type { TaxDocument } from '../../determination/document.ts'
import { priced } from '../../determination/prices.ts'
import { allocate } from '../../money/allocation.ts'
import { absolute, sum } from '../../money/currency.ts'
import type { Cause, Recomputable } from './cause.ts'

/** A line left out. Which one is the document's own matter: the mistake is the same. */
export interface LineLeftOut {
  readonly kind: 'line-left-out'
  readonly lineId: string
}

export const lineLeftOut: Cause<LineLeftOut, object> = {
  kind: 'line-left-out',
  rank: () => 17,
  key: () => [],
  candidates: ({ document: { lines } }) =>
    lines.length < 2 ? [] : lines.map((line) => ({ kind: 'line-left-out', lineId: line.id })),
  apply: (a, on, of) => {
    const document = without(on.document, a.lineId, of)
    return document && { ...on, document }
  },
  facts: () => ({}),
  says: (f) => `${f.system} left one line out.`,
}

function followsGoods(
  { itemTaxCode }: TaxDocument['lines'][number],
  { document, determination, index }: Recomputable,
): boolean {
  const date = (document.original?.document ?? document).supplyDate
  return (
    itemTaxCode !== null &&
    determination.jurisdictions.some(
      (j) => index.codeRuleOn(j.id, itemTaxCode, date)?.treatment === 'follows-goods',
    )
  )
}

/** The document without a line, which takes its shares of the discount and of shipping that follows the goods along. */
function without(document: TaxDocument, lineId: string, of: Recomputable): TaxDocument | null {
  const left = document.lines.find((line) => line.id === lineId)
  if (!left || document.lines.length < 2) return null
  const shares = new Map(
    priced(document, { taxedBeforeDiscount: false }).map(({ line, amount, discount }) => [
      line.id,
      { amount, discount },
    ]),
  )
  const goods = document.lines.filter(
    (line) => line.kind === 'goods' && line.amount < 0n === left.amount < 0n,
  )
  const weights = goods.map((line) => absolute(shares.get(line.id)?.amount ?? 0n))
  const place = goods.findIndex((line) => line.id === lineId)
  const lines = document.lines
    .filter((line) => line.id !== lineId)
    .map((line) => {
      const discountShare = shares.get(line.id)?.discount ?? 0n
      const carried =
        line.kind === 'shipping' &&
        left.kind === 'goods' &&
        followsGoods(line, of) &&
        weights.some((w) => w !== 0n)
          ? (allocate(line.amount, weights)[place] ?? 0n)
          : 0n
      return { ...line, amount: line.amount - carried, discountShare }
    })
  return { ...document, lines, discount: sum(lines.map((line) => line.discountShare)) }
}
