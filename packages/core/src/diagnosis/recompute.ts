import type { Address, Jurisdiction, RoundingPlace } from '../baseline/baseline.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import { isTaxed, type Assumed, type Determination, type RatedAs } from '../determination/determination.ts'
import type { TaxDocument } from '../determination/document.ts'
import { priced } from '../determination/prices.ts'
import { sourcedAt, type Sourced } from '../determination/sourcing.ts'
import { extractAt, taxAt, type InclusiveLine } from '../determination/taxRounding.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, currencyDigits, sum, type MinorUnits } from '../money/currency.ts'
import { multiply, PERCENT_SCALE, ratio, subtract, type Percent } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { expectedVoice, type TaxFact, type VoiceFacts } from '../tieout/facts.ts'
import { remembered } from '../remembered.ts'
import type { Assumption, RatePlace } from './assumptions.ts'
import { otherPlaces } from './candidates.ts'

/** A unit as the baseline sees it, to be recomputed from. */
export interface Recomputable {
  readonly document: TaxDocument
  readonly determination: Determination
  readonly expected: VoiceFacts
  readonly index: BaselineIndex
}

/** What an assumption changes: the document, what is assumed of the baseline, or the voice that comes of both. */
export interface Changed {
  readonly document: TaxDocument
  readonly assumed: Assumed
  readonly voice: readonly ((voice: VoiceFacts, of: Recomputable) => VoiceFacts)[]
}

export const UNCHANGED = (document: TaxDocument): Changed => ({ document, assumed: {}, voice: [] })

/**
 * A change with one more assumption in it.
 * @returns null where the assumption does not concern the document, or would undo what is assumed already
 */
export function assume(assumption: Assumption, on: Changed, of: Recomputable): Changed | null {
  const { index } = of
  const assumed = (more: Assumed): Changed | null =>
    Object.keys(more).some((key) => key in on.assumed) ? null : { ...on, assumed: { ...on.assumed, ...more } }
  const voice = (change: Changed['voice'][number]): Changed => ({ ...on, voice: [...on.voice, change] })
  switch (assumption.kind) {
    case 'component-percent': {
      const rate = index.combinedRate(assumption.combinedRateId)
      if (!rate || !combinedRatesOf(of.document, of.determination, index).includes(rate.id)) return null
      return assumed({
        percentOf: (id, code) =>
          id === assumption.jurisdictionId && code === rate.itemTaxCode ? assumption.percent : undefined,
      })
    }
    case 'liability-account':
      return voice((v) => ({
        ...v,
        facts: v.facts.map((fact) =>
          fact.agency === assumption.agencyId ? { ...fact, account: assumption.account } : fact,
        ),
      }))
    case 'flat-rate':
      return voice((v) => flatly(v, assumption.percent, of))
    case 'default-code':
      return { ...on, document: onCode(on.document, assumption.itemTaxCode, assumption.lineId) }
    case 'rounding':
      return assumed({ rounding: assumption.place })
    case 'rate-date':
      return assumed({ ratesOn: assumption.date })
    case 'rate-place': {
      const place = sourcedFrom(assumption.place, of)
      return place && assumed(assumption.whole ? { place } : { jurisdictions: place.jurisdictions })
    }
    case 'named-rate': {
      const ratedAs = ratesNamed(assumption.systemRateId, of)
      return ratedAs && assumed({ ratedAs })
    }
    case 'component-lost':
      return assumption.dropped
        ? voice((v) => ({
            ...v,
            facts: v.facts.filter((fact) => fact.jurisdictionId !== assumption.jurisdictionId),
          }))
        : assumed({ without: assumption.jurisdictionId })
    case 'one-agency':
      return voice((v, { document }) =>
        reconverted(
          {
            ...v,
            facts: v.facts.map((fact) => ({
              ...fact,
              agency: assumption.agencyId,
              account: accountOf(assumption.agencyId, of),
            })),
          },
          document,
        ),
      )
    case 'exemption-ignored':
      return assumed({ certificates: 'ignored' })
    case 'exempted-without-certificate':
      return assumed({ certificates: 'everyone' })
    case 'shipping':
      return assumed({ shipping: assumption.taxed ? 'taxed' : 'untaxed' })
    case 'discount':
      return assumed({ taxedBeforeDiscount: !assumption.beforeTax })
    case 'prices':
      return assumed({ pricesIncludeTax: assumption.includeTax })
    case 'sign':
      return voice(mirrored)
    case 'line-left-out': {
      const document = without(on.document, assumption.lineId, of)
      return document && { ...on, document }
    }
    case 'exchange-at-one':
      return on.document.exchange && { ...on, document: atParity(on.document) }
  }
}

const AT_PLACES = new WeakMap<Determination, Map<string, VoiceFacts | null>>()

/** The expected voice at another rounding place; asked for by the facet `rounding` and by the diagnosis, and worked out once. */
function roundedAt(place: RoundingPlace, of: Recomputable): VoiceFacts | null {
  return remembered(AT_PLACES, of.determination, `${place.level} ${place.unit} ${place.tie}`, () => {
    const determination = determine(of.document, of.index, { rounding: place })
    return determination.complete ? expectedVoice(of.document, determination, of.index) : null
  })
}

/** The expected voice at every other place of K1, for the facet `rounding`. */
export function otherRoundings(of: Recomputable): VoiceFacts[] {
  const { rounding, complete } = of.determination
  if (!rounding || !complete) return []
  return otherPlaces(rounding).flatMap((place) => roundedAt(place, of) ?? [])
}

/** @returns null where the baseline cannot work the changed document out */
export function recompute({ document, assumed, voice }: Changed, of: Recomputable): VoiceFacts | null {
  if (document === of.document && voice.length === 0 && assumed.rounding && Object.keys(assumed).length === 1)
    return roundedAt(assumed.rounding, of)
  const untouched = document === of.document && Object.keys(assumed).length === 0
  const determination = untouched ? of.determination : determine(document, of.index, assumed)
  if (!determination.complete) return null
  const plain = untouched ? of.expected : expectedVoice(document, determination, of.index)
  return voice.reduce((changed, change) => change(changed, { ...of, document, determination }), plain)
}

/** The baseline's combined rates that a document's lines are taxed at, by their item tax codes. */
export function combinedRatesOf(
  document: TaxDocument,
  { rows }: Determination,
  index: BaselineIndex,
): string[] {
  const rated = document.original?.document ?? document
  const found = [...groupBy(rows.filter(isTaxed), (row) => row.lineId)].flatMap(([lineId, of]) => {
    const line = document.lines.find((l) => l.id === lineId)
    const rate = index.combinedRateOf(
      [...new Set(of.map((row) => row.jurisdictionId))],
      rated.supplyDate,
      line?.itemTaxCode,
    )
    return rate ? [rate.id] : []
  })
  return [...new Set(found)]
}

/** A default code holds for credits as for sales: the original is rated under it too. */
function onCode(document: TaxDocument, itemTaxCode: string, lineId: string | null): TaxDocument {
  const recoded = (of: TaxDocument, only: string | null): TaxDocument => ({
    ...of,
    lines: of.lines.map((line) =>
      line.kind !== 'shipping' && (only === null || line.id === only) ? { ...line, itemTaxCode } : line,
    ),
  })
  const credited = document.lines.find((line) => line.id === lineId)?.credits ?? null
  const { original } = document
  return {
    ...recoded(document, lineId),
    original:
      original === null || (lineId !== null && credited === null)
        ? original
        : { ...original, document: recoded(original.document, lineId === null ? null : credited) },
  }
}

function sourcedFrom(place: RatePlace, { document, determination, index }: Recomputable): Sourced | null {
  const party = document.partyId === null ? undefined : index.party(document.partyId)
  const rated = document.original?.document ?? document
  const address: Address | null = {
    origin: rated.shipFrom,
    destination: rated.shipTo,
    outlet: rated.outlet ?? null,
    party: party?.address ?? null,
    entity: index.baseline.homeAddress,
  }[place]
  if (!address) return null
  const sourced = sourcedAt(address, rated.supplyDate, index)
  const same = sameJurisdictions(sourced.jurisdictions, determination.jurisdictions)
  return sourced.findings.length > 0 || same ? null : sourced
}

/** What lines are taxed as by the rate that they name, line by line; null where it is the rate of the document's own place and of their items. */
function ratesNamed(
  systemRateId: string,
  { document, determination, index }: Recomputable,
): ReadonlyMap<string, RatedAs> | null {
  const rated = document.original?.document ?? document
  const levying = (of: readonly Jurisdiction[]): string =>
    of
      .map((j) => j.id)
      .filter(index.levies)
      .sort()
      .join(' ')
  const own = levying(determination.jurisdictions)
  const named = rated.lines.flatMap((line) => {
    const rate =
      line.names?.systemRateId === systemRateId ? index.combinedRate(line.names.combinedRateId) : undefined
    if (!rate) return []
    const { itemTaxCode } = rate
    const jurisdictions = rate.jurisdictionIds.flatMap((id) => index.jurisdiction(id) ?? [])
    const elsewhere = levying(jurisdictions) !== own
    const isReduced =
      line.itemTaxCode !== null &&
      jurisdictions.some(
        (j) => index.codeRuleOn(j.id, line.itemTaxCode ?? '', rated.supplyDate)?.treatment === 'reduced',
      )
    const otherwise = itemTaxCode === null ? isReduced : itemTaxCode !== line.itemTaxCode
    return elsewhere || otherwise ? [[line.id, { jurisdictions, itemTaxCode }] as const] : []
  })
  return named.length === 0 ? null : new Map(named)
}

function sameJurisdictions(a: readonly Jurisdiction[], b: readonly Jurisdiction[]): boolean {
  return a.length === b.length && a.every(({ id }, at) => id === b[at]?.id)
}

function accountOf(agencyId: string, { document, index }: Recomputable): string | null {
  return index.postingRuleOn('tax', agencyId, document.documentDate)?.account ?? null
}

/**
 * A flat rate on what is taxed, at the baseline's level: it has a total and no split. Inside prices that include tax it is taken out
 * of the gross, so that the total stays and net is what is left.
 */
function flatly(voice: VoiceFacts, percent: Percent, { document, determination }: Recomputable): VoiceFacts {
  const [any] = voice.facts
  if (!any) return voice
  const place: RoundingPlace = {
    level: determination.rounding?.level ?? 'document',
    unit: 'combined',
    tie: determination.rounding?.tie ?? 'half-away',
  }
  const taxed = document.lines.map((line) => {
    const own = determination.rows.filter((row) => row.lineId === line.id && isTaxed(row))
    const base = own.reduce((most, row) => (absolute(row.base) > absolute(most) ? row.base : most), 0n)
    return { line, base, inside: sum(own.map((row) => row.tax)) }
  })
  const before = sum(voice.facts.map((fact) => fact.tax))
  const tax = sum(
    document.pricesIncludeTax
      ? extractAt(
          place,
          taxed.map(({ base, inside }) => withinFlat(base + inside, percent)),
        ).flat()
      : taxAt(
          place,
          taxed.map(({ line, base }) => ({
            lineId: line.id,
            quantity: line.quantity,
            isReturn: base < 0n,
            components:
              base === 0n ? [] : [{ jurisdictionId: '', percent, perUnit: null, onTopOf: [], base }],
          })),
        ).flat(),
  )
  const fact: TaxFact = {
    ...any,
    lineId: null,
    jurisdictionId: null,
    agency: null,
    account: null,
    base: null,
    inBase: null,
    source: null,
    tax,
  }
  const nets = document.pricesIncludeTax
    ? voice.nets.map((n, at) => (at === 0 ? { ...n, net: n.net + before - tax } : n))
    : voice.nets
  return { ...voice, facts: [fact], nets }
}

function withinFlat(gross: MinorUnits, percent: Percent): InclusiveLine {
  const exact = multiply(ratio(gross), ratio(percent, PERCENT_SCALE + percent))
  return {
    gross,
    exactNet: subtract(ratio(gross), exact),
    components: gross === 0n ? [] : [{ key: '', exact }],
  }
}

/** One line an agency and account is what a ledger converts: facts that came together are converted as one. */
function reconverted(voice: VoiceFacts, { exchange }: TaxDocument): VoiceFacts {
  if (!exchange) return voice
  const inBase = new Map<TaxFact, MinorUnits>()
  for (const of of groupBy(voice.facts, (f) => `${f.agency ?? ''}|${f.account ?? ''}`).values()) {
    const whole = round(multiply(ratio(sum(of.map((f) => f.tax))), exchange.rate))
    of.forEach((fact, at) => inBase.set(fact, at === 0 ? whole : 0n))
  }
  return {
    ...voice,
    facts: voice.facts.map((fact) => ({
      ...fact,
      inBase: fact.inBase && { ...fact.inBase, tax: inBase.get(fact) ?? 0n },
    })),
  }
}

function mirrored(voice: VoiceFacts): VoiceFacts {
  return {
    facts: voice.facts.map((f) => ({
      ...f,
      tax: -f.tax,
      base: f.base === null ? null : -f.base,
      inBase: f.inBase && { ...f.inBase, tax: -f.inBase.tax },
    })),
    nets: voice.nets.map((n) => ({ ...n, net: -n.net })),
  }
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

function followsGoods(
  { itemTaxCode }: TaxDocument['lines'][number],
  { document, determination, index }: Recomputable,
): boolean {
  const date = (document.original?.document ?? document).supplyDate
  return (
    itemTaxCode !== null &&
    determination.jurisdictions.some(
      (j) => index.codeRuleOn(j.id, itemTaxCode, date)?.treatment === 'follows-goods',
    )
  )
}

/** The document without a line, which takes its shares of the discount and of shipping that follows the goods along. */
function without(document: TaxDocument, lineId: string, of: Recomputable): TaxDocument | null {
  const left = document.lines.find((line) => line.id === lineId)
  if (!left || document.lines.length < 2) return null
  const shares = new Map(
    priced(document, { taxedBeforeDiscount: false }).map(({ line, amount, discount }) => [
      line.id,
      { amount, discount },
    ]),
  )
  const goods = document.lines.filter(
    (line) => line.kind === 'goods' && line.amount < 0n === left.amount < 0n,
  )
  const weights = goods.map((line) => absolute(shares.get(line.id)?.amount ?? 0n))
  const place = goods.findIndex((line) => line.id === lineId)
  const lines = document.lines
    .filter((line) => line.id !== lineId)
    .map((line) => {
      const discountShare = shares.get(line.id)?.discount ?? 0n
      const carried =
        line.kind === 'shipping' &&
        left.kind === 'goods' &&
        followsGoods(line, of) &&
        weights.some((w) => w !== 0n)
          ? (allocate(line.amount, weights)[place] ?? 0n)
          : 0n
      return { ...line, amount: line.amount - carried, discountShare }
    })
  return { ...document, lines, discount: sum(lines.map((line) => line.discountShare)) }
}
