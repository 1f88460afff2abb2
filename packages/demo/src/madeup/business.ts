import { drawing, type Draw } from '../shared/draw.ts'
import { CODES, landOf, pick, type Land } from './land.ts'
import { saleOf, WRONG } from './sales.ts'
import { accountsOf, heldItem, heldParty, heldRate, ratesOf } from './setUp.ts'
import { held, titled, type Held, type Item, type MadeSystem, type Party } from './shapes.ts'

/** A business that nobody has a baseline of: what its two systems hold, and what is right. */
export interface Business {
  readonly ledger: MadeSystem
  readonly billing: MadeSystem
  readonly truth: Truth
}

export interface Truth {
  readonly land: Land
  /** Documents that were charged wrongly, each as it ought to be. */
  readonly wrong: ReadonlyMap<string, Held>
  readonly codeOfItem: ReadonlyMap<string, string>
  /** Levies of which the ledger holds another percent. */
  readonly outdated: ReadonlySet<string>
}

/** @param size how many documents there are; items and customers are half and a third as many */
export function business(seed: number, size = 600): Business {
  const draw = drawing(seed)
  const land = landOf(draw)
  const items = itemsOf(draw, Math.floor(size / 2))
  const parties = partiesOf(draw, land, Math.floor(size / 3))
  const says = draw(0, 9) < 7
  const wrong = new Map<string, Held>()
  const documents: Held[] = []
  for (let n = 1; n <= size; n++) {
    const id = `inv-${n}`
    const how = n % Math.max(20, Math.floor(size / 20)) === 7 ? pick(draw, WRONG) : null
    const sold = saleOf(draw, { id, parties, items, land, how, says })
    if (sold.mended) wrong.set(id, sold.mended)
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
