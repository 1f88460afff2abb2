import type { Address, Jurisdiction, RoundingPlace } from '../baseline/baseline.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import { isTaxed, type Assumed, type Determination } from '../determination/determination.ts'
import type { TaxDocument } from '../determination/document.ts'
import { placeOf } from '../determination/place.ts'
import { priced } from '../determination/prices.ts'
import { taxAt } from '../determination/taxRounding.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, currencyDigits, sum } from '../money/currency.ts'
import { ratio, type Percent } from '../money/decimal.ts'
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
      return {
        ...on,
        document: {
          ...on.document,
          lines: on.document.lines.map((line) =>
            line.kind !== 'shipping' && (assumption.lineId === null || line.id === assumption.lineId)
              ? { ...line, itemTaxCode: assumption.itemTaxCode }
              : line,
          ),
        },
      }
    case 'rounding':
      return assumed({ rounding: assumption.place })
    case 'rate-date':
      return assumed({ ratesOn: assumption.date })
    case 'rate-place': {
      const jurisdictions = jurisdictionsAt(assumption.place, of)
      return jurisdictions && assumed({ jurisdictions })
    }
    case 'component-lost':
      return assumed({ without: assumption.jurisdictionId })
    case 'one-agency':
      return voice((v) => ({
        ...v,
        facts: v.facts.map((fact) => ({
          ...fact,
          agency: assumption.agencyId,
          account: accountOf(assumption.agencyId, of),
        })),
      }))
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

function jurisdictionsAt(
  place: RatePlace,
  { document, determination, index }: Recomputable,
): readonly Jurisdiction[] | null {
  const party = document.partyId === null ? undefined : index.party(document.partyId)
  const rated = document.original?.document ?? document
  const address: Address | null = {
    origin: rated.shipFrom,
    destination: rated.shipTo,
    party: party?.address ?? null,
    entity: index.baseline.homeAddress,
  }[place]
  if (!address) return null
  const { jurisdictions, findings } = placeOf(address, index.baseline.jurisdictions)
  if (findings.length > 0 || sameJurisdictions(jurisdictions, determination.jurisdictions)) return null
  return jurisdictions
}

function sameJurisdictions(a: readonly Jurisdiction[], b: readonly Jurisdiction[]): boolean {
  return a.length === b.length && a.every(({ id }, at) => id === b[at]?.id)
}

function accountOf(agencyId: string, { document, index }: Recomputable): string | null {
  return index.postingRuleOn('tax', agencyId, document.documentDate)?.account ?? null
}

/** A flat rate on what is taxed, at the baseline's level: it has a total and no split. */
function flatly(voice: VoiceFacts, percent: Percent, { document, determination }: Recomputable): VoiceFacts {
  const lines = document.lines.map((line) => {
    const own = determination.rows.filter((row) => row.lineId === line.id && isTaxed(row))
    const base = own.reduce((most, row) => (absolute(row.base) > absolute(most) ? row.base : most), 0n)
    return {
      lineId: line.id,
      quantity: line.quantity,
      isReturn: base < 0n,
      components: base === 0n ? [] : [{ jurisdictionId: '', percent, perUnit: null, onTopOf: [], base }],
    }
  })
  const place: RoundingPlace = {
    level: determination.rounding?.level ?? 'document',
    unit: 'combined',
    tie: determination.rounding?.tie ?? 'half-away',
  }
  const [any] = voice.facts
  if (!any) return voice
  const fact: TaxFact = {
    ...any,
    lineId: null,
    jurisdictionId: null,
    agency: null,
    account: null,
    base: null,
    inBase: null,
    source: null,
    tax: sum(taxAt(place, lines).flat()),
  }
  return { ...voice, facts: [fact] }
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
    priced(document, false).map(({ line, amount, discount }) => [line.id, { amount, discount }]),
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
