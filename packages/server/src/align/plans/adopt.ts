import type { BaselineRemedy, RemedyPreview } from '@axion/contract'
import type { Revision } from '../../baseline/revise.ts'
import { inWords } from './plan.ts'
import type { GridBasis, AlignedSystem } from '../kinds/kind.ts'
import { formatPercent } from '@axion/core'
import { dimensionId } from '../../baseline/tables/postings.ts'
import { Problem } from '../../faults/problem.ts'
import { compareAgency, compareRate } from '../../setUp/compare.ts'
import { codeOf } from '../kinds/items.ts'

interface Moves {
  readonly name: string
  readonly changes: RemedyPreview['changes']
  readonly steps: readonly Revision[]
}

interface Moving extends Moves {
  put(
    field: string,
    change: { readonly from: unknown; readonly to: unknown },
    revision: Omit<Revision, 'from'>,
  ): void
  /** Takes a name over, where it is another. */
  rename(table: Revision['table'], objectId: string, theirs: string): void
}

/** Collects what moves: the field in words, and the revision of the baseline behind it. */
function moving(name: string, from: string | null = null): Moving {
  const changes: { field: string; from: string; to: string }[] = []
  const steps: Revision[] = []
  const put: Moving['put'] = (field, change, { table, objectId, values }) => {
    changes.push({ field, from: inWords(change.from), to: inWords(change.to) })
    const known = steps.findIndex((step) => step.table === table && step.objectId === objectId)
    if (known < 0) steps.push({ table, objectId, values, from })
    else steps[known] = { ...(steps[known] as Revision), values: { ...steps[known]?.values, ...values } }
  }
  return {
    name,
    changes,
    steps,
    put,
    rename: (table, objectId, theirs) => {
      if (theirs !== name)
        put('Name', { from: name, to: theirs }, { table, objectId, values: { name: theirs } })
    },
  }
}

/** What is dated, and then what holds since ever. */
function together(dated: Moves, moves: Moves): Moves {
  return {
    name: moves.name,
    changes: [...dated.changes, ...moves.changes],
    steps: [...dated.steps, ...moves.steps],
  }
}

/** The object of a system that is taken over into the baseline's, from a month on. */
interface Adopted {
  readonly month: string
  readonly objectId: string
  readonly id: string
}

type Adopting = (basis: GridBasis, aligned: AlignedSystem, adopted: Adopted) => Moves | null

export const ADOPTING: Readonly<
  Record<Extract<BaselineRemedy, { readonly kind: 'adopt' }>['align'], Adopting>
> = {
  items: ({ index, date }, aligned, { month, objectId, id }) => {
    const item = aligned.held.items.find((i) => i.id === objectId)
    const ours = index.baseline.items.find((i) => i.id === id)
    if (!item || !ours) return null
    // A changed code holds from the month on: what was proved before is not judged anew by it.
    const dated = moving(ours.name, `${month}-01`)
    const moves = moving(ours.name)
    const code = codeOf(item.value, aligned)
    const agreed = index.itemTaxCodeOf(id, date) ?? ours.itemTaxCode
    if (code !== null && code !== agreed) {
      if (!index.baseline.itemTaxCodes.some((known) => known.id === code))
        throw new Problem('AXION_BASELINE_INCONSISTENT', { where: `The item ${ours.name}`, what: code })
      dated.put(
        `Item tax code, from ${month}-01`,
        { from: agreed, to: code },
        { table: 'item', objectId: id, values: { item_tax_code: code } },
      )
    }
    moves.rename('item', id, item.value.name)
    return together(dated, moves)
  },
  parties: ({ index }, { held }, { objectId, id }) => {
    const party = held.parties.find((p) => p.id === objectId)
    const ours = index.party(id)
    if (!party || !ours) return null
    const claims = party.value.exemption?.reason ?? null
    if (ours.catchAll && claims !== null)
      throw new Problem('AXION_CANNOT_TAKE_IN', {
        what: ours.name,
        why: 'whoever stands for many buyers is never exempt',
      })
    const moves = moving(ours.name)
    if (claims !== ours.claims)
      moves.put(
        'Exempt for',
        { from: ours.claims ?? 'nothing', to: claims ?? 'nothing' },
        { table: 'party', objectId: id, values: { claims } },
      )
    moves.rename('party', id, party.value.name)
    return moves
  },
  agencies: ({ index, date }, { held }, { month, objectId, id }) => {
    const agency = held.agencies.find((a) => a.id === objectId)
    const ours = index.agency(id)
    if (!agency || !ours) return null
    const moves = moving(ours.name)
    const dated = moving(ours.name, `${month}-01`)
    const { account } = compareAgency(id, agency.value, { system: held, index, date })
    if (account?.theirs != null && account.ours !== null && account.theirs !== account.ours)
      dated.put(
        'Liability account',
        { from: account.ours, to: account.theirs },
        {
          table: 'posting_rule',
          objectId: `tax ${id}`,
          values: {
            account: account.theirs,
          },
        },
      )
    moves.rename('agency', id, agency.value.name)
    return together(dated, moves)
  },
  rates: ({ index, date }, { held, crosswalk }, { month, objectId, id }) => {
    const rate = held.rates.find((r) => r.id === objectId)
    const ours = index.combinedRate(id)
    if (!rate || !ours) return null
    const moves = moving(ours.name)
    const dated = moving(ours.name, `${month}-01`)
    for (const { jurisdictionId, percent, theirs } of compareRate(ours, rate.value, {
      agencyOf: crosswalk.agencyOf,
      index,
      date,
    }).components) {
      if (theirs === null || percent === null || theirs === percent) continue
      dated.put(
        `${index.jurisdiction(jurisdictionId)?.name ?? jurisdictionId}, from ${month}-01`,
        { from: `${formatPercent(percent)} %`, to: `${formatPercent(theirs)} %` },
        { table: 'rate_version', objectId: jurisdictionId, values: { percent: formatPercent(theirs) } },
      )
    }
    moves.rename('combined_rate', id, rate.value.name)
    return together(dated, moves)
  },
  methods: ({ index }, { held }, { objectId, id }) => {
    const method = held.methods.find((m) => m.id === objectId)?.value
    const ours = index.baseline.paymentMethods.find((m) => m.id === id)
    if (!method || !ours) return null
    const moves = moving(ours.name)
    if (method.kind !== ours.kind)
      moves.put(
        'Kind',
        { from: ours.kind, to: method.kind },
        { table: 'payment_method', objectId: id, values: { kind: method.kind } },
      )
    moves.rename('payment_method', id, method.name)
    return moves
  },
  locations: ({ index }, { held }, { objectId, id }) => {
    const place = held.locations.find((l) => l.id === objectId)?.value
    const ours = index.baseline.locations.find((l) => l.id === id)
    if (!place || !ours) return null
    const moves = moving(ours.name)
    if (inWords(place.address) !== inWords(ours.address))
      moves.put(
        'Address',
        { from: ours.address, to: place.address },
        { table: 'location', objectId: id, values: { address: place.address } },
      )
    if (place.cutOff !== ours.cutOff)
      moves.put(
        'Its day ends',
        { from: ours.cutOff ?? 'midnight', to: place.cutOff ?? 'midnight' },
        {
          table: 'location',
          objectId: id,
          values: {
            cut_off: place.cutOff,
          },
        },
      )
    if (place.timeZone !== ours.timeZone)
      moves.put(
        'Time zone',
        { from: ours.timeZone, to: place.timeZone },
        { table: 'location', objectId: id, values: { time_zone: place.timeZone } },
      )
    moves.rename('location', id, place.name)
    return moves
  },
  dimensions: ({ index }, { held }, { objectId, id }) => {
    const value = held.dimensions.find((d) => d.id === objectId)?.value
    const ours = index.baseline.dimensions.find((d) => d.id === id)
    if (!value || !ours || dimensionId(value.dimension, value.code) !== id) return null
    const moves = moving(ours.name)
    moves.rename('dimension_value', id, value.name)
    return moves
  },
}
