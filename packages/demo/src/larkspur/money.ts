import { halfUp, money } from '../shared/exact.ts'
import type { SystemData } from '../shared/sale.ts'
import { OUTLETS } from './house.ts'

type Objects = SystemData['objects'][number][]

/** A way in which what moved is not what was sold: planted, to be found one day. */
export interface MoneyException {
  readonly kind:
    | 'charge-missing'
    | 'charge-twice'
    | 'charge-amount'
    | 'charge-day'
    | 'charge-fee'
    | 'charge-elsewhere'
    | 'charge-without-sale'
    | 'refund-without-return'
    | 'chargeback'
    | 'market-on-card'
    | 'payout-short'
    | 'payout-missing'
    | 'deposit-short'
    | 'deposit-missing'
  readonly system: 'payments' | 'payments-web' | 'bank' | 'commerce'
  /** The sale's, the settlement's, or the bank line's; of a deposit, its outlet and week. */
  readonly number: string
}

interface Tender {
  readonly paymentMethodId: string
  readonly amount: string
}
interface Paid {
  readonly number: string
  readonly kind: string
  readonly documentDate: string
  readonly soldAt: string
  readonly locationId: string | null
  readonly marketplace: string | null
  readonly total: string
  readonly lines: readonly { readonly id: string }[]
  readonly tenders: readonly Tender[]
}
type Sold = Objects[number] & { readonly value: Paid }

const units = (text: string): bigint => BigInt(text.replace('.', ''))
const dayOf = (at: string): number => Number(at.slice(8, 10))
const september = (day: number): string => `2026-09-${String(day).padStart(2, '0')}`
const WEEKS = [1, 2, 3, 4]
const weekOf = (day: number): number | null => (day <= 28 ? Math.ceil(day / 7) : null)
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

interface Moved {
  readonly number: string
  readonly kind: 'charge' | 'refund' | 'chargeback' | 'payout'
  readonly at: string
  readonly amount: bigint
  readonly fee: bigint
  readonly documentNumber: string | null
}

interface Terms {
  readonly system: 'payments' | 'payments-web'
  readonly prefix: string
  readonly name: string
  readonly method: string
  readonly hundredths: bigint
  readonly each: bigint
}
const BROOK: Terms = {
  system: 'payments',
  prefix: 'brk',
  name: 'Cards at the till',
  method: 'pm_card',
  hundredths: 260n,
  each: 10n,
}
const TARN: Terms = {
  system: 'payments-web',
  prefix: 'trn',
  name: 'Cards on the web',
  method: 'pm_web_card',
  hundredths: 290n,
  each: 30n,
}
const feeOf = ({ hundredths, each }: Terms, amount: bigint): bigint =>
  halfUp(amount * hundredths, 10_000n) + each

/** Each card tender of a sale is one charge, of a refund one refund; in the order of their instants. */
function movesOf(terms: Terms, sales: readonly Sold[]): Moved[] {
  return sales
    .flatMap(({ value }) =>
      value.tenders
        .filter((tender) => tender.paymentMethodId === terms.method)
        .map((tender): Moved => {
          const back = value.kind === 'refund' || value.kind === 'return'
          const amount = units(tender.amount)
          return {
            number: value.number,
            kind: back ? 'refund' : 'charge',
            at: value.soldAt,
            amount: back ? -amount : amount,
            fee: back ? 0n : feeOf(terms, amount),
            documentNumber: terms === TARN ? value.number : null,
          }
        }),
    )
    .sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : a.number < b.number ? -1 : 1))
}

type Plant = (moved: Moved, at: number) => readonly Moved[] | null

/** Changes some moves and keeps count of what was planted. */
function planted(
  terms: Terms,
  moves: readonly Moved[],
  by: readonly (readonly [at: number, kind: MoneyException['kind'], plant: Plant])[],
  key: MoneyException[],
): Moved[] {
  const charges = moves.filter((moved) => moved.kind === 'charge')
  return moves.flatMap((moved) => {
    const found = by.find(([at]) => charges[at] === moved)
    if (!found) return [moved]
    key.push({ kind: found[1], system: terms.system, number: moved.number })
    return found[2](moved, found[0]) ?? [moved]
  })
}

function settlements(
  terms: Terms,
  moves: readonly Moved[],
): { data: SystemData; payouts: { number: string; amount: bigint; day: number }[] } {
  const inOrder = [...moves].sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0))
  const rows = inOrder.map((moved, at): Objects[number] => {
    const week = weekOf(dayOf(moved.at))
    return {
      resource: 'settlements',
      id: `${terms.prefix}_ch_${at + 1}`,
      value: {
        number: `${terms.prefix.toUpperCase()}-${1001 + at}`,
        kind: moved.kind,
        at: moved.at,
        paymentMethodId: `${terms.prefix}_card`,
        currency: 'USD',
        amount: money(moved.amount),
        fee: money(moved.fee),
        documentNumber: moved.documentNumber,
        payoutId: week === null ? null : `${terms.prefix}_po_${week}`,
      },
    }
  })
  const payouts = WEEKS.map((week) => ({
    number: `${terms.prefix.toUpperCase()}-P${week}`,
    day: week * 7,
    amount: inOrder
      .filter((moved) => weekOf(dayOf(moved.at)) === week)
      .reduce((sum, moved) => sum + moved.amount - moved.fee, 0n),
  }))
  return {
    payouts,
    data: {
      settings: {},
      objects: [
        ...rows,
        ...payouts.map(({ number, day, amount }, at): Objects[number] => ({
          resource: 'settlements',
          id: `${terms.prefix}_po_${at + 1}`,
          value: {
            number,
            kind: 'payout',
            at: `${september(day)}T23:59:00-05:00`,
            paymentMethodId: null,
            currency: 'USD',
            amount: money(-amount),
            fee: '0.00',
            documentNumber: null,
            payoutId: null,
          },
        })),
      ],
    },
  }
}

interface BankLine {
  readonly day: number
  readonly amount: bigint
  readonly text: string
  readonly counterparty: string
}

/** What came to the bank: payouts a day after they were made, cash of each outlet once a week, the marketplace's balance, and the rent. */
function bankLines(
  payouts: readonly { readonly number: string; readonly amount: bigint; readonly day: number }[],
  sales: readonly Sold[],
  key: MoneyException[],
): BankLine[] {
  const paid = payouts.flatMap(({ number, amount, day }): BankLine[] => {
    if (number === 'TRN-P4') {
      key.push({ kind: 'payout-missing', system: 'bank', number })
      return []
    }
    if (number === 'BRK-P2') key.push({ kind: 'payout-short', system: 'bank', number })
    return [
      {
        day: day + 1,
        amount: number === 'BRK-P2' ? amount - 1000n : amount,
        text: `Payout ${number}`,
        counterparty: number.startsWith('BRK') ? 'Brook Settlements' : 'Tarn Pay',
      },
    ]
  })
  const deposits = OUTLETS.flatMap(({ till, name }) =>
    WEEKS.flatMap((week) => {
      const cash = sales
        .filter(
          ({ value }) =>
            till !== null && value.locationId === till && weekOf(dayOf(value.documentDate)) === week,
        )
        .flatMap(({ value }) =>
          value.tenders
            .filter((tender) => tender.paymentMethodId === 'pm_cash')
            .map((tender) => (value.kind === 'refund' ? -units(tender.amount) : units(tender.amount))),
        )
        .reduce((sum, amount) => sum + amount, 0n)
      return cash > 0n ? [{ number: `${name}, week ${week}`, day: week * 7 + 1, cash }] : []
    }),
  )
  const [short, missing] = [deposits[0], deposits.at(-1)]
  for (const [kind, deposit] of [
    ['deposit-short', short],
    ['deposit-missing', missing],
  ] as const)
    if (deposit) key.push({ kind, system: 'bank', number: deposit.number })
  const deposited = deposits
    .filter((deposit) => deposit !== missing)
    .map(({ number, day, cash }): BankLine => ({
      day,
      amount: number === short?.number ? cash - 2000n : cash,
      text: `Cash of ${number}`,
      counterparty: 'Night safe',
    }))
  const balance = sales
    .flatMap(({ value }) => value.tenders)
    .filter((tender) => tender.paymentMethodId === 'pm_market')
    .reduce((sum, tender) => sum + units(tender.amount), 0n)
  return [
    { day: 1, amount: -240_000n, text: 'Rent, Quillby yard', counterparty: 'Yardhold Estates' },
    ...paid,
    ...deposited,
    { day: 30, amount: balance, text: 'Balance of September', counterparty: 'Commonfair' },
  ].sort((a, b) => a.day - b.day)
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
  const stray = (
    terms: Terms,
    {
      number,
      day,
      kind,
      cents,
    }: {
      readonly number: string
      readonly day: number
      readonly kind: 'charge' | 'refund'
      readonly cents: bigint
    },
  ): Moved => {
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
    bank: {
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
    },
  }
}
