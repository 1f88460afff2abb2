import type { Draw } from '../shared/draw.ts'
import { money } from '../shared/exact.ts'
import { rateKey, rightly, taxesOf, type Charge, type Goods } from './charged.ts'
import { COUNTRY, pick, type Land, type Levy, type Place, type Rule } from './land.ts'
import { decimal, held, MONTH, type Held, type Item, type Party } from './shapes.ts'

/** How a sale may be charged wrongly. */
export const WRONG = ['left-untaxed', 'of-another-place', 'a-cent-off', 'taxed-though-exempt'] as const

/** A sale to one of the parties, and where what was charged is wrong the same as it ought to be. */
export function saleOf(
  draw: Draw,
  given: {
    readonly id: string
    readonly parties: readonly Party[]
    readonly items: readonly Item[]
    readonly land: Land
    readonly how: (typeof WRONG)[number] | null
    readonly says: boolean
  },
): { document: Held; mended: Held | null } {
  const { id, parties, items, land, how, says } = given
  const party = pick(draw, parties)
  const { place } = party
  const day = `${MONTH}-${String(draw(1, 28)).padStart(2, '0')}`
  const goods = items.filter(({ kind }) => kind !== 'shipping')
  const follows = (place.region.rules.FREIGHT as Rule).is === 'follows-goods'
  const first = pick(draw, goods)
  // Services carry no shipping, and what goes by its goods goes with goods that are alike.
  const ships = draw(0, 3) === 0 && !(follows && (first.kind !== 'goods' || first.taxCode === 'CLOTHING'))
  const others = ships && follows ? goods.filter(({ taxCode }) => taxCode === first.taxCode) : goods
  const chosen = [first, ...Array.from({ length: draw(0, 3) }, () => pick(draw, others))]
  const freight = items.find(({ kind }) => kind === 'shipping') as Item
  const lines = [...chosen, ...(ships ? [freight] : [])].map((item, at) => {
    const quantity = item === freight ? 1 : draw(1, 5)
    return {
      id: String(at + 1),
      code: item.taxCode,
      kind: item.kind,
      quantity,
      amount: item.price * BigInt(quantity),
      item,
    }
  })
  const right = rightly(lines, place, day).map((charge) =>
    party.exempt === null ? charge : { ...charge, base: 0n, parts: [], rate: null },
  )
  const stated =
    how === null
      ? null
      : wrongly(how, { draw, right, lines, place, land, day, exempt: party.exempt !== null })
  const charges = stated ?? right
  const taxes = taxesOf(charges, place.region.rounding)
  if (how === 'a-cent-off') {
    const at = taxes.findIndex((parts) => parts.length > 0)
    const row = taxes[at]
    if (row) row[0] = (row[0] ?? 0n) + 1n
  }
  const due = taxesOf(right, place.region.rounding)
  const sold = { id, party, day, lines, says }
  // What comes to the same to everybody who is owed is not wrong, by whatever name it was charged.
  const isWrong = owedBy(charges, taxes, { split: says }) !== owedBy(right, due, { split: says })
  return {
    document: documentOf({ ...sold, charges, taxes }),
    mended: isWrong ? documentOf({ ...sold, charges: right, taxes: due }) : null,
  }
}

/** The tax that a sale comes to for each agency, or in all where the split is not stated. */
function owedBy(
  charges: readonly Charge[],
  taxes: readonly (readonly bigint[])[],
  { split }: { readonly split: boolean },
): string {
  const owed = new Map<string, bigint>()
  charges.forEach(({ parts }, c) =>
    parts.forEach(({ levy }, p) => {
      const agency = split ? levy.agency : ''
      owed.set(agency, (owed.get(agency) ?? 0n) + (taxes[c]?.[p] ?? 0n))
    }),
  )
  return [...owed]
    .sort()
    .filter(([, tax]) => tax !== 0n)
    .join(' ')
}

/** The same sale charged wrongly; null where it cannot be. */
function wrongly(
  how: (typeof WRONG)[number],
  {
    draw,
    right,
    lines,
    place,
    land,
    day,
    exempt,
  }: {
    readonly draw: Draw
    readonly right: readonly Charge[]
    readonly lines: readonly Goods[]
    readonly place: Place
    readonly land: Land
    readonly day: string
    readonly exempt: boolean
  },
): Charge[] | null {
  switch (how) {
    case 'left-untaxed':
      return right.map((charge) => ({ ...charge, base: 0n, parts: [], rate: null }))
    case 'of-another-place': {
      if (exempt || place.levies.length === 0) return null
      const other = pick(
        draw,
        land.places.filter(
          (one) => one.region === place.region && rateKey(one.levies, null) !== rateKey(place.levies, null),
        ),
      )
      return other === undefined ? null : rightly(lines, other, day)
    }
    case 'taxed-though-exempt':
      return exempt ? rightly(lines, place, day) : null
    case 'a-cent-off':
      return null
  }
}

interface Stated {
  base: bigint
  readonly parts: Map<string, { levy: Levy; percent: bigint; tax: bigint }>
}

/** What is charged by each rate. */
function statedBy(
  charges: readonly Charge[],
  taxes: readonly (readonly bigint[])[],
): ReadonlyMap<string, Stated> {
  const byRate = new Map<string, Stated>()
  charges.forEach((charge, at) => {
    if (charge.rate === null) return
    const known = byRate.get(charge.rate) ?? { base: 0n, parts: new Map() }
    known.base += charge.base
    charge.parts.forEach(({ levy, percent }, p) => {
      const before = known.parts.get(levy.id)?.tax ?? 0n
      known.parts.set(levy.id, { levy, percent, tax: before + (taxes[at]?.[p] ?? 0n) })
    })
    byRate.set(charge.rate, known)
  })
  return byRate
}

function documentOf({
  id,
  party,
  day,
  lines,
  charges,
  taxes,
  says,
}: {
  readonly id: string
  readonly party: Party
  readonly day: string
  readonly lines: readonly (Goods & { readonly item: Item })[]
  readonly charges: readonly Charge[]
  readonly taxes: readonly (readonly bigint[])[]
  readonly says: boolean
}): Held {
  const { place } = party
  const address = {
    country: COUNTRY,
    region: place.region.code,
    city: place.city,
    postalCode: place.postalCode,
  }
  const byRate = statedBy(charges, taxes)
  const tax = taxes.flat().reduce((sum, one) => sum + one, 0n)
  const net = lines.reduce((sum, { amount }) => sum + amount, 0n)
  return held(id, {
    ...{
      number: id.toUpperCase(),
      kind: 'invoice',
      status: 'open',
      documentDate: day,
      supplyDate: day,
      paymentDate: null,
    },
    ...{ currency: 'USD', exchangeRate: null, pricesIncludeTax: false, creditsDocumentId: null },
    party: { id: party.id, name: party.name },
    shipTo: address,
    shipFrom: null,
    lines: lines.map((line, at) => ({
      ...{ id: line.id, kind: line.kind, itemCode: line.item.code, description: line.item.name },
      ...{
        quantity: String(line.quantity),
        unitPrice: money(line.item.price),
        discount: '0.00',
        amount: money(line.amount),
      },
      taxRateId: charges[at]?.rate == null ? null : `b-${charges[at].rate}`,
      creditsLineId: null,
    })),
    discount: '0.00',
    reimbursed: '0.00',
    taxes: [...byRate].map(([rate, { base, parts }]) => ({
      taxRateId: `b-${rate}`,
      base: money(base),
      tax: money([...parts.values()].reduce((sum, part) => sum + part.tax, 0n)),
      components: says
        ? [...parts.values()].map((part) => ({
            agencyId: `b-${part.levy.agency}`,
            percent: decimal(part.percent),
            tax: money(part.tax),
          }))
        : null,
    })),
    total: money(net + tax),
    ...{
      soldAt: null,
      locationId: null,
      channel: null,
      marketplace: null,
      tenders: [],
      enteredBy: null,
      webAddress: null,
    },
  })
}
