import { groupBy } from '../../baseline/lookup.ts'
import type { RatedAs } from '../../determination/determination.ts'
import type { DocumentLine, TaxDocument } from '../../determination/document.ts'
import { assuming, type Cause, type Recomputable } from './cause.ts'

/** Somebody overrode what lines are taxed as, and their system charged what was chosen. */
export interface Override {
  readonly kind: 'override'
  /** Who, and why, where the source says so; several of them one after the other. */
  readonly by: string | null
  readonly why: string | null
}

export const override: Cause<Override, Omit<Override, 'kind'>> = {
  kind: 'override',
  rank: () => 2,
  key: ({ by, why }) => [by ?? '', why ?? ''],
  candidates: ({ document }) => {
    const overridden = overriddenIn(document)
    if (overridden.length === 0) return []
    const told = (of: 'by' | 'why'): string | null =>
      [...groupBy(overridden, (line) => line.overridden[of] ?? '').keys()].filter(Boolean).join(', ') || null
    return [{ kind: 'override', by: told('by'), why: told('why') }]
  },
  apply: (_, on, of) => {
    const ratedAs = chosenFor(of)
    return ratedAs && assuming(on, { ratedAs })
  },
  facts: ({ by, why }) => ({ by, why }),
  says: (f) =>
    `${f.system} has the tax that ${f.by ?? 'somebody'} put in place of its own${f.why ? `: “${f.why}”` : ', and no reason'}.`,
}

type Overridden = DocumentLine & Required<Pick<DocumentLine, 'overridden'>>

/** Of what takes back, those of its original: it is rated as that was. */
function overriddenIn({ original, lines }: TaxDocument): readonly Overridden[] {
  return (original?.document.lines ?? lines).filter(
    (line): line is Overridden => line.overridden !== undefined,
  )
}

/** What the lines are taxed as by what was chosen for them; null where it names a rate that nobody linked. */
function chosenFor({ document, index }: Recomputable): ReadonlyMap<string, RatedAs> | null {
  const chosen = new Map<string, RatedAs>()
  for (const { id, names, overridden } of overriddenIn(document)) {
    const rate = names && index.combinedRate(names.combinedRateId)
    if (!rate && !overridden.untaxed) return null
    chosen.set(id, {
      jurisdictions: (rate?.jurisdictionIds ?? []).flatMap((place) => index.jurisdiction(place) ?? []),
      itemTaxCode: rate?.itemTaxCode ?? null,
      taxed: true,
    })
  }
  return chosen
}
