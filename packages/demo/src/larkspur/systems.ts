import { invoices } from './invoices.ts'
import { AGENCIES, RATES, totalPercent, type Component, type Rate } from './places.ts'

const COMPANY = { id: 'larkspur', name: 'Larkspur Apiary Supply' }
const BASE = { company: COMPANY, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'America/Chicago' }

export interface SystemData {
  readonly settings: object
  readonly objects: { readonly resource: string; readonly id: string; readonly value: unknown }[]
}

const OTHER_ACCOUNTS = [
  ['1000', 'Operating bank', 'bank'], ['1100', 'Accounts receivable', 'receivable'], ['3000', 'Retained earnings', 'equity'],
  ['4000', 'Sales', 'income'], ['4100', 'Shipping income', 'income'], ['5000', 'Cost of sales', 'expense'],
] as const

/** The ledger as its bookkeeper left it. What is wrong in it, Axion has to find. */
export function ledgerData(): SystemData {
  const swapped: Readonly<Record<string, string>> = { CPL: '2222', MCA: '2214' }
  const accounts = [...OTHER_ACCOUNTS.map(([number, name, type]) => ({ number, name, type })), ...AGENCIES.map((a) => ({ number: a.account, name: a.accountName, type: 'current-liability' }))]
  const agencies = AGENCIES.map(({ code, name, account }) => ({
    id: `agency_${code}`,
    value: { code: null, name: name.replace('Treasurer', 'Tresurer'), liabilityAccountId: `acct_${swapped[code] ?? account}` },
  }))
  const percentHere = (rate: Rate, c: Component): string => (rate.code === 'WN-FEN' && c.agency === 'HCT' ? '1.25' : c.percent)
  const rates = RATES.map((rate) => {
    const components = rate.components.map((c) => ({ ...c, percent: percentHere(rate, c) }))
    return {
      id: `tax_${rate.code}`,
      value: {
        code: rate.code, name: rate.name, percent: totalPercent({ ...rate, components }), active: true,
        components: components.map((c) => ({ agencyId: `agency_${c.agency}`, name: c.name, percent: c.percent, perUnit: null, onTopOf: [], from: null, to: null })),
      },
    }
  })
  return {
    settings: { ...BASE, keepsDocumentNumbers: false, lockedThrough: '2026-08-31', taxComputation: 'by-rate' },
    objects: [
      ...accounts.map((value) => ({ resource: 'accounts', id: `acct_${value.number}`, value })),
      ...agencies.map((agency) => ({ resource: 'agencies', ...agency })),
      ...rates.map((rate) => ({ resource: 'tax-rates', ...rate })),
    ],
  }
}

/** The billing system with its month of invoices, one of them at a rate that somebody typed in by hand. */
export function billingData(seed: number, month: string, webAddress: string): SystemData {
  const rates = RATES.map((rate) => ({
    id: `rate_${rate.code}`,
    value: {
      code: null, name: rate.name, percent: totalPercent(rate), active: true,
      components: rate.components.map((c) => ({ agencyId: `auth_${c.agency}`, name: c.name, percent: c.percent, perUnit: null, onTopOf: [], from: null, to: null })),
    },
  }))
  const typed = { id: 'rate_typed', value: { code: null, name: 'Port Lenox, Wendover', percent: '8.95', active: true, components: null } }
  return {
    settings: BASE,
    objects: [
      ...AGENCIES.map(({ code, name }) => ({ resource: 'agencies', id: `auth_${code}`, value: { code, name, liabilityAccountId: null } })),
      ...[...rates, typed].map((rate) => ({ resource: 'tax-rates', ...rate })),
      ...invoices(seed, month, webAddress).map((invoice) => ({ resource: 'documents', ...invoice })),
    ],
  }
}
