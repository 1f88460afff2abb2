import type { Period } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import { remembered } from '../remembered.ts'
import type { NetFact, TaxFact, VoiceFacts } from './facts.ts'

/** A member of the compared sets (K9): facts of one agency, account, currency and period, added up. */
export interface Member {
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: Period
  /** Each line's base once per agency, the largest among its jurisdictions; null where the voice holds none. */
  readonly base: MinorUnits | null
  readonly tax: MinorUnits
  readonly inBase: { readonly currency: string; readonly tax: MinorUnits } | null
}

export interface Grain {
  readonly agency: boolean
  readonly account: boolean
  /** Whether taxable bases are held, and amounts in the base currency. */
  readonly bases: boolean
  readonly inBase: boolean
  /** How far what is net of tax is known: by account, as a total, or not at all. */
  readonly nets: 'account' | 'total' | 'unknown'
}

export const FINEST: Grain = { agency: true, account: true, bases: true, inBase: true, nets: 'account' }

/** The finest grain that a voice states throughout: nil facts are none and do not coarsen it. */
export function grainOf(voice: VoiceFacts): Grain {
  return remembered(GRAINS, voice, '', () => statedThroughout(voice))
}

const GRAINS = new WeakMap<VoiceFacts, Map<string, Grain>>()

function statedThroughout({ facts, nets, netUnknown }: VoiceFacts): Grain {
  const telling = facts.filter((fact) => fact.tax !== 0n)
  const accounted = nets.every(({ account, net }) => account !== null || net === 0n)
  return {
    nets: netUnknown ? 'unknown' : accounted ? 'account' : 'total',
    agency: telling.every((f) => f.agency !== null),
    account: telling.every((f) => f.account !== null),
    bases: telling.every((f) => f.base !== null),
    inBase: telling.every((f) => f.inBase !== null),
  }
}

/** What is net of tax, added up at a grain; amounts of nil are left out, and all where nobody can say them. */
export function netMembersOf({ nets }: VoiceFacts, grain: Pick<Grain, 'nets'>): NetFact[] {
  if (grain.nets === 'unknown') return []
  const [only] = nets
  const at = (fact: NetFact): NetFact => (grain.nets === 'account' ? fact : { ...fact, account: null })
  if (nets.length === 1 && only) return only.net === 0n ? [] : [at(only)]
  return [...groupBy(nets.map(at), (n) => `${n.account ?? ''}|${n.currency}|${n.period}`)]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([, of]) => ({ ...(of[0] as NetFact), net: sum(of.map(({ net }) => net)) }))
    .filter(({ net }) => net !== 0n)
}

/** Adds facts up at a grain; members whose tax is nil are left out. Voices never change, so what they add up to is kept with them. */
export function membersOf(voice: VoiceFacts, grain: Grain): readonly Member[] {
  return remembered(KEPT, voice, `${grain.agency}${grain.account}${grain.bases}${grain.inBase}`, () =>
    addedUp(voice, grain),
  )
}

const KEPT = new WeakMap<VoiceFacts, Map<string, readonly Member[]>>()

function addedUp({ facts }: VoiceFacts, grain: Grain): Member[] {
  const groups = groupBy(
    facts,
    (f) =>
      `${(grain.agency && f.agency) || ''}|${(grain.account && f.account) || ''}|${f.currency}|${f.period}`,
  )
  const keys = [...groups.keys()]
  if (keys.length > 1) keys.sort()
  const members: Member[] = []
  for (const key of keys) {
    const group = groups.get(key) as TaxFact[]
    const { agency, account, currency, period } = group[0] as TaxFact
    let tax = 0n
    for (const fact of group) tax += fact.tax
    if (tax === 0n) continue
    members.push({
      agency: grain.agency ? agency : null,
      account: grain.account ? account : null,
      currency,
      period,
      base: grain.bases ? baseOf(group, { byAgency: grain.agency }) : null,
      tax,
      inBase: grain.inBase ? inBaseOf(group) : null,
    })
  }
  return members
}

export function memberKey(m: {
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: string
}): string {
  return `${m.agency ?? ''}|${m.account ?? ''}|${m.currency}|${m.period}`
}

function inBaseOf(group: readonly TaxFact[]): Member['inBase'] {
  const held = group.flatMap(({ inBase }) => (inBase ? [inBase] : []))
  return held[0] ? { currency: held[0].currency, tax: sum(held.map(({ tax }) => tax)) } : null
}

/** The base of facts of one agency and account: each line's once, the largest among its jurisdictions; null where one is not held. */
export function baseOfAgency(group: readonly TaxFact[]): MinorUnits | null {
  return baseOf(group, { byAgency: true })
}

function baseOf(group: readonly TaxFact[], { byAgency }: { readonly byAgency: boolean }): MinorUnits | null {
  if (group.some((fact) => fact.base === null && fact.tax !== 0n)) return null
  if (group.length === 1) return group[0]?.base ?? 0n
  const perLineAndAgency = groupBy(
    group,
    (fact) => `${fact.lineId ?? ''}|${byAgency ? (fact.agency ?? '') : ''}`,
  )
  let total = 0n
  for (const facts of perLineAndAgency.values()) {
    // Parts of one jurisdiction stand beside each other; jurisdictions of one agency stand on the same base.
    const perJurisdiction = [
      ...groupBy(
        facts.map((fact, at) => ({ ...fact, at })),
        (f) => f.jurisdictionId ?? `#${f.at}`,
      ).values(),
    ].map((of) => sum(of.map((f) => f.base ?? 0n)))
    total += perJurisdiction.reduce((largest, base) => (size(base) > size(largest) ? base : largest), 0n)
  }
  return total
}

export function size(amount: MinorUnits): MinorUnits {
  return amount < 0n ? -amount : amount
}
