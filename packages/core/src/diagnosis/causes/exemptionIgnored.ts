import { assuming, type Cause } from './cause.ts'

/** Taxed in spite of a certificate. */
export interface ExemptionIgnored {
  readonly kind: 'exemption-ignored'
}

export const exemptionIgnored: Cause<ExemptionIgnored, object> = {
  kind: 'exemption-ignored',
  rank: () => 4,
  key: () => [],
  candidates: ({ determination }) =>
    determination.rows.some((row) => row.reason === 'certificate') ? [{ kind: 'exemption-ignored' }] : [],
  apply: (_, on) => assuming(on, { certificates: 'ignored' }),
  facts: () => ({}),
  says: (f) => `${f.system} taxed a customer whose certificate holds.`,
}
