import {
  answeredBy,
  groupBy,
  type Baseline,
  type BaselineIndex,
  type BookedAccounts,
  type Lookups,
} from '@axion/core'
import { randomUUID } from 'node:crypto'
import type { Aligned } from '../setUp/aligned.ts'
import type { Departing } from '../setUp/departing.ts'
import type { HeldSystem, SystemRow } from '../setUp/held.ts'
import { BETWEEN, CROWD, CROWDED, crowdOf, type Argument, type Asking } from './asking.ts'

/** The set-up as it can be asked: what a question is put to again. */
export interface Answering {
  readonly index: BaselineIndex
  readonly accounts: BookedAccounts
  readonly systems: readonly HeldSystem[]
  readonly departing: Departing
  /** @param date the last of the month that is worked in */
  aligned(systemId: string, date: string): Aligned | undefined
}

/** Look-ups that take texts alone: what they are called is what they are asked by. */
const BY_TEXT = [
  'agency',
  'jurisdiction',
  'item',
  'codeRule',
  'party',
  'dimension',
  'location',
  'certificatesOf',
  'combinedRate',
  'combinedRateMade',
  'rateOn',
  'levies',
  'ratesOf',
  'codeRuleOn',
  'registrationOn',
  'roundingOn',
  'regionRuleOn',
  'isNarrowed',
] as const satisfies readonly (keyof Lookups)[]
const OF_SYSTEM = [
  'linkOf',
  'agencyOf',
  'combinedRateOf',
  'itemOf',
  'partyOf',
  'genericParty',
  'locationOf',
  'methodOf',
  'outletOf',
  'linkedTo',
  'accountNumber',
  'accountName',
  'account',
  'hasAgency',
] as const satisfies readonly (keyof HeldSystem)[]
const OF_ALIGNED = [
  'ratesFor',
  'rate',
  'rateOf',
  'compared',
  'astray',
] as const satisfies readonly (keyof Aligned)[]

type Look = (...args: readonly Argument[]) => unknown

function looks(of: object, names: readonly string[]): readonly (readonly [string, Look])[] {
  return names.map((name) => [name, (of as Readonly<Record<string, Look>>)[name] as Look] as const)
}

/** Look-ups by their names, each of which notes what it is asked. */
function asked(asking: Asking, room: string, of: object, names: readonly string[]): Record<string, Look> {
  return Object.fromEntries(
    looks(of, names).map(([name, look]) => [
      name,
      asking.through(`${room}${BETWEEN}${name}`, look, { crowd: CROWDED[name] }),
    ]),
  )
}

/** The baseline, noting what it is asked; a list that is read whole is asked by its name. */
export function askedIndex(index: BaselineIndex, asking: Asking): BaselineIndex {
  const part = asking.through('part', (name: string) => index.baseline[name as keyof Baseline])
  const baseline = new Proxy(index.baseline, { get: (_, name) => part(String(name)) })
  const postingRule = asking.through(
    'posting',
    (...args: Parameters<Lookups['postingRule']>) => index.postingRule(...args),
    {
      texts: (kind, agencyId, only, date) => [kind, agencyId, only?.by, only?.id, date],
      crowd: { at: 3, unknown: (rule, _kind, _agencyId, only) => rule === undefined && only?.by === 'party' },
    },
  )
  // Does not compile where a look-up is asked nowhere.
  const byText = asked(asking, 'baseline', index, BY_TEXT) as unknown as Pick<
    Lookups,
    (typeof BY_TEXT)[number]
  >
  return answeredBy({ ...byText, baseline, postingRule })
}

/** A system, noting what it is asked. What is no question is out of reach while a unit is composed, but for what the system says of itself. */
export function askedSystem(held: HeldSystem, asking: Asking): HeldSystem {
  const questions = asked(asking, `system${BETWEEN}${held.row.system_id}`, held, OF_SYSTEM)
  const row = new Proxy(held.row, {
    get: (all, name) => {
      if (asking.isNoting && !SAME.includes(name)) throw unasked(name)
      return all[name as keyof SystemRow]
    },
  })
  return new Proxy(held, {
    get: (all, name) => {
      const question = questions[String(name)]
      if (question) return question
      if (name === 'row') return row
      if (asking.isNoting) throw unasked(name)
      return all[name as keyof HeldSystem]
    },
  })
}

/** What of a system is the same for as long as it is connected as it is: where it is not, all is due. */
const SAME: readonly (string | symbol)[] = ['system_id', 'role', 'name'] satisfies (keyof SystemRow)[]

function unasked(name: string | symbol): Error {
  return new Error(`"${String(name)}" of a system is read, and not asked for`)
}

export function askedAligned(aligned: Aligned, systemId: string, date: string, asking: Asking): Aligned {
  return asked(
    asking,
    `aligned${BETWEEN}${systemId}${BETWEEN}${date}`,
    aligned,
    OF_ALIGNED,
  ) as unknown as Aligned
}

export function askedDeparting({ item, party, ...rest }: Departing, asking: Asking): Departing {
  return {
    ...rest,
    item: asking.through('departing-item', item),
    party: asking.through('departing-party', party, {
      crowd: { at: 1, unknown: (departs) => departs === undefined },
    }),
  }
}

/** What a question comes to by a set-up, as something that JSON can hold. */
export function answerTo(text: string, of: Answering): unknown {
  const [room = '', ...rest] = text.split(BETWEEN)
  const [first = '', second = '', third = '', ...others] = rest
  const crowd = (number: string | undefined): unknown => knownIn(of, room, [first, second]).get(number ?? '')
  const look = (from: object | undefined, name: string, args: readonly string[]): unknown =>
    (from as Readonly<Record<string, Look>> | undefined)?.[name]?.(...args)
  switch (room) {
    case 'baseline':
      if (first.endsWith(CROWD)) return crowd(second)
      return look(of.index, first, rest.slice(1))
    case 'part':
      return of.index.baseline[first as keyof Baseline]
    case 'posting': {
      const [by, id = '', date = ''] = [third, ...others]
      const only = by === '' ? null : ({ by, id } as Parameters<Lookups['postingRule']>[2])
      return of.index.postingRule(first as never, second === '' ? null : second, only, date)
    }
    case `posting${CROWD}`:
      return crowd(others[0])
    case 'system':
      if (second.endsWith(CROWD)) return crowd(third)
      return look(of.systems.find(({ row }) => row.system_id === first) ?? undefined, second, [
        third,
        ...others,
      ])
    case 'aligned':
      return look(of.aligned(first, second), third, others)
    case 'departing-item':
      return of.departing.item(first, second)
    case 'departing-party':
      return of.departing.party(first, second)
    case `departing-party${CROWD}`:
      return crowd(second)
    case 'accounts':
      return Object.entries(of.accounts).map(([name, accounts]) => [name, [...accounts].sort()])
    default:
      return randomUUID()
  }
}

/** One of a crowd of whom something is known, and what. */
type Acquainted = readonly [id: string, known: unknown]

/**
 * Of whom something is known by a look-up, with all of it: who is answered as nobody today, since a rule of theirs begins later or they stand for
 * themselves, may be answered otherwise once that changes.
 */
function acquainted(of: Answering, room: string, [first, second]: readonly [string, string]): Acquainted[] {
  const { baseline } = of.index
  switch (room) {
    case 'baseline':
      return first === `party${CROWD}`
        ? baseline.parties.map(({ id }) => [id, null])
        : baseline.certificates.map(({ partyId }) => [partyId, null])
    case 'system':
      return (of.systems.find(({ row }) => row.system_id === first)?.links ?? []).flatMap(
        ({ kind, objectId, baselineId }): Acquainted[] =>
          second === `partyOf${CROWD}` && kind === 'party' ? [[objectId, baselineId]] : [],
      )
    case `posting${CROWD}`:
      return baseline.postingRules.flatMap((rule): Acquainted[] =>
        rule.kind === first && rule.only?.by === 'party' ? [[rule.only.id, rule]] : [],
      )
    default:
      return of.departing.parties(first).map((id) => [id, null])
  }
}

/** What is known of whom, by crowd: worked out once for a set-up. */
function knownIn(
  of: Answering,
  room: string,
  [first, second]: readonly [string, string],
): ReadonlyMap<string, readonly Acquainted[]> {
  const looked = KNOWN.get(of) ?? new Map<string, ReadonlyMap<string, readonly Acquainted[]>>()
  KNOWN.set(of, looked)
  // Of the baseline and of a source's exemptions, what follows is the crowd itself.
  const who = [room, first, ...(room === 'system' ? [second] : [])].join(BETWEEN)
  const known =
    looked.get(who) ??
    groupBy(
      acquainted(of, room, [first, second]).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0)),
      ([id]) => crowdOf(id),
    )
  looked.set(who, known)
  return known
}

const KNOWN = new WeakMap<Answering, Map<string, ReadonlyMap<string, readonly Acquainted[]>>>()
