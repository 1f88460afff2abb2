import { combinedPercent } from '../baseline/combined.ts'
import { covers, type IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import { foldName } from '../crosswalk/folding.ts'
import { formatPercent, type Percent } from '../money/decimal.ts'
import type { Agencies } from './agencies.ts'
import type { Given, ComponentHeld, HeldRate, Holder } from './given.ts'
import { meet, type Met, type Thing } from './meet.ts'

/** All versions of one component of a rate, as one system holds it: the same agency, the same name. */
export interface Component {
  /** The drafted agency's code, and what the component is called there. */
  readonly agency: string
  readonly name: string
  readonly versions: readonly ComponentHeld[]
  /** Of the components whose tax is taxed too. */
  readonly onTopOf: readonly string[]
}

/** A rate as one system holds it. */
export interface RateThing extends Thing {
  readonly rate: HeldRate
  /** Null where it states none, or names an agency that the system does not hold. */
  readonly parts: readonly Component[] | null
}

/** One rate of several systems. */
export interface RateMet extends Met<RateThing> {
  readonly id: string
  /** The member that its components are taken from: that of the system with most documents, which states any. */
  readonly leading: RateThing
}

export interface Rates {
  readonly all: readonly RateMet[]
  of(holderId: string, rateId: string): RateMet | undefined
}

export function draftRates(given: Given, agencies: Agencies): Rates {
  const busy = (holderId: string): number => given.sales.filter((sale) => sale.holderId === holderId).length
  const weight = new Map(given.holders.map((holder) => [holder.id, busy(holder.id)]))
  const met = meet(given.holders.map((holder) => thingsOf(holder, agencies, given.seen.to)))
  const all = met.flatMap((one, at): RateMet[] => {
    const split = [...one.members].filter(({ parts }) => parts !== null)
    const [leading] = (split.length > 0 ? split : [...one.members]).sort(
      (a, b) => (weight.get(b.holderId) ?? 0) - (weight.get(a.holderId) ?? 0),
    )
    return leading ? [{ ...one, id: String(at), leading }] : []
  })
  const by = new Map(all.flatMap((rate) => rate.members.map((m) => [`${m.holderId}/${m.id}`, rate] as const)))
  return { all, of: (holderId, rateId) => by.get(`${holderId}/${rateId}`) }
}

function thingsOf(holder: Holder, agencies: Agencies, date: IsoDate): RateThing[] {
  return holder.rates.map((rate) => {
    const parts = partsOf(rate, holder.id, agencies)
    return {
      holderId: holder.id,
      id: rate.id,
      code: rate.code,
      name: rate.name,
      components: parts && componentsText(rate, parts, date),
      jurisdictions:
        parts &&
        parts
          .map(({ agency }) => agency)
          .sort()
          .join('\n'),
      rate,
      parts,
    }
  })
}

function partsOf({ components }: HeldRate, holderId: string, agencies: Agencies): Component[] | null {
  if (components === null) return null
  const named = components.map((component) => ({
    component,
    agency: agencies.of(holderId, component.agencyId)?.code,
    key: partKey(agencies.of(holderId, component.agencyId)?.code ?? '', component.name),
  }))
  if (named.some(({ agency }) => agency === undefined)) return null
  return [...groupBy(named, ({ key }) => key).values()].map((versions) => ({
    agency: versions[0]?.agency ?? '',
    name: versions[0]?.component.name.trim() ?? '',
    versions: versions.map(({ component }) => component),
    onTopOf: [
      ...new Set(
        versions.flatMap(({ component }) => component.onTopOf.flatMap((at) => named[at]?.key ?? [])),
      ),
    ],
  }))
}

/** What a component is known by within a system. */
export function partKey(agency: string, name: string): string {
  return `${agency}|${foldName(name)}`
}

/** The version of a component that holds on a day. */
export function versionOn({ versions }: Component, date: IsoDate): ComponentHeld | undefined {
  return versions.find(({ from, to }) => covers({ from: from ?? '0001-01-01', to }, date))
}

/** What a rate comes to on a day, tax on tax included; what it states where it has no components. */
export function percentOn({ rate, parts }: RateThing, date: IsoDate): Percent {
  if (parts === null) return rate.percent
  const held = parts.flatMap((part) => {
    const version = versionOn(part, date)
    return version ? [{ part, version }] : []
  })
  return combinedPercent(
    held.map(({ part, version }) => ({
      percent: version.percent,
      onTopOf: held.flatMap((other, at) =>
        part.onTopOf.includes(partKey(other.part.agency, other.part.name)) ? [at] : [],
      ),
    })),
  )
}

/** Whether it taxes nothing: what it is named for is that no tax is due. */
export function isNil(thing: RateThing, date: IsoDate): boolean {
  return (
    percentOn(thing, date) === 0n &&
    (thing.parts ?? []).every((part) => versionOn(part, date)?.perUnit == null)
  )
}

function componentsText(rate: HeldRate, parts: readonly Component[], date: IsoDate): string {
  return [
    formatPercent(rate.percent),
    ...parts.map((p) => `${p.agency} ${versionOn(p, date)?.percent ?? ''}`).sort(),
  ].join('\n')
}

/** A component's like in another system's rate: the same name of the same agency, else the agency's only one in both. */
export function counterpart(of: RateThing, leading: RateThing, part: Component): Component | undefined {
  const theirs = (of.parts ?? []).filter(({ agency }) => agency === part.agency)
  const named = theirs.find(({ name }) => foldName(name) === foldName(part.name))
  const ours = (leading.parts ?? []).filter(({ agency }) => agency === part.agency)
  return named ?? (theirs.length === 1 && ours.length === 1 ? theirs[0] : undefined)
}
