import type { AlignKind } from '@axion/contract'
import type { Unit } from './gather.ts'
import type { SetUp } from './grounds.ts'

/** A row of a grid that a document touches, as it is kept and summed (`touch_sum`). */
export const touchOf = (kind: AlignKind, rowId: string): string => `${kind}|${rowId}`

/**
 * The rows of the agreement grids that a unit's document touches, each once: the agencies that it owes tax to and the rates that it carries, its
 * party, items, outlet and payment methods by what they are linked to or else bear, and item tax codes.
 */
export function touchesOf(
  { source, expected }: Unit,
  combinedRates: readonly string[],
  { systems }: SetUp,
): readonly string[] {
  const touched = new Set<string>()
  for (const { agency, tax } of expected.facts)
    if (agency !== null && tax !== 0n) touched.add(touchOf('agencies', agency))
  for (const rate of combinedRates) touched.add(touchOf('rates', rate))
  if (!source) return [...touched]
  const { document, decoded, stored } = source
  const system = systems.find(({ row }) => row.system_id === stored.system_id)
  if (document.partyId !== null) touched.add(touchOf('parties', document.partyId))
  for (const { itemId, itemTaxCode } of document.lines) {
    if (itemId != null) touched.add(touchOf('items', itemId))
    if (itemTaxCode !== null) touched.add(touchOf('codes', itemTaxCode))
  }
  const outlet = decoded.locationId && system?.locationOf(decoded.locationId)
  if (outlet) touched.add(touchOf('locations', outlet))
  for (const method of document.methods ?? []) touched.add(touchOf('methods', method))
  return [...touched]
}
