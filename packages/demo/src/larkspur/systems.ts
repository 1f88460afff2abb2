import { documentOf } from '../shared/documents.ts'
import { rightTax, type Answer } from '../shared/key.ts'
import { heldRate } from '../shared/systems.ts'
import type { Component, Rate, SystemData } from '../shared/sale.ts'
import { BILLING_PARTIES, CLAIMANTS, heldKind, inBilling, ITEMS } from './goods.ts'
import { DEPARTMENTS } from './house.ts'
import { AGENCIES, asOfOctober, RATES, rateOf } from './places.ts'
import { quarter } from './sales.ts'

const COMPANY = { id: 'larkspur', name: 'Larkspur Apiary Supply' }
const BASE = {
  company: COMPANY,
  baseCurrency: 'USD',
  currencies: ['USD', 'EUR', 'JPY', 'KWD'],
  timeZone: 'America/Chicago',
}

const OTHER_ACCOUNTS = [
  ['1000', 'Operating bank', 'bank'],
  ['1100', 'Accounts receivable', 'receivable'],
  ['1150', 'Due from sponsors', 'receivable'],
  ['1300', 'Stock of goods', 'asset'],
  ['3000', 'Retained earnings', 'equity'],
  ['1071', 'Cards at the till, in clearing', 'bank'],
  ['1072', 'Cards on the web, in clearing', 'bank'],
  ['1073', 'Commonfair, in clearing', 'income'],
  ['2400', 'Gift cards', 'liability'],
  ['2450', 'Company cards', 'liability'],
  ['4000', 'Sales', 'income'],
  ['4100', 'Shipping income', 'income'],
  ['5000', 'Cost of sales', 'expense'],
  ['5100', 'Purchases', 'expense'],
  ['6100', 'Card fees', 'expense'],
  ['6900', 'Cash over and short', 'expense'],
  ['6910', 'Rounding', 'expense'],
  ['2100', 'Trade creditors', 'current-liability'],
  ['2300', 'Tax that marketplaces remit', 'current-liability'],
] as const

/** The ledger as its bookkeeper left it. What is wrong in it, Axion has to find. */
export function ledgerData(): SystemData {
  const swapped: Readonly<Record<string, string>> = { CPL: '2222', MCA: '2214' }
  const accounts = [
    ...OTHER_ACCOUNTS.map(([number, name, type]) => ({ number, name, type })),
    ...AGENCIES.map((a) => ({ number: a.account, name: a.accountName, type: 'current-liability' })),
  ]
  const agencies = AGENCIES.map(({ code, name, account }) => ({
    id: `agency_${code}`,
    value: {
      code: null,
      name: name.replace('Treasurer', 'Tresurer'),
      liabilityAccountId: `acct_${swapped[code] ?? account}`,
    },
  }))
  const here = (rate: Rate): readonly Component[] =>
    rate.code.startsWith('TK')
      ? asOfOctober(rate).components
      : rate.code === 'WN-FEN'
        ? rate.components.filter((c) => c.from === undefined).map(({ to: _to, ...c }) => c)
        : rate.components
  const rates = RATES.map((rate) => {
    const { id, value } = heldRate(
      `tax_${rate.code}`,
      { ...rate, components: here(rate) },
      (code) => `agency_${code}`,
      { code: true },
    )
    return { id, value: rate.code === 'TK' ? { ...value, rounds: 'line' } : value }
  })
  return {
    settings: {
      ...BASE,
      keepsDocumentNumbers: false,
      lockedThrough: '2026-06-30',
      taxComputation: 'by-rate',
      exchange: 'at-one',
      credits: 'as-sales',
      inside: 'put-on-top',
      mostLines: 8,
    },
    objects: [
      ...accounts.map((value) => ({ resource: 'accounts', id: `acct_${value.number}`, value })),
      ...agencies.map((agency) => ({ resource: 'agencies', ...agency })),
      ...rates.map((rate) => ({ resource: 'tax-rates', ...rate })),
      ...departments(),
      { resource: 'journal-entries', id: '47990', value: entryByHand() },
    ],
  }
}

/** The ledger's departments: a letter short in one name, one switched off, one lacking, and one that nobody agreed on. */
function departments(): SystemData['objects'] {
  const held = DEPARTMENTS.filter(([code]) => code !== 'INSP').map(([code, name]) => ({
    code,
    name: code === 'YARD' ? name.slice(0, -1) : name,
    active: code !== 'WEB',
  }))
  return [...held, { code: 'MAIL', name: 'Mail order', active: true }].map((value) => ({
    resource: 'dimensions',
    id: `dept_${value.code}`,
    value: { dimension: 'Department', ...value },
  }))
}

/** Somebody paid an agency by cheque, and took it off the liability account without a word to anyone. */
function entryByHand(): object {
  const line = {
    agencyId: null,
    taxRateId: null,
    base: null,
    baseDebit: null,
    baseCredit: null,
    description: 'Cheque 1187',
  }
  return {
    number: '47990',
    bookingId: null,
    externalId: null,
    bookingRevision: null,
    postingDate: '2026-09-18',
    currency: 'USD',
    baseCurrency: 'USD',
    memo: 'Cheque 1187',
    voided: false,
    changedBy: 'the bookkeeper',
    changedAt: '2026-09-18T15:20:00Z',
    webAddress: null,
    lines: [
      { ...line, accountId: 'acct_2210', debit: '36.00', credit: '0.00' },
      { ...line, accountId: 'acct_1000', debit: '0.00', credit: '36.00' },
    ],
  }
}

/** The billing system with its quarter of documents, one of them at a rate that somebody typed in by hand. */
export function billingData(seed: number, webAddress: string): SystemData {
  const rates = RATES.map((rate) =>
    heldRate(`rate_${rate.code}`, rate, (code) => `auth_${code}`, { code: false }),
  )
  const typed = {
    id: 'rate_typed',
    value: { code: null, name: 'Port Lenox, Wendover', percent: '8.95', active: true, components: null },
  }
  const sales = quarter(seed)
  const idOf = new Map(sales.map(({ id, sale }) => [sale, id]))
  const parties = new Map(sales.map(({ sale }) => [sale.customer.id, sale.customer.name]))
  return {
    settings: { ...BASE, defaultItemTaxCode: 'GOODS' },
    objects: [
      ...AGENCIES.map(({ code, name }) => ({
        resource: 'agencies',
        id: `auth_${code}`,
        value: { code, name, liabilityAccountId: null },
      })),
      ...[...rates, typed].map((rate) => ({ resource: 'tax-rates', ...rate })),
      ...ITEMS.map((item) => ({
        resource: 'items',
        id: `item_${item.code}`,
        value: { code: item.code, kind: heldKind(item), ...inBilling(item) },
      })),
      ...[...parties].map(([id, name]) => {
        const claims = CLAIMANTS.find((c) => c.id === id)
        return {
          resource: 'parties',
          id,
          value: {
            name,
            address: null,
            exemption: claims
              ? {
                  reason: claims.claims,
                  certificate: claims.certificate?.number ?? null,
                  from: null,
                  to: null,
                }
              : null,
          },
        }
      }),
      ...BILLING_PARTIES.map(({ id, ...party }) => ({
        resource: 'parties',
        id,
        value: { ...party, address: null },
      })),
      // Originals stand before their credit notes: billing charges a credit by what it credits.
      ...sales.map(({ id, number, sale }) => ({
        resource: 'documents',
        id,
        value: documentOf(number, sale, sale.credits ? (idOf.get(sale.credits) ?? null) : null, webAddress),
      })),
    ],
  }
}

/** The answer key: what the ledger should hold of each document of a month in the end. The application never reads it. */
export function answers(seed: number, month: string): Answer[] {
  const sales = quarter(seed)
  return sales
    .filter(({ sale }) => sale.date.startsWith(month) && sale.status === 'open')
    .map(({ number, sale }) => {
      const earlier = sales
        .filter(
          (other) =>
            sale.credits !== null &&
            other.sale.credits === sale.credits &&
            other.sale !== sale &&
            other.sale.date < sale.date,
        )
        .map((other) => other.sale)
      return { number, currency: sale.currency, ...rightTax(sale, rateOf, earlier) }
    })
}
