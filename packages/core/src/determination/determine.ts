import type { BaselineIndex } from '../baseline/lookup.ts'
import { determineAlone } from './alone.ts'
import { determineCredit } from './credits.ts'
import type { Assumed, Determination } from './determination.ts'
import type { TaxDocument } from './document.ts'

/**
 * K3: place, discounts, item tax code rule, certificate, registration, shipping, then tax at the region's rounding place,
 * component by component. The first reason in the order of the steps wins. A credit note is rated as its original.
 * Bad or missing baseline facts are findings in the result, never guesses.
 */
export function determine(document: TaxDocument, index: BaselineIndex, assumed: Assumed = {}): Determination {
  return document.original
    ? determineCredit(document, document.original, index, assumed)
    : determineAlone(document, index, assumed)
}
