import {
  indexBaseline,
  parsePercent,
  ratio,
  parseDecimal,
  type Baseline,
  type BaselineIndex,
  type Certificate,
  type CodeRule,
  type Party,
  type TaxDocument,
} from '../../src/index.ts'
import type { Sale } from './calculator.ts'
import { AGENCIES, accountOf, BASE, COMPONENTS, CURRENCIES, HOME, PLACES, placeOf, REGIONS } from './world.ts'

const SINCE = { from: '2020-01-01', to: null }
const addressOf = (id: string): TaxDocument['shipTo'] => ({
  country: 'XA',
  region: `XA-${placeOf(id).region}`,
  city: null,
  postalCode: placeOf(id).postalCode,
})
const rule = (jurisdictionId: string, itemTaxCode: string, treatment: CodeRule['treatment']): CodeRule => ({
  id: `${jurisdictionId}-${itemTaxCode}`,
  jurisdictionId,
  itemTaxCode,
  treatment,
  percent: null,
  perUnit: null,
  threshold: null,
  cap: null,
  currency: null,
  recoverable: null,
  valid: SINCE,
})
const party = (id: string, claims: string | null): Party => ({
  id,
  name: id,
  claims,
  catchAll: false,
  address: null,
})
const certificate = (partyId: string, to: string | null): Certificate => ({
  id: `c-${partyId}`,
  number: partyId,
  partyId,
  reason: 'farm',
  regionIds: REGIONS.map((r) => r.id),
  valid: { from: '2020-01-01', to },
})

/** The same country as the baseline that the core is given. */
export function truth(): BaselineIndex {
  const jurisdictions: Baseline['jurisdictions'] = [
    { id: 'XA', name: 'XA', level: 'country', parentId: null, agencyId: null, covers: [{ country: 'XA' }] },
    ...COMPONENTS.map((c) => {
      const region = REGIONS.find((r) => r.id === c.jurisdiction)
      return region
        ? {
            id: c.jurisdiction,
            name: c.jurisdiction,
            level: 'region' as const,
            parentId: 'XA',
            agencyId: c.agency,
            covers: [{ country: 'XA', region: `XA-${c.jurisdiction}` }],
          }
        : {
            id: c.jurisdiction,
            name: c.jurisdiction,
            level: 'district' as const,
            parentId: c.jurisdiction.slice(0, 2),
            agencyId: c.agency,
            covers: PLACES.filter(
              (p) => p.components.includes(c) || p.components.some((o) => o.jurisdiction === c.jurisdiction),
            ).map((p) => ({ country: 'XA', region: `XA-${p.region}`, postalCode: p.postalCode })),
          }
    }),
  ]
  return indexBaseline({
    homeAddress: addressOf(HOME),
    agencies: AGENCIES.map((id) => ({ id, code: id, name: id })),
    jurisdictions,
    rateVersions: COMPONENTS.flatMap((c) =>
      c.percents.map(([from, percent], at) => ({
        id: `${c.jurisdiction}@${from}`,
        jurisdictionId: c.jurisdiction,
        percent: parsePercent(percent),
        onTopOf: [],
        valid: { from, to: c.percents[at + 1] ? '2026-08-31' : null },
      })),
    ),
    combinedRates: PLACES.map((p) => ({
      id: p.id,
      code: p.id,
      name: p.id,
      jurisdictionIds: p.components.map((c) => c.jurisdiction),
      itemTaxCode: null,
      valid: SINCE,
    })),
    itemTaxCodes: ['GOODS', 'FOOD', 'SHIP'].map((id) => ({ id, name: id })),
    items: [],
    codeRules: REGIONS.flatMap((r) => [
      rule(r.id, 'GOODS', 'standard'),
      rule(r.id, 'FOOD', 'exempt'),
      rule(r.id, 'SHIP', r.shipping === 'follows' ? 'follows-goods' : r.shipping),
    ]),
    registrations: AGENCIES.map((agencyId) => ({
      id: agencyId,
      agencyId,
      number: agencyId,
      basis: null,
      frequency: null,
      valid: SINCE,
    })),
    roundings: REGIONS.map((r) => ({
      id: r.id,
      jurisdictionId: r.id,
      place: { level: 'document', unit: 'component', tie: 'half-away' },
      valid: SINCE,
    })),
    regionRules: REGIONS.map((r) => ({
      id: r.id,
      jurisdictionId: r.id,
      originLevels: [],
      taxedBy: 'supply-date',
      taxedBeforeDiscount: r.taxedBeforeDiscount,
      exemptionReasons: ['farm'],
      valid: SINCE,
    })),
    parties: [party('plain', null), party('farm', 'farm'), party('lapsed', 'farm')],
    certificates: [certificate('farm', null), certificate('lapsed', '2026-03-31')],
    thresholds: [],
    collecting: [],
    paymentMethods: [],
    locations: [],
    dimensions: [],
    lineRules: [],
    defaults: { itemTaxCode: null, partiesTaxable: null, newItems: 'left-open' },
    postingRules: [
      ...(
        [
          ['receivable', '1100'],
          ['revenue', '4000'],
          ['shipping', '4100'],
        ] as const
      ).map(([kind, account]) => ({ id: kind, kind, agencyId: null, only: null, account, valid: SINCE })),
      ...AGENCIES.map((agencyId) => ({
        id: agencyId,
        kind: 'tax' as const,
        agencyId,
        only: null,
        account: accountOf(agencyId),
        valid: SINCE,
      })),
    ],
  })
}

/** A sale as the core is asked about it. A credit note takes all of an invoice of the same day back. */
export function documentOf(sale: Sale): TaxDocument {
  if (sale.kind === 'invoice') return asInvoice(sale)
  const invoice = asInvoice(sale)
  return {
    ...invoice,
    kind: 'credit-note',
    discount: -invoice.discount,
    lines: invoice.lines.map((line) => ({ ...line, amount: -line.amount, credits: line.id })),
    original: {
      document: { ...invoice, id: `${sale.number}-of`, number: `${sale.number}-of` },
      before: new Map(),
    },
  }
}

function asInvoice(sale: Sale): TaxDocument {
  const { digits, rate } = CURRENCIES[sale.currency] as { digits: number; rate: string }
  const perUnit = parseDecimal(rate)
  const exchange =
    sale.currency === BASE
      ? null
      : { currency: BASE, rate: ratio(perUnit.numerator * 100n, perUnit.denominator * 10n ** BigInt(digits)) }
  return {
    id: sale.number,
    number: sale.number,
    kind: 'invoice',
    documentDate: sale.date,
    supplyDate: sale.date,
    paymentDate: null,
    currency: sale.currency,
    exchange,
    partyId: sale.party,
    shipTo: addressOf(sale.place),
    shipFrom: addressOf(HOME),
    pricesIncludeTax: sale.inside,
    discount: sale.discount,
    reimbursed: 0n,
    original: null,
    lines: sale.lines.map((l) => ({
      id: l.id,
      kind: l.kind,
      itemTaxCode: l.kind === 'shipping' ? 'SHIP' : l.code,
      quantity: ratio(l.quantity),
      amount: l.amount,
      credits: null,
      ...(sale.names === null
        ? {}
        : { names: { systemRateId: `r-${sale.names}`, combinedRateId: sale.names } }),
    })),
  }
}
