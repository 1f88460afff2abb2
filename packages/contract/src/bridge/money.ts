import { z } from 'zod'
import { amount, boundedText, currency, date, id, instant, name } from './primitives.ts'

export const Settlement = z.object({
  number: boundedText(100, 1),
  kind: z.enum(['charge', 'refund', 'fee', 'chargeback', 'payout', 'adjustment']),
  at: instant,
  paymentMethodId: id.nullable(),
  currency,
  amount: amount.meta({
    description: 'What it moves at the processor: a charge is positive, a payout negative',
  }),
  fee: amount.meta({ description: 'What was kept of it, positive' }),
  documentNumber: boundedText(100).nullable(),
  payoutId: id.nullable().meta({ description: 'The payout that it was settled in; null while it is held' }),
})
export type Settlement = z.infer<typeof Settlement>

export const BankLine = z.object({
  number: boundedText(100, 1),
  account: boundedText(60, 1).meta({ description: 'The bank account, masked' }),
  bookedOn: date,
  currency,
  amount: amount.meta({ description: 'Money in is positive' }),
  text: name,
  counterparty: name.nullable(),
})
export type BankLine = z.infer<typeof BankLine>
