import { findingOf, type Party } from '@axion/contract'
import { placeOf, type Address } from '@axion/core'
import type { HeldSystem } from '../../setUp/held.ts'
import type { Found, GridBasis } from './kind.ts'

/** A rate that a system falls back on, beside the one of the place that it stands for. */
interface Fallen {
  readonly theirs: string
  readonly ours: string
}

/**
 * Whether a rate that stands where nothing says otherwise is that of an address; null where it is, where its system's rate is linked to nothing
 * yet, or where nobody can say what the place has.
 */
function fallsElsewhere(
  { index, date }: Pick<GridBasis, 'index' | 'date'>,
  held: HeldSystem,
  { rateId, address }: { readonly rateId: string | null; readonly address: Address | null },
): Fallen | null {
  if (rateId === null || address === null) return null
  const linked = held.combinedRateOf(rateId)
  const { jurisdictions, findings } = placeOf(address, index.baseline.jurisdictions)
  if (linked === null || findings.length > 0) return null
  const levying = jurisdictions.map(({ id }) => id).filter(index.levies)
  const ours = index.combinedRateOf(levying, date)
  if (ours?.id === linked || (levying.length > 0 && !ours)) return null
  return {
    theirs: held.rates.find(({ id }) => id === rateId)?.value.name ?? rateId,
    ours: ours?.name ?? 'no tax at all',
  }
}

/** The rate of a system where neither buyer nor place says another, beside that of the entity's home; null where it says none, or nobody knows a home. */
export function homeRate(
  basis: GridBasis,
  held: HeldSystem,
): { readonly agrees: boolean; readonly words: string; readonly found: readonly Found[] } | null {
  const rateId = held.row.settings?.defaultTaxRateId ?? null
  const address = basis.index.baseline.homeAddress
  if (rateId === null || address === null) return null
  const name = held.rates.find(({ id }) => id === rateId)?.value.name ?? rateId
  if (held.combinedRateOf(rateId) === null) return { agrees: false, words: `${name}, not linked`, found: [] }
  const elsewhere = fallsElsewhere(basis, held, { rateId, address })
  return {
    agrees: elsewhere === null,
    words: elsewhere ? `${name}, not ${elsewhere.ours}` : name,
    found: elsewhere
      ? [findingOf('AXION_DEFAULT_RATE', { system: held.row.name, theirs: name, ours: elsewhere.ours })]
      : [],
  }
}

/** What a system keeps of a party as its default: a rate of another place than its address, or that it is not taxed, for no reason that anybody states. */
export function partyDefaults(
  basis: Pick<GridBasis, 'index' | 'date'>,
  held: HeldSystem,
  party: Party,
): Found[] {
  const { name, address, exemption } = party
  // Parties that were read before systems could say so say nothing.
  const { taxable = null, defaultTaxRateId = null } = party as Partial<
    Pick<Party, 'taxable' | 'defaultTaxRateId'>
  >
  const elsewhere = fallsElsewhere(basis, held, { rateId: defaultTaxRateId, address })
  const facts = { name, system: held.row.name }
  return [
    ...(elsewhere ? [findingOf('AXION_PARTY_RATE', { ...facts, ...elsewhere })] : []),
    ...(taxable === false && exemption === null ? [findingOf('AXION_PARTY_FLAG', facts)] : []),
  ]
}
