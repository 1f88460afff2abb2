import { DOCUMENT } from '@axion/contract'
import {
  lastDayOf,
  multiply,
  parseDecimal,
  parsePercent,
  ratio,
  currencyDigits,
  type Given,
  type HeldRate,
  type Holder,
  type Sale,
} from '@axion/core'
import type { Families } from '../../documents/families.ts'
import { taxDocumentOf, type Agreed, type StoredDocument } from '../../documents/units.ts'
import type { HeldSystem } from '../../setUp/held.ts'

/** Documents of which a draft is read, with what tells credit notes what they credit. */
export interface Read {
  /** The month that is worked: what is drafted holds from its first day where there is no document. */
  readonly month: string
  readonly documents: readonly StoredDocument[]
  readonly families: Families
}

/** What a baseline is drafted from, out of what systems hold and charged. */
export function givenOf(
  systems: readonly HeldSystem[],
  { month, documents, families }: Read,
  agreed: Agreed,
): Given {
  const bySystem = new Map(systems.map((system) => [system.row.system_id, system]))
  const sales = documents.flatMap((stored) => {
    const system = bySystem.get(stored.system_id)
    return system && !DOCUMENT[stored.kind].purchase ? [saleOf(stored, system, agreed, families)] : []
  })
  const days = sales.map(({ document }) => document.supplyDate).sort()
  return {
    // The ledger first: it is what all others are booked in.
    holders: [...systems]
      .sort((a, b) => Number(b.row.role === 'ledger') - Number(a.row.role === 'ledger'))
      .map((system) => holderOf(system, agreed.currency)),
    sales,
    seen: { from: `${(days[0] ?? month).slice(0, 7)}-01`, to: days.at(-1) ?? lastDayOf(month) },
    currency: agreed.currency,
    linked: (kind, holderId, objectId) => bySystem.get(holderId)?.linkOf(kind, objectId) ?? null,
    known: agreed.index.baseline,
  }
}

function saleOf(stored: StoredDocument, system: HeldSystem, agreed: Agreed, families: Families): Sale {
  const { decoded, document } = taxDocumentOf(stored, system, agreed, families(stored))
  return {
    id: `${stored.system_id}/${stored.document_id}`,
    holderId: stored.system_id,
    document: withItemCodes(document, families(stored)?.original ?? null),
    named: new Map(
      decoded.lines.map((line) => [line.id, { itemCode: line.itemCode, rateId: line.taxRateId }] as const),
    ),
    taxes: decoded.taxes.map(({ taxRateId: rateId, ...tax }) => ({ rateId, ...tax })),
  }
}

/** The original's lines, by the codes that their source names. */
function withItemCodes(document: Sale['document'], original: StoredDocument | null): Sale['document'] {
  if (!document.original || !original) return document
  const codes = new Map(original.value.lines.map((line) => [line.id, line.itemCode]))
  const credited = document.original.document
  return {
    ...document,
    original: {
      ...document.original,
      document: {
        ...credited,
        lines: credited.lines.map((line) => ({ ...line, itemId: codes.get(line.id) ?? null })),
      },
    },
  }
}

function holderOf({ row, ...held }: HeldSystem, currency: string): Holder {
  return {
    id: row.system_id,
    isLedger: row.role === 'ledger',
    defaultItemTaxCode: row.settings?.defaultItemTaxCode ?? null,
    rounding: row.settings?.rounding ?? null,
    agencies: held.agencies.map(({ id, value }) => ({
      id,
      code: value.code,
      name: value.name,
      account: held.accountNumber(value.liabilityAccountId),
    })),
    rates: held.rates.map((rate) => heldRateOf(rate, currency)),
    codes: held.codes.map(({ id, value }) => ({ id, code: value.code, name: value.name })),
    items: held.items.map(({ id, value }) => ({
      id,
      code: value.code,
      name: value.name,
      kind: value.kind,
      itemTaxCode: value.itemTaxCode,
    })),
    parties: held.parties.map(({ id, value }) => ({
      id,
      name: value.name,
      claims: value.exemption?.reason ?? null,
      address: value.address,
    })),
    accounts: held.accounts.map(({ value }) => value),
    methods: held.methods.map(({ id, value }) => ({
      id,
      code: value.code,
      name: value.name,
      kind: value.kind,
    })),
    locations: held.locations.map(({ id, value }) => ({ id, ...value })),
  }
}

function heldRateOf({ id, value }: HeldSystem['rates'][number], currency: string): HeldRate {
  const minor = ratio(10n ** BigInt(currencyDigits(currency)))
  return {
    id,
    code: value.code,
    name: value.name,
    percent: parsePercent(value.percent),
    active: value.active,
    components:
      value.components?.map((component) => ({
        agencyId: component.agencyId,
        name: component.name,
        percent: parsePercent(component.percent),
        perUnit: component.perUnit === null ? null : multiply(parseDecimal(component.perUnit), minor),
        onTopOf: component.onTopOf,
        from: component.from,
        to: component.to,
      })) ?? null,
  }
}
