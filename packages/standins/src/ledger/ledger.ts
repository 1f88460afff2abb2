import type { FastifyInstance } from 'fastify'
import { bridge } from '../shared/bridge.ts'
import { toText, toUnits } from '../shared/exact.ts'
import { Faults } from '../shared/faults.ts'
import { setUp } from '../shared/setUp.ts'
import type { Store } from '../shared/store.ts'
import { bookings, type StoredEntry } from './bookings.ts'
import type { LedgerSettings } from './shapes.ts'
import { ledgerDesk } from './desk.ts'

const DEFAULTS: LedgerSettings = {
  company: { id: 'none', name: 'Nobody yet' },
  baseCurrency: 'USD',
  currencies: ['USD'],
  timeZone: 'UTC',
  keepsDocumentNumbers: true,
  lockedThrough: null,
  taxComputation: 'by-rate',
  keepsKeysSeconds: 86_400,
  longestLateCommitSeconds: 5,
  voids: true,
  exchange: 'as-stated',
  credits: 'as-credits',
  inside: 'taken-out',
  mostLines: null,
}

export interface StandinOptions {
  readonly store: Store
  readonly token: string
  /** The address under which people and bridges reach this stand-in, with its path. */
  readonly address: string
}

const RESOURCES = ['accounts', 'agencies', 'tax-rates', 'dimensions', 'journal-entries']
const TAKES = ['accounts', 'agencies', 'tax-rates', 'dimensions']

/** The ledger stand-in: its bridge under /bridge, its desk page under /desk. */
export function ledger(app: FastifyInstance, { store, token, address }: StandinOptions): void {
  const faults = new Faults(store)
  const settings = async (): Promise<LedgerSettings> => ({
    ...DEFAULTS,
    ...(await store.setting<Partial<LedgerSettings>>('settings', {})),
  })

  void app.register(
    async (scope) => {
      bridge(
        scope,
        {
          store,
          token,
          resources: RESOURCES,
          about: async () => {
            const { company, taxComputation, keepsKeysSeconds, longestLateCommitSeconds, voids } =
              await settings()
            return {
              contract: '1',
              role: 'ledger',
              product: 'Combwright Books',
              company,
              webAddress: `${address}/desk`,
              resources: RESOURCES,
              takes: ['bookings', ...TAKES],
              creates: TAKES,
              taxComputation,
              idempotency: { keepsKeysSeconds },
              findsByExternalId: !(await faults.isOn('no-external-id')),
              longestLateCommitSeconds,
              voids,
            }
          },
          settings: async () => {
            const { baseCurrency, currencies, timeZone, keepsDocumentNumbers, lockedThrough } =
              await settings()
            const taxEnabled = (await store.all('tax-rates')).length > 0
            return {
              baseCurrency,
              currencies,
              timeZone,
              taxEnabled,
              computesTax: false,
              keepsDocumentNumbers,
              pairsCreditsItself: false,
              usesAccountNumbers: true,
              lockedThrough,
              defaultItemTaxCode: null,
            }
          },
        },
        faults,
      )
      bookings(scope, { store, faults, settings, webAddress: `${address}/desk` })
      setUp(scope, store, TAKES, TAKES)
      balances(scope, store)
    },
    { prefix: '/bridge' },
  )
  ledgerDesk(app, { store, faults, settings, base: new URL(address).pathname })
}

/** Balances of the books, so in their currency: an entry in another counts with what it came to here. */
function balances(app: FastifyInstance, store: Store): void {
  app.get<{ Querystring: { from: string; to: string } }>('/balances', async (request) => {
    const { from, to } = request.query
    const { rows } = await store.pool.query<{ last: string }>(
      'select coalesce(max(sequence), 0)::text as last from object',
    )
    const sums = new Map<
      string,
      { accountId: string; currency: string; opening: bigint; debit: bigint; credit: bigint }
    >()
    for (const { value } of await store.all<StoredEntry>('journal-entries')) {
      if (value.voided || value.postingDate > to) continue
      for (const line of value.lines) {
        const currency = value.baseCurrency
        const key = `${line.accountId}|${currency}`
        const sum = sums.get(key) ?? {
          accountId: line.accountId,
          currency,
          opening: 0n,
          debit: 0n,
          credit: 0n,
        }
        const [debit, credit] = [
          toUnits(line.baseDebit ?? line.debit, currency),
          toUnits(line.baseCredit ?? line.credit, currency),
        ]
        if (value.postingDate < from) sum.opening += credit - debit
        else {
          sum.debit += debit
          sum.credit += credit
        }
        sums.set(key, sum)
      }
    }
    const items = [...sums.values()].map(({ accountId, currency, opening, debit, credit }) => ({
      accountId,
      currency,
      opening: toText(opening, currency),
      debit: toText(debit, currency),
      credit: toText(credit, currency),
      closing: toText(opening + credit - debit, currency),
    }))
    return { sequence: rows[0]?.last ?? '0', items }
  })
}
