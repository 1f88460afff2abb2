import { credit, makeSale, type SaleOptions, type Wanted } from '../shared/makeSale.ts'
import type { Charge, Item, Sale } from '../shared/sale.ts'
import { COMB, itemOf, KESTREL, OSTLER, RAVEL, SHIPPING, THISTLEDOWN } from './goods.ts'
import { ALDER, BRACKENFORD, LENNOX, OSIER, QUILLBY, rightly, SOLMAR, STONEMERE } from './places.ts'

const buyer = (name: string): { id: string; name: string } => ({
  id: `cus_${name.toLowerCase().replace(/[^a-z]/g, '')}`,
  name,
})
const of = (code: string, quantity = 1, more: Partial<Wanted> = {}): Wanted => ({
  item: itemOf(code),
  quantity,
  ...more,
})
const ship = (more: Partial<Wanted> = {}): Wanted => ({ item: SHIPPING, ...more })
const sell = (options: SaleOptions): Sale => makeSale(rightly, options)
/** Every line at another rate than the right one. */
const at = (
  sale: Sale,
  charge: (item: Item, right: Charge, amount: bigint) => Charge,
  mishap: string,
): Sale => ({
  ...sale,
  mishap,
  lines: sale.lines.map((line) => ({ ...line, charged: charge(line.item, line.right, line.amount) })),
})

/** September as it went, beside the ordinary sales: every kind of document, and what went wrong with some. */
export function stories(): Sale[] {
  const september = (day: number): string => `2026-09-${String(day).padStart(2, '0')}`
  const hives = sell({
    date: '2026-08-19',
    place: QUILLBY,
    customer: buyer('Copperline Estates'),
    wanted: [of('HIVE-10', 6), of('FRAME-D', 60), ship()],
  })
  const smokers = sell({
    date: september(3),
    place: STONEMERE,
    customer: buyer('Vetch & Sainfoin'),
    wanted: [of('SMOKER', 4), of('HONEY-5', 12)],
  })
  return [
    hives,
    smokers,
    credit(hives, september(4), [[1, 19800n]]),
    credit(hives, september(22), [
      [1, 16500n],
      [2, 4950n],
    ]),
    credit(smokers, september(11), [
      [1, 9390n],
      [2, 13788n],
    ]),
    // Certificates: one that holds, one that came late, one for another region, one ignored, one expired.
    sell({
      date: september(5),
      place: ALDER,
      customer: THISTLEDOWN,
      exempt: true,
      wanted: [of('HIVE-8', 8), of('FRAME-D', 80)],
    }),
    sell({
      date: september(20),
      place: STONEMERE,
      customer: RAVEL,
      exempt: true,
      wanted: [of('HIVE-8', 2), of('HONEY-H', 24)],
    }),
    sell({ date: september(9), place: QUILLBY, customer: KESTREL, wanted: [of('HIVE-10', 2), ship()] }),
    at(
      sell({
        date: september(12),
        place: QUILLBY,
        customer: THISTLEDOWN,
        exempt: true,
        wanted: [of('HIVE-8', 4)],
      }),
      () => ({ rate: 'WN' }),
      'exemption-ignored',
    ),
    at(
      sell({ date: september(15), place: STONEMERE, customer: OSTLER, wanted: [of('HIVE-10', 3)] }),
      () => ({ rate: null }),
      'exempted-without-certificate',
    ),
    // The wrong rate at the source: of another place, and with a component lost.
    at(
      sell({
        date: september(8),
        place: ALDER,
        customer: buyer('Gorse Hill Grange'),
        wanted: [of('HIVE-10', 2), ship()],
      }),
      (_, right) => ({ rate: right.rate === null ? null : 'WN' }),
      'rate-place',
    ),
    at(
      sell({
        date: september(17),
        place: LENNOX,
        customer: buyer('Harbour Row Cooperative'),
        wanted: [of('HIVE-8', 5)],
      }),
      (_, right) => ({ rate: right.rate === null ? null : 'WN-HOL' }),
      'component-lost',
    ),
    // An item on the default code is taxed as goods.
    ...[7, 23].map((day) =>
      at(
        sell({
          date: september(day),
          place: QUILLBY,
          customer: buyer('Larder & Loft'),
          wanted: [{ item: COMB, quantity: 12 }, of('SMOKER', 1)],
        }),
        () => ({ rate: 'WN' }),
        'default-code',
      ),
    ),
    at(
      sell({
        date: september(10),
        place: OSIER,
        customer: buyer('Reedmace Farm Stores'),
        wanted: [of('HIVE-10', 1), of('HONEY-5', 14), ship()],
      }),
      (item, right) => (item.kind === 'shipping' ? { rate: 'TK' } : right),
      'shipping',
    ),
    // Line by line, the ledger comes to another cent.
    ...[1, 21].map((frames): Sale => ({
      ...sell({
        date: september(11),
        place: OSIER,
        customer: buyer('Reedmace Farm Stores'),
        wanted: [of('FRAME-D', frames), of('SMOKER', 1)],
      }),
      mishap: 'rounding',
    })),
    sell({
      date: september(10),
      place: BRACKENFORD,
      customer: buyer('Teasel Bank'),
      wanted: [of('HIVE-10', 1), of('HONEY-5', 14), of('INSPECT', 2), ship()],
    }),
    at(
      sell({
        date: september(14),
        place: STONEMERE,
        customer: buyer('Old Mill Preserves'),
        discount: 5000n,
        wanted: [of('HIVE-8', 3), of('SMOKER', 2)],
      }),
      (_, right, amount) => ({ ...right, taxable: amount }),
      'discount',
    ),
    // All tax put down to one agency; and a ninth line, where the ledger's form takes eight.
    sell({
      date: september(21),
      place: ALDER,
      customer: buyer('Whinfell Nursery'),
      taxTo: 'WRO',
      mishap: 'one-agency',
      wanted: [of('HIVE-8', 2), ship()],
    }),
    sell({
      date: september(23),
      place: STONEMERE,
      customer: buyer('Quarry Bank Growers'),
      mishap: 'line-left-out',
      wanted: [
        of('HIVE-10'),
        of('FRAME-D', 10),
        of('HONEY-5', 6),
        of('SUIT-V'),
        of('TOOL-J', 2),
        of('GLOVES'),
        of('HONEY-H', 2),
        of('SEED-C'),
        of('SMOKER'),
      ],
    }),
    // Discounts that are right, one of them paid by a third party.
    sell({
      date: september(16),
      place: STONEMERE,
      customer: buyer('Saffron Close School'),
      discount: 2500n,
      wanted: [of('HIVE-8', 1, { discount: 1450n }), of('HONEY-H', 6), ship()],
    }),
    sell({
      date: september(18),
      place: QUILLBY,
      customer: buyer('Young Keepers Club'),
      reimbursed: 10000n,
      wanted: [of('HIVE-10', 1), of('FRAME-D', 20)],
    }),
    // Rules of Brackenshire, and goods supplied before its rate rose, invoiced after.
    sell({
      date: september(6),
      place: BRACKENFORD,
      customer: buyer('Teasel Bank'),
      wanted: [of('TOOL-J', 12), of('FUEL-10', 20), of('GLOVES', 4), of('SUIT-V', 2)],
    }),
    sell({
      date: september(24),
      place: BRACKENFORD,
      customer: buyer('Bracken Commons'),
      wanted: [of('EXTRACT', 2), of('SEED-C', 3), of('GIFT-50', 1)],
    }),
    ...[17, 19].map((day): Sale => ({
      ...sell({
        date: september(day),
        supply: september(13),
        place: BRACKENFORD,
        customer: buyer('Bracken Commons'),
        wanted: [of('HIVE-8', day - 14)],
      }),
      mishap: 'rate-date',
    })),
    // Other currencies, and tax on tax in Norwick.
    ...[2, 13, 25].map((day): Sale => ({
      ...sell({
        date: september(day),
        place: SOLMAR,
        customer: buyer('Ateliers du Rucher'),
        currency: 'EUR',
        exchangeRate: '1.0875',
        wanted: [of('HIVE-10', day % 3), of('SUIT-V', 2), ship()],
      }),
      mishap: 'exchange-at-one',
    })),
    {
      ...sell({
        date: september(21),
        place: OSIER,
        customer: buyer('Mitsubachi Trading'),
        currency: 'JPY',
        exchangeRate: '0.0067',
        wanted: [of('FRAME-D', 1, { unitPrice: 300n })],
      }),
      mishap: 'exchange-at-one',
    },
    {
      ...sell({
        date: september(26),
        place: STONEMERE,
        customer: buyer('Al Nahl Stores'),
        currency: 'KWD',
        exchangeRate: '3.2541',
        wanted: [of('HIVE-8', 1, { unitPrice: 65915n }), of('HONEY-5', 10, { unitPrice: 3530n })],
      }),
      mishap: 'exchange-at-one',
    },
    // Prices with tax inside.
    ...[4, 27].map((day): Sale => ({
      ...sell({
        date: september(day),
        place: QUILLBY,
        customer: buyer('Counter of the Quillby fair'),
        inside: true,
        wanted: [
          of('HIVE-8', 1, { unitPrice: 22999n }),
          of('SMOKER', 3, { unitPrice: 4995n }),
          of('HONEY-H', 4),
        ],
      }),
      mishap: 'prices',
    })),
    sell({
      date: september(28),
      place: ALDER,
      customer: buyer('Gorse Hill Grange'),
      status: 'draft',
      wanted: [of('HIVE-10', 1)],
    }),
    sell({
      date: september(29),
      place: OSIER,
      customer: buyer('Dovecote Kitchens'),
      status: 'draft',
      wanted: [of('SMOKER', 1)],
    }),
    sell({
      date: september(19),
      place: QUILLBY,
      customer: buyer('Copperline Estates'),
      status: 'void',
      wanted: [of('HIVE-10', 2)],
    }),
  ]
}
