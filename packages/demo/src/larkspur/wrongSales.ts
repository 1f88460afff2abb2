import type { Sale } from '../shared/sale.ts'
import { COMB } from './goods.ts'
import { ALDER, BRACKENFORD, LENNOX, OSIER, QUILLBY, STONEMERE } from './places.ts'
import { at, buyer, of, sell, september, ship } from './storyParts.ts'

/** What the source charged wrongly: a rate of another place, a component lost, a default code, shipping, a discount. */
export function mischarged(): Sale[] {
  return [
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
  ]
}

/** What the ledger's form makes of documents: all tax put down to one agency, and a ninth line where it takes eight. */
export function bookedOtherwise(): Sale[] {
  return [
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
  ]
}
