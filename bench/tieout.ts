import {
  connect,
  inEntity,
  type Books,
  type Database,
  type Transaction,
} from '../packages/server/src/database/connection.ts'
import { FROM_DETAIL, fullProof } from '../packages/server/src/tieout/fullProof.ts'
import { prove, proveTouched } from '../packages/server/src/proof/prove.ts'
import { touchedBySetUp } from '../packages/server/src/proof/restsOn.ts'
import { baseline, ledgerData, billingData, SEED } from '@axion/demo'
import type { JournalEntry, SourceDocument } from '@axion/contract'
import { importBaseline, recordedAt } from '../packages/server/src/baseline/import.ts'
import { BaselineImport } from '@axion/contract'
import { json } from '../packages/server/src/database/json.ts'
import { analyzed, connectSystem, foundEntity } from './entity.ts'
import { timed } from './timed.ts'

export interface TieOutTimes {
  readonly units: number
  readonly astrayPercent: number
  /** Milliseconds, medians. */
  readonly prove: number
  /** All of it again, with nothing changed. */
  readonly again: number
  readonly bareSignatures: number
  readonly fullProof: number
  readonly bareJoin: number
  readonly reproof: number
  /** A party that is agreed upon: what rests on it is found and proved, with what is explained by the set-up as a whole. */
  readonly act: number
  readonly touched: number
  readonly changed: number
}

const ENTITY = 'bench'
const MONTH = '2026-09'

/** Fills an entity with a month of so many documents, each booked once, a share of them with another tax. */
export async function fill(
  owner: string,
  app: string,
  units: number,
  astrayPercent: number,
): Promise<Database> {
  await foundEntity(owner, ENTITY)
  const runs = connect(app, 2)
  await inEntity(runs, ENTITY, async (books) => {
    const { trx } = books
    for (const table of [
      'unit',
      'unproved_history',
      'booking',
      'document',
      'ledger_entry',
      'held_object',
      'link',
      'system',
      'stake_share',
    ])
      await trx(table).where({ entity_id: ENTITY }).delete()
    await importBaseline(books, BaselineImport.parse(baseline()), await recordedAt(books))
    await connectSystem(books, { system: 'ledger', role: 'ledger', data: ledgerData() })
    await connectSystem(books, {
      system: 'billing',
      role: 'billing',
      data: billingData(SEED, 'http://127.0.0.1:1/desk'),
    })
    await documents(trx, units, astrayPercent)
  })
  await analyzed(owner)
  return runs
}

/** Invoices for Hollis County's rest, two components each, and their entries, made in the database: only their proving is measured. */
async function documents(trx: Transaction, units: number, astrayPercent: number): Promise<void> {
  const document: Partial<SourceDocument> = {
    kind: 'invoice',
    status: 'open',
    supplyDate: `${MONTH}-10`,
    paymentDate: null,
    currency: 'USD',
    exchangeRate: null,
    pricesIncludeTax: false,
    creditsDocumentId: null,
    shipTo: { country: 'XA', region: 'XA-WN', city: 'Alder Cross', postalCode: '40231' },
    shipFrom: null,
    discount: '0.00',
    reimbursed: '0.00',
    webAddress: null,
    documentDate: `${MONTH}-10`,
  }
  const entry: Partial<JournalEntry> = {
    currency: 'USD',
    baseCurrency: 'USD',
    voided: false,
    changedBy: 'bridge',
    changedAt: '2026-09-10T00:00:00Z',
    webAddress: null,
    postingDate: `${MONTH}-10`,
    bookingRevision: '1',
  }
  await trx.raw(
    `insert into document (entity_id, system_id, document_id, revision, number, kind, status, document_date, trading_day, period, currency, party, posted, value)
     select :e, 'billing', 'd' || i, '1', 'B-' || i, 'invoice', 'open', :day, :day, :month, 'USD', 'Bench', true, :document::jsonb || jsonb_build_object('number', 'B-' || i, 'party', jsonb_build_object('id', 'p' || i % 1000, 'name', 'Bench'), 'total', (net + wn + hc)::text,
       'lines', jsonb_build_array(jsonb_build_object('id', '1', 'kind', 'goods', 'itemCode', 'HIVE-10', 'description', 'Hive', 'quantity', '1', 'unitPrice', net::text, 'discount', '0.00', 'amount', net::text, 'taxRateId', 'rate_WN-HOL', 'creditsLineId', null)),
       'taxes', jsonb_build_array(jsonb_build_object('taxRateId', 'rate_WN-HOL', 'base', net::text, 'tax', (wn + hc)::text, 'components', jsonb_build_array(
         jsonb_build_object('agencyId', 'auth_WRO', 'percent', '5.50', 'tax', wn::text), jsonb_build_object('agencyId', 'auth_HCT', 'percent', '1.45', 'tax', hc::text)))))
     from (select i, net, round(net * 0.055, 2) as wn, round(net * 0.0145, 2) as hc from (select i, round((10 + i % 9973)::numeric, 2) as net from generate_series(1, :units::int) i) x) y`,
    { e: ENTITY, units, day: `${MONTH}-10`, month: MONTH, document: json(document) },
  )
  await trx.raw(
    `insert into ledger_entry (entity_id, system_id, entry_id, revision, external_id, booking_id, booking_revision, posting_date, period, currency, voided, changed_by, changed_at, value)
     select :e, 'ledger', 'e' || i, '1', :e || '/billing/d' || i || '/invoice', 'b' || i, '1', :day, :month, 'USD', false, 'bridge', now(), :entry::jsonb || jsonb_build_object('number', 'e' || i, 'bookingId', 'b' || i, 'externalId', :e || '/billing/d' || i || '/invoice', 'memo', '',
       'lines', jsonb_build_array(
         :line::jsonb || jsonb_build_object('accountId', 'acct_1100', 'debit', (net + wn + hc)::text), :line::jsonb || jsonb_build_object('accountId', 'acct_4000', 'credit', net::text),
         :line::jsonb || jsonb_build_object('accountId', 'acct_2210', 'credit', wn::text, 'agencyId', 'agency_WRO', 'taxRateId', 'tax_WN-HOL', 'base', net::text),
         :line::jsonb || jsonb_build_object('accountId', 'acct_2212', 'credit', hc::text, 'agencyId', 'agency_HCT', 'taxRateId', 'tax_WN-HOL', 'base', net::text)))
     from (select i, net, round(net * 0.055, 2) as wn, round(net * case when i % 100 < :astray::int then 0.0125 else 0.0145 end, 2) as hc from (select i, round((10 + i % 9973)::numeric, 2) as net from generate_series(1, :units::int) i) x) y`,
    {
      e: ENTITY,
      units,
      astray: astrayPercent,
      day: `${MONTH}-10`,
      month: MONTH,
      entry: json(entry),
      line: json({
        description: '',
        debit: '0.00',
        credit: '0.00',
        agencyId: null,
        taxRateId: null,
        base: null,
        baseDebit: null,
        baseCredit: null,
      }),
    },
  )
}

const BARE_SIGNATURES = `select count(*) from tie_unit u left join determination n using (entity_id, unit_id) where u.entity_id = ? and u.period = ? and (n.stated_signature is distinct from n.expected_at_stated or u.expected_signature is distinct from u.booked_signature)`
/** The same columns as a full proof reads: tax, bases and nets in both currencies, three voices of the one and two of the other, aggregated and joined; no rule is applied to what is found. */
const said = (voice: string): string =>
  `(select unit_id, agency, account, sum(tax) as tax, sum(in_base) as in_base, sum(base) as base from tax_fact where entity_id = :e and voice = '${voice}' group by 1, 2, 3)`
const net = (voice: string): string =>
  `(select unit_id, account, sum(net) as net from net_fact where entity_id = :e and voice = '${voice}' group by 1, 2)`
const BARE_JOIN = `select
  (select count(*) from ${said('expected')} x full join ${said('booked')} y using (unit_id, agency, account)
     full join (select unit_id, agency, sum(tax) as tax from tax_fact where entity_id = :e and voice = 'stated' group by 1, 2) z using (unit_id, agency)
   where x.tax is distinct from y.tax or x.in_base is distinct from y.in_base or x.base is distinct from y.base or x.tax is distinct from z.tax),
  (select count(*) from ${net('expected')} x full join ${net('booked')} y using (unit_id, account) where x.net is distinct from y.net)`

/** Proves the month, then compares with what the database alone takes for the same question. */
export async function timeTieOut(
  database: Database,
  units: number,
  astrayPercent: number,
  changed: number,
): Promise<TieOutTimes> {
  const inside = <T>(work: (books: Books) => Promise<T>): Promise<T> => inEntity(database, ENTITY, work)
  const proving = await timed(() => inside((books) => prove(books, MONTH)), 1)
  const again = await timed(() => inside((books) => prove(books, MONTH)))
  const bareSignatures = await timed(() => inside(({ trx }) => trx.raw(BARE_SIGNATURES, [ENTITY, MONTH])))
  const full = await timed(() => inside((books) => fullProof(books, MONTH)))
  const bareJoin = await timed(() => inside(({ trx }) => trx.raw(BARE_JOIN, { e: ENTITY })))
  const documents = new Set(Array.from({ length: changed }, (_, at) => `billing/d${at * 7 + 1}`))
  const reproof = await timed(() => inside((books) => prove(books, MONTH, { documents, entries: new Set() })))
  let touched = 0
  await inside(touchedBySetUp)
  const act = await timed(
    () =>
      inside(async (books) => {
        await books.trx('party').insert({
          entity_id: ENTITY,
          object_id: 'p7',
          name: 'Seven',
          claims: 'resale',
          catch_all: false,
          valid: '[,)',
        })
        const found = await touchedBySetUp(books)
        if (found === 'all') throw new Error('one party is not everything')
        touched = found.documents.size
        await proveTouched(books, found)
      }),
    1,
  )
  return {
    units,
    astrayPercent,
    prove: proving,
    again,
    bareSignatures,
    fullProof: full,
    bareJoin,
    reproof,
    act,
    touched,
    changed,
  }
}

export { FROM_DETAIL }
