import { voicing, type Cause } from './cause.ts'

/** An agency that a system keeps under another account. */
export interface LiabilityAccount {
  readonly kind: 'liability-account'
  readonly systemId: string
  readonly systemAgencyId: string
  readonly agencyId: string
  readonly account: string
}

export const liabilityAccount: Cause<
  LiabilityAccount,
  { readonly agency: string; readonly theirs: string; readonly ours: string }
> = {
  kind: 'liability-account',
  rank: () => 1,
  key: (a) => [a.systemId, a.systemAgencyId, a.account],
  candidates: () => [],
  apply: (a, on) =>
    voicing(on, (v) => ({
      ...v,
      facts: v.facts.map((fact) => (fact.agency === a.agencyId ? { ...fact, account: a.account } : fact)),
    })),
  facts: (a, { index, day, agency, account }) => ({
    agency: agency(a.agencyId),
    theirs: account(a.systemId, a.account),
    ours: account(a.systemId, index.postingRuleOn('tax', a.agencyId, day)?.account ?? ''),
  }),
  says: (f) => `${f.system} posts the tax of ${f.agency} to ${f.theirs}. It belongs in ${f.ours}.`,
}
