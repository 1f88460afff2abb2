import { drawing, type Draw } from '../shared/draw.ts'
import { money } from '../shared/exact.ts'
import { rateKey, rightly, taxesOf, type Charge, type Goods } from './charged.ts'
import {
  CODES,
  COUNTRY,
  landOf,
  percentOn,
  pick,
  type Land,
  type Levy,
  type Place,
  type Rule,
} from './land.ts'

/** An object as a system holds it, in the shape of the bridge contract. */
export interface Held {
  readonly id: string
  readonly value: Readonly<Record<string, unknown>>
}
export interface MadeSystem {
  readonly settings: Readonly<Record<string, unknown>>
  readonly objects: Readonly<Record<string, readonly Held[]>>
}

/** A business that nobody has a baseline of: what its two systems hold, and what is right. */
export interface Business {
  readonly ledger: MadeSystem
  readonly billing: MadeSystem
  readonly truth: Truth
}

export interface Truth {
  readonly land: Land
  /** Documents that were charged wrongly, each with how. */
  readonly wrong: ReadonlyMap<string, string>
  readonly codeOfItem: ReadonlyMap<string, string>
  /** Levies of which the ledger holds another percent. */
  readonly outdated: ReadonlySet<string>
}

export const MONTH = '2026-09'
const WRONG = ['left-untaxed', 'of-another-place', 'a-cent-off', 'taxed-though-exempt'] as const

interface Item {
  readonly code: string
  readonly name: string
  readonly taxCode: string
  readonly kind: Goods['kind']
  readonly price: bigint
}
interface Party {
  readonly id: string
  readonly name: string
  readonly place: Place
  readonly exempt: string | null
}

/** @param size how many documents there are; items and customers are half and a third as many */
export function business(seed: number, size = 600): Business {
  const draw = drawing(seed)
  const land = landOf(draw)
  const items = itemsOf(draw, Math.floor(size / 2))
  const parties = partiesOf(draw, land, Math.floor(size / 3))
  const says = draw(0, 9) < 7
  const wrong = new Map<string, string>()
  const documents: Held[] = []
  for (let n = 1; n <= size; n++) {
    const id = `inv-${n}`
    const how = n % Math.max(20, Math.floor(size / 20)) === 7 ? pick(draw, WRONG) : null
    const sold = saleOf(draw, { id, parties, items, land, how, says })
    if (sold.wrong) wrong.set(id, how ?? '')
    documents.push(sold.document)
  }
  const outdated = new Set(
    land.places
      .flatMap(({ levies }) => levies)
      .filter(({ percents }) => percents.length === 1)
      .map(({ id }) => id)
      .filter(() => draw(0, 19) === 0),
  )
  const rates = ratesOf(land)
  const settings = {
    ...{
      baseCurrency: 'USD',
      currencies: ['USD'],
      timeZone: 'UTC',
      taxEnabled: true,
      keepsDocumentNumbers: true,
    },
    ...{ pairsCreditsItself: false, usesAccountNumbers: true, lockedThrough: null, newPartiesTaxable: true },
    ...{ keepsInventory: false, rounding: null },
  }
  return {
    truth: { land, wrong, outdated, codeOfItem: new Map(items.map((item) => [item.code, item.taxCode])) },
    billing: {
      settings: { ...settings, computesTax: true, defaultItemTaxCode: 'GENERAL' },
      objects: {
        agencies: land.agencies.map((a) =>
          held(`b-${a.code}`, { code: a.code, name: a.name, liabilityAccountId: null }),
        ),
        'tax-rates': rates.map((rate) => heldRate(rate, 'b', new Set())),
        'item-tax-codes': CODES.map((code) => held(code, { code, name: titled(code) })),
        items: items.map((item) => heldItem(item, item.taxCode === 'GENERAL' ? null : item.taxCode)),
        parties: parties.map(heldParty),
        documents,
      },
    },
    ledger: {
      settings: { ...settings, computesTax: true, defaultItemTaxCode: null },
      objects: {
        accounts: accountsOf(land),
        agencies: land.agencies.map((a, at) =>
          held(`l-${a.code}`, {
            code: null,
            // One of them is a letter short.
            name: at === 1 ? a.name.replace('Treasurer', 'Tresurer') : a.name,
            liabilityAccountId: `acc-${a.account}`,
          }),
        ),
        'tax-rates': rates.map((rate) => heldRate(rate, 'l', outdated)),
        items: items.map((item) => heldItem(item, null)),
        parties: parties.map(heldParty),
      },
    },
  }
}

const held = (id: string, value: Held['value']): Held => ({ id, value })
const titled = (code: string): string => `${code.slice(0, 1)}${code.slice(1).toLowerCase()}`

function itemsOf(draw: Draw, count: number): Item[] {
  return Array.from({ length: count }, (_, at): Item => {
    const taxCode =
      at < CODES.length
        ? (CODES[at] ?? 'GENERAL')
        : pick(draw, ['GENERAL', 'GENERAL', 'GENERAL', 'FOOD', 'MEDICAL', 'CLOTHING', 'SERVICE'])
    return {
      code: `SKU-${1000 + at}`,
      name: taxCode === 'FREIGHT' ? 'Freight' : `${titled(taxCode)} article ${at}`,
      taxCode,
      kind: taxCode === 'FREIGHT' ? 'shipping' : taxCode === 'SERVICE' ? 'service' : 'goods',
      price: BigInt(draw(300, 24000)),
    }
  })
}

function partiesOf(draw: Draw, { places }: Land, count: number): Party[] {
  return Array.from({ length: count }, (_, at) => ({
    id: `C${100 + at}`,
    name: `Customer ${100 + at} & Co.`,
    place: pick(draw, places),
    exempt: draw(0, 11) === 0 ? pick(draw, ['resale', 'charity']) : null,
  }))
}

function saleOf(
  draw: Draw,
  given: {
    readonly id: string
    readonly parties: readonly Party[]
    readonly items: readonly Item[]
    readonly land: Land
    readonly how: (typeof WRONG)[number] | null
    readonly says: boolean
  },
): { document: Held; wrong: boolean } {
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
  // What comes to the same to everybody who is owed is not wrong, by whatever name it was charged.
  const due = owedBy(right, taxesOf(right, place.region.rounding), says)
  return {
    document: documentOf({ id, party, day, lines, charges, taxes, says }),
    wrong: owedBy(charges, taxes, says) !== due,
  }
}

/** The tax that a sale comes to for each agency, or in all where the split is not stated. */
function owedBy(charges: readonly Charge[], taxes: readonly (readonly bigint[])[], split: boolean): string {
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
  const byRate = new Map<
    string,
    { base: bigint; parts: Map<string, { levy: Levy; percent: bigint; tax: bigint }> }
  >()
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

function decimal(percent: bigint): string {
  return `${percent / 1_000_000n}.${(percent % 1_000_000n)
    .toString()
    .padStart(6, '0')
    .replace(/0{1,4}$/, '')}`
}

interface Rate {
  readonly key: string
  readonly name: string
  readonly parts: readonly { readonly levy: Levy; readonly percents: Levy['percents'] }[]
}

/** Every rate that the land's places and codes need, sold under or not. */
function ratesOf({ places, regions }: Land): Rate[] {
  const made = new Map<string, Rate>()
  const note = (levies: readonly Levy[], code: string | null, own: bigint | null): void => {
    const key = rateKey(levies, code)
    if (levies.length === 0 || made.has(key)) return
    made.set(key, {
      key,
      name: `${levies.at(-1)?.name ?? ''}${levies.length === 1 ? ', rest' : ''}${code === null ? '' : `, ${titled(code).toLowerCase()}`}`,
      parts: levies.map((levy, at) => ({
        levy,
        percents: at === 0 && own !== null ? [[null, own]] : levy.percents,
      })),
    })
  }
  for (const { levies } of places) note(levies, null, null)
  for (const region of regions)
    for (const [code, rule] of Object.entries(region.rules))
      if (rule.is === 'reduced')
        for (const { levies } of places.filter((place) => place.region === region))
          note(rule.locals === 'none' ? levies.slice(0, 1) : levies, code, rule.percent)
  return [...made.values()]
}

function heldRate({ key, name, parts }: Rate, system: string, outdated: ReadonlySet<string>): Held {
  const shown = parts.map(({ levy, percents }) => {
    const off = outdated.has(levy.id) && percents === levy.percents ? 125_000n : 0n
    return { levy, percents: percents.map(([from, percent]) => [from, percent - off] as const) }
  })
  return held(`${system}-${key}`, {
    code: null,
    name,
    percent: decimal(
      shown.reduce((sum, { levy, percents }) => sum + percentOn({ ...levy, percents }, `${MONTH}-30`), 0n),
    ),
    active: true,
    components: shown.flatMap(({ levy, percents }) =>
      percents.map(([from, percent], at) => ({
        ...{
          agencyId: `${system}-${levy.agency}`,
          name: levy.name,
          percent: decimal(percent),
          perUnit: null,
          onTopOf: [],
        },
        from,
        to: percents[at + 1]?.[0] == null ? null : dayBefore(percents[at + 1]?.[0] ?? ''),
      })),
    ),
  })
}

function dayBefore(day: string): string {
  return `${day.slice(0, 8)}${String(Number(day.slice(8)) - 1).padStart(2, '0')}`
}

function heldItem({ code, name, kind }: Item, itemTaxCode: string | null): Held {
  return held(code, { code, name, kind, taxable: itemTaxCode !== 'MEDICAL', itemTaxCode })
}

function heldParty({ id, name, exempt, place }: Party): Held {
  return held(id, {
    name,
    exemption: exempt === null ? null : { reason: exempt, certificate: null, from: null, to: null },
    address: { country: COUNTRY, region: place.region.code, city: place.city, postalCode: place.postalCode },
  })
}

function accountsOf({ agencies }: Land): Held[] {
  const own = [
    ['1100', 'Accounts receivable', 'receivable'],
    ['1000', 'Bank', 'bank'],
    ['4000', 'Sales', 'income'],
    ['4100', 'Freight charged', 'income'],
    ['4900', 'Other income', 'income'],
  ] as const
  return [
    ...own.map(([number, name, type]) => held(`acc-${number}`, { number, name, type })),
    ...agencies.map((a) =>
      held(`acc-${a.account}`, { number: a.account, name: `Tax owed, ${a.name}`, type: 'current-liability' }),
    ),
  ]
}
