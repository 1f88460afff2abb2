import { OUTLETS } from './house.ts'
import { dayOf, units, weekOf, WEEKS, type MoneyException, type Sold } from './paid.ts'

/** What came to the bank: payouts a day after they were made, cash of each outlet once a week, the marketplace's balance, and the rent. */
export function bankLines(
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
    { day: 1, amount: -240000n, text: 'Rent, Quillby yard', counterparty: 'Yardhold Estates' },
    ...paid,
    ...deposited,
    { day: 30, amount: balance, text: 'Balance of September', counterparty: 'Commonfair' },
  ].sort((a, b) => a.day - b.day)
}

interface BankLine {
  readonly day: number
  readonly amount: bigint
  readonly text: string
  readonly counterparty: string
}
