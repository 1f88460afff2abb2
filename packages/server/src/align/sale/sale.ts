import { say, sayRounding, type SaleAsked, type SaleView } from '@axion/contract'
import {
  agencyBase,
  covers,
  decided,
  determine,
  formatAmount,
  formatPercent,
  groupBy,
  isTaxed,
  parseAmount,
  parseDecimal,
  sum,
  type Address,
  type BaselineIndex,
  type TaxDocument,
  type TaxRow,
} from '@axion/core'
import { limitsOf } from '../../connect/fresh.ts'
import type { Books } from '../../database/connection.ts'
import { UNTAXED } from '../../documents/reasons.ts'
import { Problem } from '../../faults/problem.ts'
import { readDeparting } from '../../setUp/departing.ts'
import { perUnitText } from '../../setUp/compare.ts'
import { basisOf } from '../build.ts'
import { systemsOf } from './systems.ts'

/**
 * What tax a sale would bear, by the baseline as it stands on its day, and what each connected system's set-up would come to. Nothing is kept.
 * @throws AXION_NOT_AN_AMOUNT, AXION_NOT_FOUND of a place that it is sent from
 */
export async function saleView(books: Books, asked: SaleAsked): Promise<SaleView> {
  const { currency } = books
  const basis = await basisOf(books, asked.date.slice(0, 7))
  const { index } = basis
  const document = decided(documentOf(asked, index, currency), index)
  const determination = determine(document, index)
  const { rows, lines, findings, complete, rounding, jurisdictions } = determination
  const net = sum(lines.map((line) => line.net))
  const tax = sum(rows.map((row) => row.tax))
  const told = (amount: bigint): string | null => (complete ? formatAmount(amount, currency) : null)
  const [line] = document.lines
  return {
    currency,
    item: named(index.item(asked.item ?? '')),
    party: named(index.party(asked.party ?? '')),
    places: jurisdictions.map(({ name }) => name),
    itemTaxCode: line?.itemTaxCode ?? null,
    rules: index.baseline.lineRules
      .filter(({ id }) => line?.decision?.rules.includes(id))
      .map(({ name }) => name),
    passedOver: index.baseline.lineRules
      .filter(
        ({ when, valid }) =>
          covers(valid, asked.date) &&
          (when.stated !== null || when.saleKind !== null || when.system !== null),
      )
      .map(({ name }) => name),
    net: told(net),
    tax: told(tax),
    total: told(net + tax),
    rows: [...groupBy(rows, (row) => row.jurisdictionId).values()].flatMap((of) =>
      rowsOf(of, { index, currency, date: asked.date }),
    ),
    rounding: rounding && sayRounding(rounding),
    findings: findings.map(({ code, facts }) => say(code, facts)),
    systems: complete
      ? systemsOf(
          { basis, document, determination, item: asked.item ?? null, currency },
          await readDeparting(books),
          await limitsOf(
            books,
            basis.systems.map(({ held }) => held.row),
          ),
        )
      : [],
  }
}

function documentOf(asked: SaleAsked, index: BaselineIndex, currency: string): TaxDocument {
  const { country, region = null, city = null, postalCode = null, date } = asked
  const item = asked.item || null
  return {
    ...{ id: 'sale', number: '', kind: 'invoice' },
    ...{ documentDate: date, supplyDate: date, paymentDate: date, currency, exchange: null },
    partyId: asked.party || null,
    shipTo: { country, region, city: city || null, postalCode: postalCode || null },
    shipFrom: sentFrom(asked.sentFrom || null, index),
    pricesIncludeTax: asked.inside === 'yes',
    ...{ discount: 0n, reimbursed: 0n },
    lines: [
      {
        ...{ id: '1', kind: asked.kind },
        itemTaxCode: item === null ? null : (index.itemTaxCodeOf(item, date) ?? null),
        quantity: parseDecimal(asked.quantity),
        amount: parseAmount(asked.amount, currency),
        itemId: item,
        text: (item !== null && index.item(item)?.name) || '',
      },
    ],
    original: null,
  }
}

function named(of: { readonly id: string; readonly name: string } | undefined): SaleView['item'] {
  return of ? { id: of.id, name: of.name } : null
}

/** @throws AXION_NOT_FOUND */
function sentFrom(from: string | null, index: BaselineIndex): Address | null {
  if (from === null) return null
  const address = from === 'home' ? index.baseline.homeAddress : index.location(from)?.address
  if (!address)
    throw new Problem('AXION_NOT_FOUND', { what: from === 'home' ? 'home address' : `location ${from}` })
  return address
}

const TAXED: Readonly<Partial<Record<TaxRow['reason'], string>>> = {
  standard: 'at its rate',
  reduced: 'at a reduced rate',
  'per-unit': 'for each unit',
}

/** The rows of one jurisdiction: a price that is taxed in part has several. */
function rowsOf(
  of: readonly TaxRow[],
  {
    index,
    currency,
    date,
  }: { readonly index: BaselineIndex; readonly currency: string; readonly date: string },
): SaleView['rows'][number][] {
  return [...groupBy(of, (row) => `${row.reason} ${row.percent}`).values()].flatMap((alike) => {
    const [row] = alike
    if (!row) return []
    const taxed = isTaxed(row)
    return [
      {
        jurisdiction: index.jurisdiction(row.jurisdictionId)?.name ?? row.jurisdictionId,
        agency: index.agency(row.agencyId)?.name ?? row.agencyId,
        account: index.postingRuleOn('tax', row.agencyId, date)?.account ?? null,
        rate: taxed
          ? row.perUnit
            ? `${perUnitText(row.perUnit, currency).replace(/0+$/, '')} a unit`
            : `${formatPercent(row.percent)} %${row.onTopOf.length > 0 ? ', on tax too' : ''}`
          : null,
        base: formatAmount(taxed ? agencyBase(alike) : sum(alike.map(({ net }) => net)), currency),
        tax: formatAmount(sum(alike.map(({ tax }) => tax)), currency),
        taxed,
        reason: TAXED[row.reason] ?? UNTAXED[row.reason] ?? row.reason,
        from: sourcesOf(row, index),
      },
    ]
  })
}

/** What a row was worked out from, in words. */
function sourcesOf({ source }: TaxRow, index: BaselineIndex): string[] {
  const [, since = ''] = (source.rateVersion ?? '').split('@')
  const rule = source.codeRule === null ? undefined : index.codeRule(source.codeRule)
  const registration = index.baseline.registrations.find(({ id }) => id === source.registration)
  const certificate = index.baseline.certificates.find(({ id }) => id === source.certificate)
  return [
    ...(since > '0001-01-01' ? [`the rate since ${since}`] : []),
    ...(rule ? [`the rule of ${rule.itemTaxCode}: ${rule.treatment.replaceAll('-', ' ')}`] : []),
    ...(certificate ? [`certificate ${certificate.number}`] : []),
    ...(registration ? [`registration ${registration.number}`] : []),
  ]
}
