import type { TaxDocument } from '../../determination/document.ts'
import { currencyDigits } from '../../money/currency.ts'
import { ratio } from '../../money/decimal.ts'
import type { Cause } from './cause.ts'

/** Amounts in another currency taken over unit for unit. */
export interface ExchangeAtOne {
  readonly kind: 'exchange-at-one'
}

export const exchangeAtOne: Cause<ExchangeAtOne, object> = {
  kind: 'exchange-at-one',
  rank: () => 6,
  key: () => [],
  candidates: ({ document }) => (document.exchange ? [{ kind: 'exchange-at-one' }] : []),
  apply: (_, on) => on.document.exchange && { ...on, document: atParity(on.document) },
  facts: () => ({}),
  says: (f) => `${f.system} took amounts in another currency over unit for unit.`,
}

/** The document with its amounts taken over into the base currency unit for unit. */
function atParity(document: TaxDocument): TaxDocument {
  const { currency, exchange } = document
  return exchange
    ? {
        ...document,
        exchange: {
          ...exchange,
          rate: ratio(
            10n ** BigInt(currencyDigits(exchange.currency)),
            10n ** BigInt(currencyDigits(currency)),
          ),
        },
      }
    : document
}
