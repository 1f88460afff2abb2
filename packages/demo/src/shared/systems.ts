import type { Component, Rate } from './sale.ts'
import { totalPercent } from '../larkspur/places.ts'

/** A component as a system holds it. */
export function held(c: Component, agencyId: string): object {
  return {
    agencyId,
    name: c.name,
    percent: c.percent,
    perUnit: c.perUnit ?? null,
    onTopOf: c.onTopOf ?? [],
    from: c.from ?? null,
    to: c.to ?? null,
  }
}

/** A rate as a system holds it, with the percents it has there. */
export function heldRate(
  id: string,
  { code, name, components }: Rate,
  agencyId: (code: string) => string,
  own: { readonly code: boolean },
): { id: string; value: object } {
  return {
    id,
    value: {
      code: own.code ? code : null,
      name,
      percent: totalPercent({ components }),
      active: true,
      components: components.map((c) => held(c, agencyId(c.agency))),
    },
  }
}
