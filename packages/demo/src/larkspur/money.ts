import { halfUp, money } from '../shared/exact.ts'
import type { SystemData } from '../shared/sale.ts'
import { bankLines } from './bankLines.ts'
import { dayOf, september, units, type MoneyException, type Objects, type Sold } from './paid.ts'
import {
  BROOK,
  feeOf,
  movesOf,
  planted,
  settlements,
  TARN,
  type Moved,
  type Plant,
  type Terms,
} from './settlements.ts'

const isSale = (o: Objects[number]): o is Sold => o.resource === 'documents'

/** How receipts were paid: most by one tender, some by two, some partly with a gift card; and two that were taken back. */
export function tendered(objects: Objects): Objects {
  const sales = objects.filter(isSale)
  const changed = new Map<string, object>()
  sales
    .filter(({ value }) => value.tenders[0]?.paymentMethodId === 'pm_card')
    .forEach(({ id, value }, at) => {
      const whole = units(value.total)
      const first =
        at % 9 === 4 ? ['pm_cash', whole / 3n] : at % 11 === 7 && whole > 6000n ? ['pm_gift', 5000n] : null
      if (!first) return
      const [method, part] = first as [string, bigint]
      changed.set(id, {
        ...value,
        tenders: [
          { paymentMethodId: method, amount: money(part) },
          { paymentMethodId: 'pm_card', amount: money(whole - part) },
        ],
      })
    })
  const refunds = (['pm_cash', 'pm_card'] as const).flatMap((method, at): Objects => {
    const sold = sales.filter(
      ({ id, value }) => value.tenders[0]?.paymentMethodId === method && !changed.has(id),
    )[5]
    return sold ? [takenBack(sold, 'refund', `R-${5901 + at}`, `rec_${5901 + at}`)] : []
  })
  return [
    ...objects.map((o) => (changed.has(o.id) ? { ...o, value: changed.get(o.id) } : o) as Objects[number]),
    ...refunds,
  ]
}

/** A sale taken back whole, two days after it was made. */
export function takenBack({ id, value }: Sold, kind: string, number: string, own: string): Objects[number] {
  const day = september(Math.min(dayOf(value.documentDate) + 2, 29))
  return {
    resource: 'documents',
    id: own,
    value: {
      ...value,
      number,
      kind,
      documentDate: day,
      supplyDate: day,
      paymentDate: day,
      soldAt: `${day}${value.soldAt.slice(10)}`,
      creditsDocumentId: id,
      lines: value.lines.map((line) => ({ ...line, creditsLineId: line.id })),
    },
  }
}

const twice: Plant = (moved) => [moved, moved]
const gone: Plant = () => []
const by =
  (cents: bigint): Plant =>
  (moved) => [{ ...moved, amount: moved.amount + cents, fee: feeOf(BROOK, moved.amount + cents) }]
const feeAt =
  (hundredths: bigint, each: bigint): Plant =>
  (moved) => [{ ...moved, fee: halfUp(moved.amount * hundredths, 10_000n) + each }]
const later: Plant = (moved) => [{ ...moved, at: `${september(dayOf(moved.at) + 2)}${moved.at.slice(10)}` }]
const back: Plant = (moved) => [
  moved,
  {
    ...moved,
    kind: 'chargeback',
    at: `${september(dayOf(moved.at) + 6)}${moved.at.slice(10)}`,
    amount: -moved.amount,
    fee: 1500n,
  },
]

interface Stray {
  readonly number: string
  readonly day: number
  readonly kind: 'charge' | 'refund'
  readonly cents: bigint
}

/** Money that moved without a sale or a return. */
function strayMove(terms: Terms, { number, day, kind, cents }: Stray, key: MoneyException[]): Moved {
  key.push({
    kind: kind === 'charge' ? 'charge-without-sale' : 'refund-without-return',
    system: terms.system,
    number,
  })
  return {
    number,
    kind,
    at: `${september(day)}T14:40:00-05:00`,
    amount: cents,
    fee: kind === 'charge' ? feeOf(terms, cents) : 0n,
    documentNumber: null,
  }
}

/**
 * What moved for September's sales: every tender of every sale has its charge with its fee, its payout and its bank line, cash has its
 * deposits, a marketplace its balance; but for twenty exceptions, which the key names.
 */
export function moneyOf(
  pos: SystemData,
  commerce: SystemData,
): { brook: SystemData; tarn: SystemData; bank: SystemData; exceptions: readonly MoneyException[] } {
  const key: MoneyException[] = []
  const sales = [...pos.objects, ...commerce.objects].filter(isSale)
  const elsewhere: Moved[] = []
  const away: Plant = (moved) => {
    elsewhere.push({ ...moved, documentNumber: null, fee: feeOf(BROOK, moved.amount) })
    return []
  }
  const tarnMoves = planted(
    TARN,
    movesOf(TARN, sales),
    [
      [2, 'charge-missing', gone],
      [6, 'charge-fee', feeAt(340n, 30n)],
      [9, 'charge-elsewhere', away],
    ],
    key,
  )
  const stray = (terms: Terms, of: Stray): Moved => strayMove(terms, of, key)
  const brook = settlements(BROOK, [
    ...planted(
      BROOK,
      movesOf(BROOK, sales),
      [
        [3, 'charge-missing', gone],
        [5, 'charge-twice', twice],
        [8, 'charge-amount', by(100n)],
        [11, 'charge-day', later],
        [12, 'charge-fee', feeAt(290n, 10n)],
        [15, 'chargeback', back],
        [19, 'charge-missing', gone],
        [23, 'charge-twice', twice],
        [27, 'charge-amount', by(-500n)],
      ],
      key,
    ),
    ...elsewhere,
    stray(BROOK, { number: 'till, no receipt', day: 16, kind: 'charge', cents: 6420n }),
  ])
  const tarn = settlements(TARN, [
    ...tarnMoves,
    stray(TARN, { number: 'web, no order', day: 20, kind: 'charge', cents: 3185n }),
    stray(TARN, { number: 'web, no return', day: 22, kind: 'refund', cents: -2240n }),
  ])
  for (const { value } of sales)
    if (value.marketplace !== null && value.tenders[0]?.paymentMethodId === 'pm_web_card')
      key.push({ kind: 'market-on-card', system: 'commerce', number: value.number })
  const lines = bankLines([...brook.payouts, ...tarn.payouts], sales, key)
  return {
    brook: brook.data,
    tarn: tarn.data,
    exceptions: key,
    bank: bankOf(lines),
  }
}

function bankOf(lines: ReturnType<typeof bankLines>): SystemData {
  return {
    settings: {},
    objects: lines.map(({ day, amount, text, counterparty }, place) => ({
      resource: 'bank-lines',
      id: `bl_${place + 1}`,
      value: {
        number: String(88001 + place),
        account: '****2210',
        bookedOn: september(day),
        currency: 'USD',
        amount: money(amount),
        text,
        counterparty,
      },
    })),
  }
}
