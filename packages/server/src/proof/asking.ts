export type Argument = string | null | undefined
/** Stands between the parts of a question. */
export const BETWEEN = '\u0001'
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

/**
 * Of buyers and suppliers there is no end, and of most of them nothing is agreed: who is not known is asked of as one of a crowd, and the answer is
 * what is known of that crowd. There are so many crowds, whoever comes; and what becomes known of one touches what was sold to its own crowd.
 */
interface Crowd<A extends readonly unknown[], T> {
  /** The place among a question's texts of whom is asked. */
  readonly at: number
  readonly unknown: (answer: T, ...args: A) => boolean
}

const CROWDS = 1024
/** Ends the name of what is asked of a crowd. */
export const CROWD = '?'

export function crowdOf(id: string): string {
  let mixed = 0x811c9dc5
  for (let at = 0; at < id.length; at++) mixed = Math.imul(mixed ^ id.charCodeAt(at), 0x01000193)
  return String((mixed >>> 0) % CROWDS)
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
   * @param crowd asks of whoever is not known by the crowd that one belongs to
   */
  through<A extends readonly unknown[], T>(
    room: string,
    look: (...args: A) => T,
    {
      texts = (...args) => args as readonly unknown[] as readonly Argument[],
      crowd,
    }: {
      readonly texts?: (...args: A) => readonly Argument[]
      readonly crowd?: Crowd<A, T> | undefined
    } = {},
  ): (...args: A) => T {
    const ways = this.waysOf(room)
    const crowded = this.waysOf(`${room}${CROWD}`)
    return (...args) => {
      const { noted } = this
      if (noted === null) return look(...args)
      this.noted = null
      try {
        const answer = look(...args)
        let [from, written] = [ways, texts(...args)]
        if (crowd?.unknown(answer, ...args) === true) {
          from = crowded
          written = written.map((text, at) => (at === crowd.at ? crowdOf(text ?? '') : text))
        }
        const way = wayOf(from.ways, written)
        noted.add((way.question ??= questionOf(from.room, written, this.questions)))
        return answer
      } finally {
        this.noted = noted
      }
    }
  }

  private waysOf(room: string): { readonly room: string; readonly ways: Way } {
    const ways = this.rooms.get(room) ?? newWay()
    this.rooms.set(room, ways)
    return { room, ways }
  }

  get isNoting(): boolean {
    return this.noted !== null
  }
}

/** Look-ups by whom they are of, and who is not known to them. */
export const CROWDED: Readonly<Record<string, Crowd<readonly Argument[], unknown>>> = {
  party: { at: 0, unknown: (answer) => answer === undefined },
  certificatesOf: { at: 0, unknown: (answer) => (answer as readonly unknown[]).length === 0 },
  partyOf: { at: 0, unknown: (answer, id) => answer === id },
}
const BY_PARTY = Object.keys(CROWDED).flatMap((name) => [name, `${name}${CROWD}`])

/** Those that many units ask alike stand together; what is asked of a party, or of an item, stands by itself. */
function subjectOf(text: string): string {
  const [room = '', first = '', second = '', third = '', fourth = ''] = text.split(BETWEEN)
  if (room === 'baseline' && BY_PARTY.includes(first)) return 'party'
  if (room === 'baseline' && first === 'item') return `item ${second}`
  if (room === 'system' && BY_PARTY.includes(second)) return 'party'
  if (room === 'system' && second === 'itemOf') return `item ${third}`
  if (room.startsWith('departing-party')) return 'party'
  if (room === 'departing-item') return `item ${second}`
  if (room.startsWith('posting') && (third === 'party' || third === 'item')) return `${third} ${fourth}`
  return ''
}
