import { componentLost } from './componentLost.ts'
import { componentPercent } from './componentPercent.ts'
import { defaultCode } from './defaultCode.ts'
import { discountBefore } from './discount.ts'
import { exchangeAtOne } from './exchangeAtOne.ts'
import { exemptedWithoutCertificate } from './exemptedWithoutCertificate.ts'
import { exemptionIgnored } from './exemptionIgnored.ts'
import { flatRate } from './flatRate.ts'
import { liabilityAccount } from './liabilityAccount.ts'
import { lineLeftOut } from './lineLeftOut.ts'
import { namedRate } from './namedRate.ts'
import { oneAgency } from './oneAgency.ts'
import { override } from './override.ts'
import { pricesInside } from './prices.ts'
import { rateDate } from './rateDate.ts'
import { ratePlace } from './ratePlace.ts'
import { roundingPlace } from './rounding.ts'
import { shippingTaxed } from './shipping.ts'
import { oppositeSign } from './sign.ts'
import type { Cause, Changed, Names, Recomputable } from './cause.ts'

/** Every kind of mistake, in the order in which they are tried: those that a system's own snapshot gives rise to first. */
export const CAUSES = {
  'component-percent': componentPercent,
  'liability-account': liabilityAccount,
  override,
  'flat-rate': flatRate,
  'default-code': defaultCode,
  rounding: roundingPlace,
  'rate-date': rateDate,
  'rate-place': ratePlace,
  'named-rate': namedRate,
  'component-lost': componentLost,
  'one-agency': oneAgency,
  'exemption-ignored': exemptionIgnored,
  'exempted-without-certificate': exemptedWithoutCertificate,
  shipping: shippingTaxed,
  discount: discountBefore,
  prices: pricesInside,
  sign: oppositeSign,
  'line-left-out': lineLeftOut,
  'exchange-at-one': exchangeAtOne,
} as const

type Causes = typeof CAUSES
export type AssumptionKind = keyof Causes

/** One changed assumption under which a unit is recomputed (K10). */
export type Assumption = { [K in AssumptionKind]: Parameters<Causes[K]['apply']>[0] }[AssumptionKind]

/** What is said of a cause, as facts: `system` is whose voice is explained. */
export type ReproducedFacts = {
  [K in AssumptionKind]: { readonly kind: K; readonly system: string } & ReturnType<Causes[K]['facts']>
}[AssumptionKind]

/** Of an assumption, whichever kind it is. */
function causeOf<A extends Assumption>({ kind }: A): Cause<A, object> {
  return CAUSES[kind] as unknown as Cause<A, object>
}

/** The same assumption on another document has the same key, and so have two ways of the same mistake: it makes one cause. */
export function causeKey(assumption: Assumption): string {
  return [assumption.kind, ...causeOf(assumption).key(assumption)].join('|')
}

export function rankOf(assumption: Assumption): number {
  return causeOf(assumption).rank(assumption)
}

/** The mistakes that could have been made with this document, its systems' snapshots aside; those that change nothing sort themselves out. */
export function candidatesOf(of: Recomputable): Assumption[] {
  return Object.values(CAUSES).flatMap((cause): readonly Assumption[] => cause.candidates(of))
}

/**
 * A change with one more assumption in it.
 * @returns null where the assumption does not concern the document, or would undo what is assumed already
 */
export function assume(assumption: Assumption, on: Changed, of: Recomputable): Changed | null {
  return causeOf(assumption).apply(assumption, on, of)
}

/** An assumption with the names that people know its objects by. */
export function reproducedFacts(assumption: Assumption, system: string, names: Names): ReproducedFacts {
  return {
    ...causeOf(assumption).facts(assumption, names),
    kind: assumption.kind,
    system,
  } as ReproducedFacts
}

/** Whether facts are of a cause that was recomputed. */
export function isReproduced(facts: { readonly kind: string }): facts is ReproducedFacts {
  return Object.hasOwn(CAUSES, facts.kind)
}

/** A cause in a sentence; `date` writes a date the way the reader is used to. */
export function sayReproduced(facts: ReproducedFacts, date: (iso: string) => string): string {
  return (CAUSES[facts.kind] as unknown as Cause<Assumption, ReproducedFacts>).says(facts, date)
}
