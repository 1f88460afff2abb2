import { saying, type BookingRequest, type FactsOf, type TaxRate } from '@axion/contract'
import {
  formatAmount,
  foretell,
  parseAmount,
  parseDecimal,
  parsePercent,
  multiply,
  PLACES,
  ratio,
  sameTaxes,
  sum,
  type BaselineIndex,
  type ForetoldTax,
  type HeldComponent,
  type Journal,
  type LineToTax,
} from '@axion/core'
import type { Held, HeldSystem } from '../setUp/held.ts'
import type { Remark } from './remark.ts'

/** Codes of what a ledger would do otherwise. */
export const FORETOLD_PREFIX = 'AXION_FORETOLD_'
/** SQL, of a booking `b`: the ledger is foretold to refuse it, or to book it otherwise. */
export const FORETOLD = `exists (select from jsonb_array_elements(b.findings) f where starts_with(f->>'code', '${FORETOLD_PREFIX}'))`

const MINOR = (currency: string): bigint => parseAmount('1', currency)

/**
 * What a ledger would make of a booking, before anything leaves: whether it would refuse it, and, where it computes tax itself, whether that
 * tax would be another or stand elsewhere. From what was pulled of its rates, their dates and names, its switches, its accounts and its rounding.
 * Where it does not say how it rounds, only what no place of rounding gives is told.
 */
export function foretold(
  request: BookingRequest,
  journal: Journal,
  ledger: HeldSystem,
  index: BaselineIndex,
): Remark[] {
  const { settings, about, name } = ledger.row
  const refusals = [
    ...(settings?.lockedThrough && request.postingDate <= settings.lockedThrough
      ? [`its books are locked through ${settings.lockedThrough}`]
      : []),
    ...(settings && settings.currencies.length > 0 && !settings.currencies.includes(request.currency)
      ? [`${request.currency} is not in use there`]
      : []),
    ...(about.taxComputation === 'by-rate' ? ratesRefused(request, ledger) : []),
  ]
  if (refusals.length > 0)
    return [...new Set(refusals)].map((why) =>
      remark('AXION_FORETOLD_REFUSAL', { ledger: name, why, number: request.number }),
    )
  if (about.taxComputation !== 'by-rate') return []
  const should = taxesOf(journal, request.kind === 'credit-note' ? -1n : 1n)
  const would = settings?.taxEnabled === false ? [] : wouldBook(request, ledger, should)
  return would === null ? [] : differences(would, should, { request, ledger, index })
}

function remark<C extends Remark['code']>(code: C, facts: FactsOf<C>): Remark {
  return { ...saying(code, facts), blocks: false }
}

function taxesOf({ lines }: Journal, sign: bigint): ForetoldTax[] {
  return lines
    .filter((line) => line.role === 'tax')
    .map(({ agencyId, account, debit, credit }) => ({ agencyId, account, tax: (credit - debit) * sign }))
}

function rateFor(line: BookingRequest['lines'][number], ledger: HeldSystem): Held<TaxRate> | undefined {
  const { taxRate } = line
  if (taxRate === null) return undefined
  return ledger.rates.find((rate) =>
    'id' in taxRate ? rate.id === taxRate.id : rate.value.name === taxRate.name && rate.value.active,
  )
}

function ratesRefused(request: BookingRequest, ledger: HeldSystem): string[] {
  return request.lines.flatMap((line) => {
    if (line.taxRate === null) return []
    const held = rateFor(line, ledger)
    const called = 'name' in line.taxRate ? line.taxRate.name : (held?.value.name ?? line.taxRate.id)
    if (!held) return [`it has no rate “${called}”`]
    return held.value.active ? [] : [`its rate “${called}” is switched off`]
  })
}

/** By agency and account; null where what it holds does not tell. */
function wouldBook(
  request: BookingRequest,
  ledger: HeldSystem,
  should: readonly ForetoldTax[],
): readonly ForetoldTax[] | null {
  const { currency } = request
  const lines: LineToTax[] = []
  for (const line of request.lines) {
    const held = rateFor(line, ledger)
    if (!held) continue
    const components = componentsOn(held.value, request, ledger)
    if (components === null) return null
    lines.push({
      id: line.id,
      rateId: held.id,
      components,
      quantity: parseDecimal(line.quantity),
      taxable: parseAmount(line.taxable, currency),
      gross: request.pricesIncludeTax && line.gross !== null ? parseAmount(line.gross, currency) : null,
    })
  }
  const stated = ledger.row.settings?.rounding ?? null
  const each = (stated ? [stated] : PLACES).map((place) => foretell(lines, place))
  const byAgency = (taxes: readonly ForetoldTax[]): ForetoldTax[] =>
    taxes.map((tax) => ({ ...tax, account: null }))
  return each.find((one) => one !== null && sameTaxes(byAgency(one), byAgency(should))) ?? each[0] ?? null
}

/** A rate's components on the booking's date, under the baseline's agencies and the ledger's accounts. */
function componentsOn(
  rate: TaxRate,
  { postingDate, currency }: BookingRequest,
  ledger: HeldSystem,
): HeldComponent[] | null {
  if (rate.components === null)
    return [
      { agencyId: null, account: null, percent: parsePercent(rate.percent), perUnit: null, onTopOf: [] },
    ]
  const all = rate.components
  const active = all.filter(
    (c) => (c.from === null || postingDate >= c.from) && (c.to === null || postingDate <= c.to),
  )
  // An amount for each unit is in the books' currency: what it comes to in another is the ledger's to say.
  if (active.some((c) => c.perUnit !== null) && currency !== ledger.row.settings?.baseCurrency) return null
  return active.map((c): HeldComponent => {
    const agency = ledger.agencies.find((a) => a.id === c.agencyId)
    const account = ledger.accounts.find((a) => a.id === agency?.value.liabilityAccountId)
    return {
      agencyId: ledger.agencyOf(c.agencyId),
      account: account?.value.number ?? null,
      percent: parsePercent(c.percent),
      perUnit: c.perUnit === null ? null : multiply(parseDecimal(c.perUnit), ratio(MINOR(currency))),
      onTopOf: c.onTopOf.map((place) => active.indexOf(all[place] as never)).filter((place) => place >= 0),
    }
  })
}

function differences(
  would: readonly ForetoldTax[],
  should: readonly ForetoldTax[],
  {
    request,
    ledger,
    index,
  }: { readonly request: BookingRequest; readonly ledger: HeldSystem; readonly index: BaselineIndex },
): Remark[] {
  // What the ledger does not tell by agency is compared by account, and what it tells by neither in all.
  const named = [...would].every((tax) => tax.agencyId !== null)
  const accounted = [...would].every((tax) => tax.account !== null)
  const keyOf = (tax: ForetoldTax): string =>
    named ? (tax.agencyId ?? '') : accounted ? (tax.account ?? '') : ''
  const keys = [...new Set([...should, ...would].map(keyOf))]
  const of = (taxes: readonly ForetoldTax[], key: string): ForetoldTax[] =>
    taxes.filter((tax) => keyOf(tax) === key)
  const { currency } = request
  const by = (): string =>
    ledger.row.settings?.taxEnabled === false
      ? 'since tax is switched off there'
      : `by its rate ${ratesInQuestion(request, ledger, index).join(', ')}`
  return keys.flatMap((key): Remark[] => {
    const [theirs, ours] = [of(would, key), of(should, key)]
    const [will, ought] = [sum(theirs.map((t) => t.tax)), sum(ours.map((t) => t.tax))]
    const facts = {
      ledger: ledger.row.name,
      agency: named ? (index.agency(key)?.name ?? key) : key === '' ? 'tax' : key,
      number: request.number,
    }
    if (will !== ought)
      return [
        remark('AXION_FORETOLD_AMOUNT', {
          ...facts,
          by: by(),
          would: formatAmount(will, currency),
          should: formatAmount(ought, currency),
          currency,
        }),
      ]
    const [there, here] = [theirs[0]?.account ?? null, ours[0]?.account ?? null]
    return named && theirs.length > 0 && there !== here
      ? [remark('AXION_FORETOLD_ACCOUNT', { ...facts, theirs: there ?? 'none', ours: here ?? 'none' })]
      : []
  })
}

/** The rates that the ledger has otherwise than agreed, of those on a booking; all of them, where none is. */
function ratesInQuestion(request: BookingRequest, ledger: HeldSystem, index: BaselineIndex): string[] {
  const held = [...new Set(request.lines.flatMap((line) => rateFor(line, ledger) ?? []))]
  const percentsOf = (percents: readonly bigint[]): string => [...percents].sort().join(' ')
  const otherwise = held.filter((rate) => {
    const combined = index.combinedRate(ledger.combinedRateOf(rate.id) ?? '')
    const components = componentsOn(rate.value, request, ledger)
    return (
      !combined ||
      components === null ||
      percentsOf(components.map((c) => c.percent)) !==
        percentsOf(index.componentsOn(combined, request.postingDate).map((c) => c.percent ?? -1n))
    )
  })
  return (otherwise.length > 0 ? otherwise : held).map((rate) => rate.value.name).sort()
}
