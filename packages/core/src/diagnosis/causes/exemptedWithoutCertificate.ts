import { isTaxed } from '../../determination/determination.ts'
import { assuming, type Cause } from './cause.ts'

/** Not taxed though no certificate covers it. */
export interface ExemptedWithoutCertificate {
  readonly kind: 'exempted-without-certificate'
}

export const exemptedWithoutCertificate: Cause<ExemptedWithoutCertificate, object> = {
  kind: 'exempted-without-certificate',
  rank: () => 5,
  key: () => [],
  candidates: ({ determination: { rows } }) =>
    rows.some(isTaxed) && !rows.some((row) => row.reason === 'certificate')
      ? [{ kind: 'exempted-without-certificate' }]
      : [],
  apply: (_, on) => assuming(on, { certificates: 'everyone' }),
  facts: () => ({}),
  says: (f) => `${f.system} taxed nothing, and no certificate covers the sale.`,
}
