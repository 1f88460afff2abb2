import { credit } from '../shared/makeSale.ts'
import type { Sale } from '../shared/sale.ts'
import { KESTREL, OSTLER, RAVEL, THISTLEDOWN } from './goods.ts'
import { ALDER, BRACKENFORD, OSIER, QUILLBY, SOLMAR, STONEMERE } from './places.ts'
import { at, buyer, of, sell, september, ship } from './storyParts.ts'
import { bookedOtherwise, mischarged } from './wrongSales.ts'

/** September as it went, beside the ordinary sales: every kind of document, and what went wrong with some. */
export function stories(): Sale[] {
  return [
    ...creditedSales(),
    ...exemptSales(),
    ...mischarged(),
    ...bookedOtherwise(),
    ...discounted(),
    ...inBrackenshire(),
    ...inCurrencies(),
    ...insideAndUnissued(),
  ]
}

/** Two sales, of which parts came back one by one. */
function creditedSales(): Sale[] {
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
  ]
}

/** Certificates: one that holds, one that came late, one for another region, one ignored, one expired. */
function exemptSales(): Sale[] {
  return [
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
  ]
}

/** Discounts that are right, one of them paid by a third party. */
function discounted(): Sale[] {
  return [
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
  ]
}

/** Rules of Brackenshire, and goods supplied before its rate rose, invoiced after. */
function inBrackenshire(): Sale[] {
  return [
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
  ]
}

/** Other currencies, and tax on tax in Norwick. */
function inCurrencies(): Sale[] {
  return [
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
  ]
}

/** Prices with tax inside; drafts, and one that is void. */
function insideAndUnissued(): Sale[] {
  return [
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
