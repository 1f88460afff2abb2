import type { RoundingPlace } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import type { Percent } from '../money/decimal.ts'

/**
 * One changed assumption under which a unit is recomputed (K10). The first four are as a system's own snapshot holds them;
 * the others are mistakes that can be made with the baseline's own values. A default code is of one line's item, or, with a null
 * line, of all.
 */
export type Assumption =
  | {
      readonly kind: 'component-percent'
      readonly systemId: string
      readonly systemRateId: string
      readonly combinedRateId: string
      readonly jurisdictionId: string
      readonly percent: Percent
    }
  | {
      readonly kind: 'liability-account'
      readonly systemId: string
      readonly systemAgencyId: string
      readonly agencyId: string
      readonly account: string
    }
  | {
      readonly kind: 'flat-rate'
      readonly systemId: string
      readonly systemRateId: string
      readonly percent: Percent
    }
  | {
      readonly kind: 'default-code'
      readonly systemId: string
      readonly itemTaxCode: string
      readonly lineId: string | null
    }
  | { readonly kind: 'rounding'; readonly place: RoundingPlace }
  | { readonly kind: 'rate-date'; readonly date: IsoDate }
  /** `whole`: with that place's certificates, discount and rounding as well. */
  | { readonly kind: 'rate-place'; readonly place: RatePlace; readonly whole: boolean }
  /** `within`: all its places are the document's own, so that it is as well one of them lost. */
  | {
      readonly kind: 'named-rate'
      readonly systemRateId: string
      readonly combinedRateId: string
      readonly within: boolean
      readonly enteredBy: string | null
    }
  /** `dropped`: its amount is gone and the rest as it stood; else all is worked out without it. */
  | { readonly kind: 'component-lost'; readonly jurisdictionId: string; readonly dropped: boolean }
  | { readonly kind: 'one-agency'; readonly agencyId: string }
  | { readonly kind: 'exemption-ignored' }
  | { readonly kind: 'exempted-without-certificate' }
  | { readonly kind: 'shipping'; readonly taxed: boolean }
  | { readonly kind: 'discount'; readonly beforeTax: boolean }
  | { readonly kind: 'prices'; readonly includeTax: boolean }
  | { readonly kind: 'sign' }
  | { readonly kind: 'line-left-out'; readonly lineId: string }
  | { readonly kind: 'exchange-at-one' }

export type AssumptionKind = Assumption['kind']
export const RATE_PLACES = ['origin', 'destination', 'outlet', 'party', 'entity'] as const
export type RatePlace = (typeof RATE_PLACES)[number]

/** The same assumption on another document has the same key, and so have two ways of the same mistake: it makes one cause. */
export function causeKey(assumption: Assumption): string {
  switch (assumption.kind) {
    case 'component-percent':
      return [
        assumption.kind,
        assumption.systemId,
        assumption.systemRateId,
        assumption.jurisdictionId,
        assumption.percent,
      ].join('|')
    case 'liability-account':
      return [assumption.kind, assumption.systemId, assumption.systemAgencyId, assumption.account].join('|')
    case 'flat-rate':
      return [assumption.kind, assumption.systemId, assumption.systemRateId].join('|')
    case 'default-code':
      return [assumption.kind, assumption.systemId, assumption.itemTaxCode].join('|')
    case 'rounding':
      return [assumption.kind, assumption.place.level, assumption.place.unit, assumption.place.tie].join('|')
    case 'rate-date':
      return [assumption.kind, assumption.date].join('|')
    case 'rate-place':
      return [assumption.kind, assumption.place].join('|')
    case 'named-rate':
      return [assumption.kind, assumption.systemRateId].join('|')
    case 'component-lost':
      return [assumption.kind, assumption.jurisdictionId].join('|')
    case 'one-agency':
      return [assumption.kind, assumption.agencyId].join('|')
    case 'shipping':
      return [assumption.kind, assumption.taxed].join('|')
    case 'discount':
      return [assumption.kind, assumption.beforeTax].join('|')
    case 'prices':
      return [assumption.kind, assumption.includeTax].join('|')
    // Which line is the document's own matter: the mistake is the same.
    case 'line-left-out':
    case 'exemption-ignored':
    case 'exempted-without-certificate':
    case 'sign':
    case 'exchange-at-one':
      return assumption.kind
  }
}
