import type { Reason } from '@axion/core'

/** Why a row is not taxed, in a few words. */
export const UNTAXED: Readonly<Partial<Record<Reason, string>>> = {
  exempt: 'exempt',
  'zero-rated': 'zero-rated',
  'out-of-scope': 'outside the scope',
  'below-threshold': 'below the threshold',
  certificate: 'certificate',
  marketplace: 'collected by the marketplace',
  'not-registered': 'not registered',
}
