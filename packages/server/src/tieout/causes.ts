import type { Columns } from '../database/row.ts'
import { sayCause, type CauseFacts, type CauseView, type Remedy } from '@axion/contract'
import { formatAmount, lastDayOf, reproducedFacts, type Names } from '@axion/core'
import { sameRemedy, setUpRemedyOf } from '../align/remedies.ts'
import type { Books } from '../database/connection.ts'
import type { Grounds } from '../proof/grounds.ts'
import { matterKey, type Matter } from '../proof/matter.ts'
import { groundsOf } from '../proof/grounds.ts'
import { canTell, TOLD } from './tell.ts'
import { FIGURES, KEEPABLE, KEPT_OF } from '../proof/settle.ts'
import type { Reproduced } from '../proof/weigh.ts'
import type { HeldSystem } from '../setUp/held.ts'

interface CauseRow extends Trouble {
  readonly documents: string
  readonly unproved: string
  readonly unproved_net: string
  readonly undecided: string
  readonly keepable: number
  readonly kept_waiting: number
  readonly bounded: number
  readonly waiting: number
}

/** What names are found in: what the systems hold, and the baseline. */
type Known = Pick<Grounds, 'systems' | 'index'>

/** And the system that the document is of, and the month. */
interface Around extends Known {
  readonly sourceId: string
  readonly month: string
}

/** The month's causes, largest money first: one line each, however many documents it explains. */
export async function causesOf(grounds: Grounds, month: string): Promise<CauseView[]> {
  const { trx, entityId, currency } = grounds
  const { rows } = (await trx.raw(
    `select cause, min(headline) as headline, min(missing_why) as missing_why, (array_agg(to_jsonb(odd)))[1] as odd, min(system_id) as system_id,
       (array_agg(assumptions order by jsonb_array_length(assumptions)))[1] as assumptions, count(*) as documents, sum(unproved) as unproved, sum(unproved_net) as unproved_net, sum(undecided) as undecided, (array_agg(matter order by unit_id) filter (where matter is not null))[1] as matter,
       (count(*) filter (where ${KEEPABLE}))::int as keepable, (count(*) filter (where exists (select from kept_difference k where ${KEPT_OF} and k.figures = ${FIGURES})))::int as kept_waiting,
       (count(*) filter (where pairs_left > 0 and not search_waits))::int as bounded, (count(*) filter (where search_waits))::int as waiting
     from unit u where entity_id = ? and period = ? and posted and not proved and cause is not null group by cause order by sum(unproved) desc, sum(unproved_net) desc, cause`,
    [entityId, month],
  )) as { rows: CauseRow[] }
  return rows.map((row) => {
    const [facts, ...others] = causeFacts(row, month, grounds)
    return {
      key: row.cause,
      facts,
      others,
      headline: row.headline,
      documents: Number(row.documents),
      unproved: formatAmount(BigInt(row.unproved), currency),
      unprovedNet: formatAmount(BigInt(row.unproved_net), currency),
      remedies: remediesFor(row, grounds),
      asks: kindsOf(row.assumptions).size > 1,
      keepable: row.keepable - row.kept_waiting,
      keptWaiting: row.kept_waiting,
      unsearched: { bounded: row.bounded, waiting: row.waiting },
    }
  })
}

/** What is known of why a unit, or all units of one cause, are not proved. */
export interface Trouble extends Columns<
  'unit',
  'cause' | 'headline' | 'missing_why' | 'odd' | 'assumptions' | 'system_id' | 'matter'
> {
  readonly cause: string
  readonly headline: string
  readonly assumptions: readonly Reproduced[]
  readonly system_id: string
  readonly matter: Matter | null
}

/** Whether an assumption reproduces it to the unit: its key names the voice first. */
function isExplained({ cause }: Trouble): boolean {
  return cause.includes(': ')
}

/** Why it is not proved: every explanation that reproduces it, or its matter, or what shows. */
export function causeFacts(
  unit: Trouble,
  month: string,
  known: Known,
): readonly [CauseFacts, ...CauseFacts[]] {
  const { assumptions, matter, headline, missing_why: why, odd } = unit
  const [first, ...others] = isExplained(unit)
    ? assumptions.map((one) => explanationFacts(one, { ...known, sourceId: unit.system_id, month }))
    : []
  if (first) return [first, ...others]
  if (matter !== null && unit.cause === matterKey(matter)) return [matterFacts(matter, known.systems)]
  return headline === 'missing'
    ? [{ kind: 'missing', why: why ?? '' }]
    : [{ kind: 'unexplained', headline, odd }]
}

/** A cause as a sentence, for the trail; its key where it is gone meanwhile. */
export async function causeInWords(books: Books, month: string, key: string): Promise<string> {
  const causes = await causesOf(await groundsOf(books), month)
  const found = causes.find((cause) => cause.key === key)
  return (found ? sayCause(found.facts, (day) => day) : key).slice(0, 400)
}

function kindsOf(assumptions: readonly Reproduced[]): Set<string> {
  return new Set(assumptions.map((r) => r.assumptions.map((a) => a.kind).join('+')))
}

/** What can be done about a cause from here. What stands wrong at the source alone is mended there. */
function remediesFor(row: CauseRow, { systems }: Known): Remedy[] {
  const { cause, headline, odd, assumptions, matter } = row
  // What a tax service keeps is mended there, or where it was told from: nothing of it is in the ledger.
  if (matter?.kind === 'flawed' && TOLD.includes(matter.code) && cause === matterKey(matter))
    return canTell(systems, cause) ? [{ kind: 'tell', cause }] : []
  const bookAgain: Remedy = { kind: 'book-again', cause }
  if (headline === 'missing' || headline === 'orphan') return []
  if (headline === 'duplicate' || cause === 'voided|source') return [{ kind: 'take-back', cause }]
  if (headline === 'voided' || headline === 'period') return [bookAgain]
  if (headline === 'edited') return [{ kind: 'accept', cause }, bookAgain]
  if (!odd.includes('booked')) return []
  const setUps = isExplained(row) ? assumptions.flatMap((r) => setUpRemedyOf(r.assumptions) ?? []) : []
  const different = setUps.filter((one, at) => setUps.findIndex((other) => sameRemedy(other, one)) === at)
  return odd.length > 1 ? [bookAgain] : [...different, bookAgain, { kind: 'correct', cause }]
}

function matterFacts(matter: Matter, systems: readonly HeldSystem[]): CauseFacts {
  if (matter.kind !== 'moved') return matter
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const named = (numbers: readonly string[]): string[] =>
    numbers.map((number) => ledger?.accountName(number) ?? number)
  return { kind: 'moved', from: named(matter.from), to: named(matter.to) }
}

/** An explanation with the names that people know its objects by. */
function explanationFacts({ voice, assumptions }: Reproduced, around: Around): CauseFacts {
  const { systems, sourceId } = around
  const speaker =
    voice === 'booked'
      ? systems.find((s) => s.row.role === 'ledger')
      : systems.find((s) => s.row.system_id === sourceId)
  const system = speaker?.row.name ?? (voice === 'booked' ? 'The ledger' : 'The source')
  const names = namesIn(around)
  const parts = assumptions.map((assumption) => reproducedFacts(assumption, system, names))
  return parts.length === 1 && parts[0] ? parts[0] : { kind: 'both', parts }
}

function namesIn({ systems, index, sourceId, month }: Around): Names {
  const heldBy = (id: string): HeldSystem | undefined => systems.find((s) => s.row.system_id === id)
  return {
    index,
    day: lastDayOf(month),
    jurisdiction: (id) => index.jurisdiction(id)?.name ?? id,
    agency: (id) => index.agency(id)?.name ?? id,
    rate: (systemId, rateId) =>
      heldBy(systemId ?? sourceId)?.rates.find((r) => r.id === rateId)?.value.name ?? rateId,
    account: (systemId, number) =>
      `${number} ${heldBy(systemId)?.accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim(),
  }
}
