import { answeredBy, type Baseline, type BaselineIndex, type BookedAccounts, type Lookups } from '@axion/core'
import { randomUUID } from 'node:crypto'
import type { Aligned } from '../setUp/aligned.ts'
import type { Departing } from '../setUp/departing.ts'
import type { HeldSystem, SystemRow } from '../setUp/held.ts'

type Argument = string | null | undefined
const BETWEEN = '\u0001'
/** Stands for whatever cannot be asked again by its text: its answer is another each time. */
const ANYTHING = 'anything'

/**
 * What a unit is worked out from, as questions: each look-up in the set-up with what was looked up. While a unit is composed they are noted;
 * where one is answered otherwise later, the unit has to be worked out anew, and where all are answered as before, it comes to the same.
 * Of one text there is one in a proof, whoever asks it.
 */
export interface Question {
  readonly text: string
  readonly subject: string
}

/** What is asked in one way, by one argument after the other: each question is written once, however often it is asked. */
interface Way {
  readonly further: Map<string, Way>
  question: Question | null
}

const newWay = (): Way => ({ further: new Map(), question: null })

function wayOf(from: Way, args: readonly Argument[]): Way {
  let at = from
  for (const arg of args) at = at.further.get(arg ?? '') ?? newWayIn(at, arg ?? '')
  return at
}

function newWayIn({ further }: Way, arg: string): Way {
  const way = newWay()
  further.set(arg, way)
  return way
}

function questionOf(room: string, args: readonly Argument[], questions: Map<string, Question>): Question {
  const text = args.some((arg) => arg?.includes(BETWEEN))
    ? ANYTHING
    : `${room}${BETWEEN}${args.map((arg) => arg ?? '').join(BETWEEN)}`
  const known = questions.get(text) ?? { text, subject: subjectOf(text) }
  questions.set(text, known)
  return known
}

export class Asking {
  private noted: Set<Question> | null = null
  private readonly questions = new Map<string, Question>()
  private readonly rooms = new Map<string, Way>()

  /** Notes what is asked in the course of a piece of work. What a question itself looks up is its own answer's. */
  noting<T>(noted: Set<Question>, work: () => T): T {
    const outer = this.noted
    this.noted = noted
    try {
      return work()
    } finally {
      this.noted = outer
    }
  }

  /**
   * A look-up that notes what it is asked.
   * @param texts its arguments as they are written in a question
   */
  through<A extends readonly unknown[], T>(
    room: string,
    look: (...args: A) => T,
    texts: (...args: A) => readonly Argument[] = (...args) =>
      args as readonly unknown[] as readonly Argument[],
  ): (...args: A) => T {
    const ways = this.rooms.get(room) ?? newWay()
    this.rooms.set(room, ways)
    return (...args) => {
      const { noted } = this
      if (noted === null) return look(...args)
      const written = texts(...args)
      const way = wayOf(ways, written)
      noted.add((way.question ??= questionOf(room, written, this.questions)))
      this.noted = null
      try {
        return look(...args)
      } finally {
        this.noted = noted
      }
    }
  }

  get isNoting(): boolean {
    return this.noted !== null
  }
}

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
    looks(of, names).map(([name, look]) => [name, asking.through(`${room}${BETWEEN}${name}`, look)]),
  )
}

/** The baseline, noting what it is asked; a list that is read whole is asked by its name. */
export function askedIndex(index: BaselineIndex, asking: Asking): BaselineIndex {
  const part = asking.through('part', (name: string) => index.baseline[name as keyof Baseline])
  const baseline = new Proxy(index.baseline, { get: (_, name) => part(String(name)) })
  const postingRule = asking.through(
    'posting',
    (...args: Parameters<Lookups['postingRule']>) => index.postingRule(...args),
    (kind, agencyId, only, date) => [kind, agencyId, only?.by, only?.id, date],
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

export function askedDeparting({ item, party }: Departing, asking: Asking): Departing {
  return {
    item: asking.through('departing-item', item),
    party: asking.through('departing-party', party),
  }
}

/** What a question comes to by a set-up, as something that JSON can hold. */
export function answerTo(text: string, of: Answering): unknown {
  const [room = '', ...rest] = text.split(BETWEEN)
  const [first = '', second = '', third = '', ...others] = rest
  const look = (from: object | undefined, name: string, args: readonly string[]): unknown =>
    (from as Readonly<Record<string, Look>> | undefined)?.[name]?.(...args)
  switch (room) {
    case 'baseline':
      return look(of.index, first, rest.slice(1))
    case 'part':
      return of.index.baseline[first as keyof Baseline]
    case 'posting': {
      const [by, id = '', date = ''] = [third, ...others]
      const only = by === '' ? null : ({ by, id } as Parameters<Lookups['postingRule']>[2])
      return of.index.postingRule(first as never, second === '' ? null : second, only, date)
    }
    case 'system':
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
    case 'accounts':
      return Object.entries(of.accounts).map(([name, accounts]) => [name, [...accounts].sort()])
    default:
      return randomUUID()
  }
}

/** Those that many units ask alike stand together; what is asked of a party, or of an item, stands by itself. */
function subjectOf(text: string): string {
  const [room = '', first = '', second = '', third = '', fourth = ''] = text.split(BETWEEN)
  if (room === 'baseline' && (first === 'party' || first === 'certificatesOf')) return 'party'
  if (room === 'baseline' && first === 'item') return `item ${second}`
  if (room === 'system' && second === 'partyOf') return 'party'
  if (room === 'system' && second === 'itemOf') return `item ${third}`
  if (room === 'departing-party') return 'party'
  if (room === 'departing-item') return `item ${second}`
  if (room === 'posting' && (third === 'party' || third === 'item')) return `${third} ${fourth}`
  return ''
}
