import { findingOf, type Party } from '@axion/contract'
import { placeOf, type Address } from '@axion/core'
import type { HeldSystem } from '../../setUp/held.ts'
import type { Found, GridBasis } from './kind.ts'

type Basis = Pick<GridBasis, 'index' | 'date'>

/** The baseline's combined rate at an address; null where nobody can say what the place has. Without an id nobody levies anything there. */
function rateAt(
  { index, date }: Basis,
  address: Address,
): { readonly id: string | null; readonly name: string } | null {
  const { jurisdictions, findings } = placeOf(address, index.baseline.jurisdictions)
  if (findings.length > 0) return null
  const levying = jurisdictions.map(({ id }) => id).filter(index.levies)
  if (levying.length === 0) return { id: null, name: 'no tax at all' }
  const rate = index.combinedRateOf(levying, date)
  return rate ? { id: rate.id, name: rate.name } : null
}

function nameOf(held: HeldSystem, rateId: string): string {
  return held.rates.find(({ id }) => id === rateId)?.value.name ?? rateId
}

/**
 * The rate of a system where neither buyer nor place says another, beside that of the entity's home; null where it says none, or nobody knows what
 * home has. One that is linked to nothing is no rate of home's: it may be one that its system does not even hold.
 */
export function homeRate(
  basis: GridBasis,
  held: HeldSystem,
): { readonly agrees: boolean; readonly words: string; readonly found: readonly Found[] } | null {
  const rateId = held.row.settings?.defaultTaxRateId ?? null
  const address = basis.index.baseline.homeAddress
  const ours = address && rateAt(basis, address)
  if (rateId === null || !ours) return null
  const linked = held.combinedRateOf(rateId)
  const name = nameOf(held, rateId)
  if (linked !== null && linked === ours.id) return { agrees: true, words: name, found: [] }
  const theirs = linked === null ? `${name}, which is linked to nothing` : name
  return {
    agrees: false,
    words: linked === null ? `${name}, not linked` : `${name}, not ${ours.name}`,
    found: [findingOf('AXION_DEFAULT_RATE', { system: held.row.name, theirs, ours: ours.name })],
  }
}

/** What a system keeps of a party as its default: a rate of another place than its address, or that it is not taxed, for no reason that anybody states. */
export function partyDefaults(basis: Basis, held: HeldSystem, party: Party): Found[] {
  const { name, address, exemption } = party
  // Parties that were read before systems could say so say nothing.
  const { taxable = null, defaultTaxRateId = null } = party as Partial<
    Pick<Party, 'taxable' | 'defaultTaxRateId'>
  >
  const linked = defaultTaxRateId === null ? null : held.combinedRateOf(defaultTaxRateId)
  const ours = address && rateAt(basis, address)
  const facts = { name, system: held.row.name }
  return [
    ...(defaultTaxRateId !== null && linked !== null && ours && linked !== ours.id
      ? [findingOf('AXION_PARTY_RATE', { ...facts, theirs: nameOf(held, defaultTaxRateId), ours: ours.name })]
      : []),
    ...(taxable === false && exemption === null ? [findingOf('AXION_PARTY_FLAG', facts)] : []),
  ]
}
