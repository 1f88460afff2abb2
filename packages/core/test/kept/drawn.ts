import {
  indexBaseline,
  parsePercent,
  ratio,
  type Baseline,
  type CodeRule,
  type TaxDocument,
} from '../../src/index.ts'
import { baseline, invoice, rule } from '../baseline.ts'

/** Numbers that are the same for the same seed, whatever the machine. */
export class Dice {
  constructor(private state: number) {}
  below(limit: number): number {
    this.state = (Math.imul(this.state ^ (this.state >>> 15), 0x2c1b3c6d) + 0x6d2b79f5) >>> 0
    let mixed = this.state
    mixed = Math.imul(mixed ^ (mixed >>> 12), 0x297a2d39)
    return ((mixed ^ (mixed >>> 15)) >>> 0) % limit
  }
  of<T>(choices: readonly T[]): T {
    return choices[this.below(choices.length)] as T
  }
  once(in_: number): boolean {
    return this.below(in_) === 0
  }
  amount(): bigint {
    return BigInt(this.of([99, 1250, 5000, 12345, 40000, 99999, 250000]) + this.below(50))
  }
}

const SINCE = { from: '2020-01-01', to: null }
const special = (id: string, code: string, changes: Partial<CodeRule>, at = 'north'): CodeRule =>
  rule(id, at, code, changes.treatment ?? 'standard', { currency: 'USD', ...changes })
const CODES = ['GOODS', 'FOOD', 'CLOTH', 'FUEL', 'LUXURY', 'CAPPED', 'ZERO', 'NONE', 'BOOKS'] as const

/** Every treatment, a tax on tax, two places of rounding, and what posting rules may say. */
function agreed(dice: Dice): Baseline {
  const apart = dice.once(3)
  return {
    ...baseline,
    rateVersions: [
      ...baseline.rateVersions.filter((v) => v.jurisdictionId !== 'port'),
      {
        id: 'port-2',
        jurisdictionId: 'port',
        percent: parsePercent('2'),
        onTopOf: dice.once(3) ? ['north'] : [],
        valid: SINCE,
      },
    ],
    codeRules: [
      ...baseline.codeRules,
      special('cloth', 'CLOTH', { treatment: 'reduced', percent: parsePercent('2.1') }),
      special('fuel', 'FUEL', { treatment: 'per-unit', perUnit: ratio(375n, 10n) }, 'hollow'),
      special('fuel-n', 'FUEL', {}),
      special('luxury', 'LUXURY', { threshold: { limit: 10000n, taxes: dice.of(['whole', 'excess']) } }),
      special('capped', 'CAPPED', { cap: 20000n }),
      special('zero', 'ZERO', { treatment: 'zero-rated' }),
      special('books', 'BOOKS', { recoverable: parsePercent('60') }),
      rule('ship-south', 'south', 'SHIP', 'standard'),
    ],
    registrations: [
      ...baseline.registrations,
      ...(dice.once(2)
        ? [{ id: 'reg-s', agencyId: 'elsewhere', number: '9', basis: null, frequency: null, valid: SINCE }]
        : []),
    ],
    roundings: baseline.roundings.map((one, at) =>
      at > 0
        ? one
        : {
            ...one,
            place: {
              level: dice.of(['document', 'line', 'unit'] as const),
              unit: dice.of(['component', 'combined'] as const),
              tie: dice.of(['half-away', 'half-even', 'truncate'] as const),
            },
          },
    ),
    regionRules: baseline.regionRules.map((one) => ({
      ...one,
      originLevels: dice.once(4) ? (['county'] as const) : [],
      taxedBy: dice.of(['supply-date', 'supply-date', 'document-date'] as const),
      taxedBeforeDiscount: dice.once(3),
    })),
    postingRules: [
      ...baseline.postingRules,
      ...['discount', 'reimbursement'].flatMap((kind) =>
        kind === 'discount' && !apart
          ? []
          : [
              {
                id: kind,
                kind: kind as 'discount',
                agencyId: null,
                only: null,
                account: `49${kind.length}`,
                valid: SINCE,
              },
            ],
      ),
      ...(dice.once(2)
        ? [
            {
              id: 't',
              kind: 'tax' as const,
              agencyId: 'elsewhere',
              only: null,
              account: '2218',
              valid: SINCE,
            },
          ]
        : []),
    ],
  }
}

const PLACES = [
  { country: 'XA', region: 'XA-NO', city: 'Hollow', postalCode: '10001-0042' },
  { country: 'XA', region: 'XA-NO', city: 'Hollow', postalCode: '10001-7000' },
  { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' },
  { country: 'XA', region: 'XA-SO', city: 'Far', postalCode: '30000' },
]

function drawnDocument(dice: Dice): TaxDocument {
  const inside = dice.once(3)
  const lines = Array.from({ length: 1 + dice.below(3) }, (): [bigint, string | null] => [
    dice.amount(),
    dice.once(25) ? null : dice.of(CODES),
  ])
  if (dice.once(3)) lines.push([dice.amount() / 4n + 100n, 'SHIP'])
  const drawn = invoice(lines, {
    number: `K-${dice.below(1000)}`,
    documentDate: dice.of(['2026-09-17', '2026-09-01', '2026-08-31']),
    supplyDate: dice.of(['2026-09-17', '2026-08-30', '2026-09-01']),
    currency: dice.once(4) ? 'EUR' : 'USD',
    partyId: dice.of([null, null, 'farm', 'shop', 'anybody', 'abbey']),
    shipTo: dice.of(PLACES),
    shipFrom: dice.once(3) ? dice.of(PLACES) : null,
    pricesIncludeTax: inside,
    discount: dice.once(3) ? BigInt(dice.below(90)) : 0n,
    reimbursed: dice.once(5) ? 50n : 0n,
    purchase: dice.once(6),
    marketplace: dice.once(12) ? 'fair' : null,
  })
  return {
    ...drawn,
    exchange: drawn.currency === 'EUR' ? { currency: 'USD', rate: ratio(10837n, 10000n) } : null,
    lines: drawn.lines.map((line) => ({
      ...line,
      quantity: ratio(BigInt(1 + dice.below(4)), dice.once(6) ? 2n : 1n),
    })),
  }
}

/** A credit of part of it, or of all. */
function credited(document: TaxDocument, dice: Dice): TaxDocument {
  const whole = dice.once(2)
  const part = (amount: bigint): bigint => -(whole ? amount : amount / 3n)
  return {
    ...document,
    id: 'd2',
    number: `${document.number}-C`,
    kind: 'credit-note',
    documentDate: '2026-09-20',
    supplyDate: '2026-09-20',
    discount: -(whole ? document.discount : 0n),
    reimbursed: 0n,
    original: dice.once(5) ? null : { document, before: new Map() },
    lines: document.lines
      .slice(0, whole ? undefined : 1)
      .map((line) => ({ ...line, id: `c${line.id}`, credits: line.id, amount: part(line.amount) })),
  }
}

/** A document with the baseline that it is worked out by. */
export function drawnCase(seed: number) {
  const dice = new Dice(seed * 7919 + 13)
  for (let warm = 0; warm < 8; warm++) dice.below(2)
  const sale = drawnDocument(dice)
  const document = dice.once(4) ? credited(sale, dice) : sale
  return { dice, document, index: indexBaseline(agreed(dice)) }
}
