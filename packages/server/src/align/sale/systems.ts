import type { Limits, SaleView, TaxRate } from '@axion/contract'
import {
  combinedRatesOf,
  determine,
  formatAmount,
  formatPercent,
  isTaxed,
  multiply,
  PERCENT_SCALE,
  ratio,
  round,
  sum,
  type Assumed,
  type BaselineIndex,
  type CombinedRate,
  type Determination,
  type TaxDocument,
} from '@axion/core'
import { compareRate, departingPercents, sayTotal } from '../../setUp/compare.ts'
import { departingOf, type Departing, type DepartingRows } from '../../setUp/departing.ts'
import type { Held, HeldSystem } from '../../setUp/held.ts'
import type { AlignedSystem, GridBasis } from '../kinds/kind.ts'

/** A sale as the baseline has it. */
export interface Ours {
  readonly basis: GridBasis
  readonly document: TaxDocument
  readonly determination: Determination
  /** The baseline's item; null where none is named. */
  readonly item: string | null
  readonly currency: string
}
type SystemsView = SaleView['systems'][number]

/** Who charges tax on sales, or computes it when it books them. */
const COMPUTING: readonly string[] = ['ledger', 'billing', 'pos', 'commerce']

/** What each system's set-up would come to for a sale: by its own rate, under its own code of the item, and by what it has of the buyer. */
export function systemsOf(ours: Ours, rows: DepartingRows, limits: Limits): SystemsView[] {
  const departing = departingOf(rows)
  return ours.basis.systems
    .filter(({ held: { row } }) => COMPUTING.includes(row.role))
    .flatMap((system) => {
      const { system_id: id, name } = system.held.row
      if (limits.notPulled.includes(name)) return [{ id, name, ...SILENT, says: ['has not been pulled'] }]
      const known = ofSystem(ours, system, departing)
      return limits.failed.includes(name)
        ? known.map((one) => ({
            ...one,
            says: [...one.says, 'as it was before its last pull, which failed'],
          }))
        : known
    })
}
const SILENT = { rate: null, tax: null, gap: null }

function ofSystem(ours: Ours, { held, crosswalk }: AlignedSystem, departing: Departing): SystemsView[] {
  const { index } = ours.basis
  const { system_id: id, name, role, about } = held.row
  const said = { id, name, ...SILENT }
  if (role === 'ledger' && about.taxComputation === 'as-given')
    return [{ ...said, says: ['takes the amounts that it is handed'] }]
  const theirs = standingThere(ours, held, departing)
  // By its own set-up, whoever buys: a rate is charged where anything is taxed.
  const rated = determine(theirs.document, index, { ...theirs.assumed, certificates: 'ignored' })
  const [combined] = combinedRatesOf(theirs.document, rated, index).flatMap(
    (one) => index.combinedRate(one) ?? [],
  )
  if (!combined) return [{ ...said, ...come(ours, theirs.document, theirs.assumed), says: theirs.says }]
  const rates = held.rates.filter((rate) => crosswalk.rateOf(rate.id) === combined.id && rate.value.active)
  if (rates.length === 0)
    return [{ ...said, says: [...theirs.says, `has no rate that stands for ${combined.name}`] }]
  return rates.map((rate) => {
    const by = byRate(ours, theirs, { rate, combined, agencyOf: crosswalk.agencyOf })
    // A proposal may be shown; that it is one is said.
    const proposed =
      held.combinedRateOf(rate.id) === combined.id
        ? []
        : [`its rate is not linked, and taken for ${combined.name}`]
    return { id, name, ...by, says: [...theirs.says, ...by.says, ...proposed] }
  })
}

interface There {
  readonly document: TaxDocument
  readonly assumed: Assumed
  readonly says: readonly string[]
}

/** The sale as a system has its item and its buyer. */
function standingThere({ document, item }: Ours, held: HeldSystem, departing: Departing): There {
  const system = held.row.system_id
  const says: string[] = []
  let lines = document.lines
  if (item !== null && held.items.length > 0) {
    const own = held.items.find(({ value }) => held.itemOf(value.code) === item)
    const departs = own && departing.item(system, own.value.code)
    if (!own) says.push('does not have the item')
    else if (departs) {
      says.push(`has the item under ${departs.code}`)
      lines = lines.map((line) => ({ ...line, itemTaxCode: departs.code }))
    }
  }
  let assumed: Assumed = {}
  if (document.partyId !== null && held.parties.length > 0) {
    const own = held.parties.find(({ id }) => held.partyOf(id) === document.partyId)
    const departs = own && departing.party(system, own.id)
    if (!own) says.push('does not have the buyer')
    else if (departs) {
      says.push(departs.certificates === 'everyone' ? 'exempts the buyer' : 'does not exempt the buyer')
      assumed = { certificates: departs.certificates }
    }
  }
  return { document: { ...document, lines }, assumed, says }
}

/** What it comes to by one of the system's rates. */
function byRate(
  ours: Ours,
  { document, assumed }: There,
  {
    rate,
    combined,
    agencyOf,
  }: {
    readonly rate: Held<TaxRate>
    readonly combined: CombinedRate
    readonly agencyOf: (objectId: string) => string | null
  },
): Pick<SystemsView, 'rate' | 'tax' | 'gap' | 'says'> {
  const { index } = ours.basis
  const compared = compareRate(combined, rate.value, { agencyOf, index, date: document.supplyDate })
  const said = `${rate.value.name}, ${sayTotal(compared.theirTotal, [])}`
  if (compared.flat) {
    const net = taxedNet(determine(document, index, assumed))
    const tax = round(multiply(ratio(net), ratio(compared.theirTotal, PERCENT_SCALE)))
    return { rate: said, ...told(ours, tax), says: ['states no components'] }
  }
  const percents = departingPercents(compared)
  const other = [...percents].map(
    ([place, percent]) =>
      `${nameOf(index, place)} at ${formatPercent(percent)} %, not ${formatPercent(percentOf(index, place, document))} %`,
  )
  const levies = compared.components.filter((c) => c.theirs === c.percent && !c.sameLevy)
  const come_ = come(ours, document, {
    ...assumed,
    percentOf: (place, code) => (code === combined.itemTaxCode ? percents.get(place) : undefined),
  })
  // What it levies otherwise than by percent cannot be worked out here, and is no sum.
  return levies.length > 0
    ? {
        rate: said,
        tax: null,
        gap: null,
        says: levies.map((c) => `levies ${nameOf(index, c.jurisdictionId)} otherwise`),
      }
    : { rate: said, ...come_, says: other }
}

function come(ours: Ours, document: TaxDocument, assumed: Assumed): Pick<SystemsView, 'tax' | 'gap'> {
  const theirs = determine(document, ours.basis.index, assumed)
  return theirs.complete ? told(ours, sum(theirs.rows.map((row) => row.tax))) : { tax: null, gap: null }
}

function told({ determination, currency }: Ours, tax: bigint): Pick<SystemsView, 'tax' | 'gap'> {
  const own = sum(determination.rows.map((row) => row.tax))
  return { tax: formatAmount(tax, currency), gap: formatAmount(tax - own, currency) }
}

/** What of the lines anybody taxes. */
function taxedNet({ rows, lines }: Determination): bigint {
  const taxed = new Set(rows.filter(isTaxed).map((row) => row.lineId))
  return sum(lines.filter((line) => taxed.has(line.lineId)).map((line) => line.net))
}

const nameOf = (index: BaselineIndex, place: string): string => index.jurisdiction(place)?.name ?? place
const percentOf = (index: BaselineIndex, place: string, { supplyDate }: TaxDocument): bigint =>
  index.rateOn(place, supplyDate)?.percent ?? 0n
