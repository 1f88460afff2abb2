import type { Address } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import { foldName } from '../crosswalk/folding.ts'
import type { LineKind } from '../determination/document.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import type { Ratio } from '../money/decimal.ts'
import type { Given, Holder, Sale } from './given.ts'
import { taxCodeOf } from './naming.ts'
import { isNil, type RateMet, type Rates } from './rates.ts'

/** Addresses that nothing tells apart: one postal code of one city. */
export interface Cell {
  readonly key: string
  /** The country and region, as one key. */
  readonly region: string
  readonly address: Address
}

/** What one line was charged, where nobody's exemption and nobody else's duty had a say in it. */
export interface Observation {
  readonly sale: Sale
  readonly lineId: string
  readonly kind: LineKind
  readonly cell: Cell
  readonly code: string
  readonly date: IsoDate
  readonly quantity: Ratio
  readonly amount: MinorUnits
  /** Null where no tax was charged. */
  readonly rate: RateMet | null
  /** Whether it names a rate that comes to nothing. */
  readonly namesNil: boolean
  /** What tax stands on, where the line alone bears its rate and nothing was taken off the document. */
  readonly base: MinorUnits | null
  /** Whether all that names its rate is taxed in full. */
  readonly inFull: boolean
}

/** Which item tax code each system has an item under; its default where it has it under none. */
export type CodeOf = (holderId: string, itemCode: string) => string | null

export function codesOf(holders: readonly Holder[]): CodeOf {
  const by = new Map(
    holders.flatMap((holder) =>
      holder.items.map((item) => {
        const text = item.itemTaxCode ?? holder.defaultItemTaxCode
        return [`${holder.id}/${item.code}`, text && taxCodeOf(text)] as const
      }),
    ),
  )
  return (holderId, itemCode) => by.get(`${holderId}/${itemCode}`) ?? null
}

/** Where a sale is taxed by its destination, or over the counter. */
export function cellOf({ document }: Sale): Cell {
  const address = document.outlet ?? document.shipTo
  const [postalCode = ''] = (address.postalCode ?? '').split('-')
  const region = `${address.country}|${address.region ?? ''}`
  return {
    key: `${region}|${foldName(address.city ?? '')}|${postalCode}`,
    region,
    address: { ...address, postalCode: postalCode || null },
  }
}

/** Those who are held to be exempt anywhere: what they are charged tells nothing of places and codes. */
export function claimants(holders: readonly Holder[]): ReadonlySet<string> {
  return new Set(
    holders.flatMap(({ parties }) => parties.filter(({ claims }) => claims !== null).map(({ id }) => id)),
  )
}

/** Lines of sales whose tax follows from place, item and day alone. */
export function observe(given: Given, rates: Rates, codeOf: CodeOf): Observation[] {
  const exempt = claimants(given.holders)
  const telling = given.sales.filter(
    ({ document }) =>
      document.kind === 'invoice' &&
      document.purchase !== true &&
      document.marketplace == null &&
      document.saleKind == null &&
      // What somebody chose for one sale says nothing of others.
      document.lines.every(({ overridden }) => overridden === undefined) &&
      !(document.partyId !== null && exempt.has(document.partyId)),
  )
  return telling.flatMap((sale) => linesOf(sale, rates, codeOf))
}

/** The documents of lines, each once. */
export function salesOf(lines: Iterable<Pick<Observation, 'sale'>>): string[] {
  return [...new Set([...lines].map(({ sale }) => sale.id))].sort()
}

function linesOf(sale: Sale, rates: Rates, codeOf: CodeOf): Observation[] {
  const cell = cellOf(sale)
  const byRate = groupBy(sale.document.lines, (line) => sale.named.get(line.id)?.rateId ?? '')
  return sale.document.lines.flatMap((line): Observation[] => {
    const named = sale.named.get(line.id)
    const code = named?.itemCode == null ? null : codeOf(sale.holderId, named.itemCode)
    if (code === null) return []
    const date = sale.document.supplyDate
    const rateId = named?.rateId ?? null
    const found = rateId === null ? undefined : rates.of(sale.holderId, rateId)
    const nil = found !== undefined && isNil(found.leading, date)
    // A rate that nobody holds is no evidence of anything.
    if (rateId !== null && !found) return []
    const alone = (byRate.get(rateId ?? '') ?? []).length === 1 && sale.document.discount === 0n
    const stated = sale.taxes.find((tax) => tax.rateId === rateId)
    return [
      {
        sale,
        lineId: line.id,
        kind: line.kind,
        cell,
        code,
        date,
        quantity: line.quantity,
        amount: line.amount,
        rate: found && !nil ? found : null,
        namesNil: nil,
        inFull:
          sale.document.discount === 0n &&
          stated?.base === sum((byRate.get(rateId ?? '') ?? []).map(({ amount }) => amount)),
        base: alone && !sale.document.pricesIncludeTax ? (stated?.base ?? null) : null,
      },
    ]
  })
}
