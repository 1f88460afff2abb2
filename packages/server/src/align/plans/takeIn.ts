import type { BaselineRemedy } from '@axion/contract'
import { formatPercent, parsePercent, sum } from '@axion/core'
import type { Revision } from '../../baseline/revise.ts'
import { dimensionId } from '../../baseline/tables/postings.ts'
import { Problem } from '../../faults/problem.ts'
import { KINDS, type GridBasis, type AlignedSystem } from '../kinds/index.ts'
import { codeOf } from '../kinds/items.ts'
import { inWords, planned, type Plan } from './plan.ts'

type TakingIn = Extract<BaselineRemedy, { readonly kind: 'take-in' }>

interface Introduced {
  readonly name: string
  readonly table: Revision['table']
  /** The code that it gets in the baseline. */
  readonly id: string
  readonly values: Readonly<Record<string, unknown>>
  readonly shown: Readonly<Record<string, unknown>>
  readonly from: string | null
}

/** An object that only a system has, as it would stand in the baseline: with the system's values, and linked to it. */
export function introductionOf(
  basis: GridBasis,
  aligned: AlignedSystem,
  { align, systemId, objectId }: TakingIn,
): Plan {
  const { link } = KINDS[align]
  const match = link && aligned.crosswalk.find(link, objectId)
  if (!match || !link) throw new Problem('AXION_NOT_FOUND', { what: 'such object' })
  if (match.linkedTo !== null && KINDS[align].rows(basis).some((row) => row.id === match.linkedTo))
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'take in: it is linked by now' })
  const made = INTRODUCING[align](basis, aligned, objectId)
  if (!made) throw new Problem('AXION_NOT_FOUND', { what: 'such object' })
  return planned(
    aligned.held,
    made.name,
    Object.entries({ Code: made.id, ...made.shown }).map(([field, value]) => ({
      field,
      from: '',
      to: inWords(value),
    })),
    {
      to: 'baseline',
      introduces: true,
      revisions: [{ table: made.table, objectId: made.id, values: made.values, from: made.from }],
      link: { systemId, kind: link, objectId, baselineId: made.id },
    },
  )
}

/** A code that nothing of the kind bears yet: the system's own, or its name in capitals. */
function codeFor(own: string | null, name: string, taken: readonly { readonly id: string }[]): string {
  const wanted =
    own !== null && /^\S{1,60}$/.test(own)
      ? own
      : name
          .normalize('NFKD')
          .replace(/[^\p{L}\p{N}]+/gu, '-')
          .replace(/^-|-$/g, '')
          .toUpperCase()
          .slice(0, 56)
  const ids = new Set(taken.map(({ id }) => id))
  for (let at = 1; at < 1000; at++) {
    const code = at === 1 ? wanted : `${wanted}-${at}`
    if (code !== '' && !ids.has(code)) return code
  }
  throw new Problem('AXION_CANNOT_TAKE_IN', { what: name, why: 'no code is free for it' })
}

type Introducing = (basis: GridBasis, aligned: AlignedSystem, objectId: string) => Introduced | null

const INTRODUCING: Readonly<Record<TakingIn['align'], Introducing>> = {
  agencies: ({ index }, { held }, objectId) => {
    const agency = held.agencies.find((a) => a.id === objectId)?.value
    return agency
      ? {
          name: agency.name,
          table: 'agency',
          id: codeFor(agency.code, agency.name, index.baseline.agencies),
          values: { name: agency.name },
          shown: { Name: agency.name },
          from: null,
        }
      : null
  },
  codes: ({ index }, { held }, code) => {
    const name = held.codes.find((c) => c.value.code === code)?.value.name ?? code
    return {
      name,
      table: 'item_tax_code',
      id: codeFor(code, code, index.baseline.itemTaxCodes),
      values: { name },
      shown: { Name: name },
      from: null,
    }
  },
  items: ({ index }, aligned, objectId) => {
    const item = aligned.held.items.find((i) => i.id === objectId)?.value
    if (!item) return null
    const code = codeOf(item, aligned)
    if (code === null)
      throw new Problem('AXION_CANNOT_TAKE_IN', {
        what: item.name,
        why: 'it stands under no item tax code there',
      })
    if (!index.baseline.itemTaxCodes.some((known) => known.id === code))
      throw new Problem('AXION_CANNOT_TAKE_IN', {
        what: item.name,
        why: `its item tax code ${code} is not in the baseline`,
      })
    return {
      name: item.name,
      table: 'item',
      id: codeFor(item.code, item.name, index.baseline.items),
      values: { name: item.name, item_tax_code: code },
      shown: { Name: item.name, 'Item tax code': code },
      from: null,
    }
  },
  parties: ({ index }, { held }, objectId) => {
    const party = held.parties.find((p) => p.id === objectId)?.value
    if (!party) return null
    const claims = party.exemption?.reason ?? null
    return {
      name: party.name,
      table: 'party',
      id: codeFor(objectId, party.name, index.baseline.parties),
      values: { name: party.name, claims, catch_all: false, address: party.address },
      shown: { Name: party.name, 'Exempt for': claims ?? 'nothing' },
      from: null,
    }
  },
  methods: ({ index }, { held }, objectId) => {
    const method = held.methods.find((m) => m.id === objectId)?.value
    return method
      ? {
          name: method.name,
          table: 'payment_method',
          id: codeFor(method.code, method.name, index.baseline.paymentMethods),
          values: { name: method.name, kind: method.kind },
          shown: { Name: method.name, Kind: method.kind },
          from: null,
        }
      : null
  },
  locations: ({ index }, { held }, objectId) => {
    const place = held.locations.find((l) => l.id === objectId)?.value
    if (!place) return null
    const { name, timeZone, cutOff, address } = place
    return {
      name,
      table: 'location',
      id: codeFor(place.code, name, index.baseline.locations),
      values: { name, time_zone: timeZone, cut_off: cutOff, address },
      shown: { Name: name, Address: address, 'Its day ends': cutOff ?? 'midnight', 'Time zone': timeZone },
      from: null,
    }
  },
  dimensions: (_, { held }, objectId) => {
    const value = held.dimensions.find((d) => d.id === objectId)?.value
    return value
      ? {
          name: value.name,
          table: 'dimension_value',
          id: dimensionId(value.dimension, value.code),
          values: { dimension: value.dimension, code: value.code, name: value.name },
          shown: { Dimension: value.dimension, Name: value.name },
          from: null,
        }
      : null
  },
  rates: rateIntroduced,
}

/** A rate of places that the baseline knows in another combination: each component by its agency, which must stand for one place. */
function rateIntroduced(
  { index, date }: GridBasis,
  { held, crosswalk }: AlignedSystem,
  objectId: string,
): Introduced | null {
  const rate = held.rates.find((r) => r.id === objectId)?.value
  if (!rate) return null
  const refuse = (why: string): never => {
    throw new Problem('AXION_CANNOT_TAKE_IN', { what: rate.name, why })
  }
  if (rate.components === null) return refuse('it was typed by hand and has no components')
  const places = rate.components.map((component) => {
    const agencyId = crosswalk.agencyOf(component.agencyId)
    const agency = held.agencies.find((a) => a.id === component.agencyId)?.value.name ?? component.agencyId
    if (agencyId === null) return refuse(`its agency ${agency} is linked to nothing`)
    const levying = index.baseline.jurisdictions.filter(
      (j) => j.agencyId === agencyId && index.ratesOf(j.id).length > 0,
    )
    if (levying.length !== 1 || !levying[0])
      return refuse(
        `${agency} collects for ${levying.length === 0 ? 'no place' : 'several places'}, and nobody can say which is meant`,
      )
    return levying[0]
  })
  const ids = [...new Set(places.map((place) => place.id))]
  const known = index.combinedRateOf(ids, date)
  if (known) return refuse(`the same places make up ${known.name}`)
  const total = formatPercent(sum(ids.map((id) => index.rateOn(id, date)?.percent ?? 0n)))
  const since = ids.flatMap((id) => index.ratesOf(id).map((v) => v.valid.from)).sort()[0] ?? null
  return {
    name: rate.name,
    table: 'combined_rate',
    id: codeFor(rate.code, rate.name, index.baseline.combinedRates),
    values: { name: rate.name, jurisdictions: ids, item_tax_code: null },
    from: since,
    shown: {
      Name: rate.name,
      Components: ids.map((id) => index.jurisdiction(id)?.name ?? id),
      'Total by the baseline': `${total} %`,
      'Total there': `${formatPercent(parsePercent(rate.percent))} %`,
    },
  }
}
