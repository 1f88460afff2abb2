import { groupBy } from '../../baseline/lookup.ts'
import { isTaxed } from '../../determination/determination.ts'
import type { TaxDocument } from '../../determination/document.ts'
import { sum, type MinorUnits } from '../../money/currency.ts'
import { multiply, ratio } from '../../money/decimal.ts'
import { round } from '../../money/rounding.ts'
import type { TaxFact, VoiceFacts } from '../../tieout/facts.ts'
import { voicing, type Cause, type Recomputable } from './cause.ts'

/** Every component to one agency. */
export interface OneAgency {
  readonly kind: 'one-agency'
  readonly agencyId: string
}

export const oneAgency: Cause<OneAgency, { readonly agency: string }> = {
  kind: 'one-agency',
  rank: () => 16,
  key: (a) => [a.agencyId],
  candidates: ({ determination }) => {
    const agencies = [...new Set(determination.rows.filter(isTaxed).map((row) => row.agencyId))]
    return agencies.length < 2 ? [] : agencies.map((agencyId) => ({ kind: 'one-agency', agencyId }))
  },
  apply: ({ agencyId }, on, of) =>
    voicing(on, (v, { document }) =>
      reconverted(
        {
          ...v,
          facts: v.facts.map((fact) => ({ ...fact, agency: agencyId, account: taxAccountOf(agencyId, of) })),
        },
        document,
      ),
    ),
  facts: (a, { agency }) => ({ agency: agency(a.agencyId) }),
  says: (f) => `${f.system} put every component to ${f.agency}.`,
}

function taxAccountOf(agencyId: string, { document, index }: Recomputable): string | null {
  return index.postingRuleOn('tax', agencyId, document.documentDate)?.account ?? null
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
