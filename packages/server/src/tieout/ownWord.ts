import type { MonthResting } from '@axion/contract'
import { formatAmount, groupBy, type BaselineIndex, type Textual } from '@axion/core'
import { authorityOf, restingOn, restsOnSystems, type Standing } from '../baseline/authority.ts'
import { loadBaseline } from '../baseline/load.ts'
import type { Books } from '../database/connection.ts'
import { BETWEEN } from '../proof/asking.ts'

/** What of a system's documents is worked out from what that system alone has it: the sets of questions that are answered by it. */
export interface OwnWord {
  readonly system: string
  readonly sets: readonly number[]
}

/** The look-ups whose answer is such a thing, or falls to it from a place around. */
const ASKED: Readonly<Record<Textual['kind'], readonly string[]>> = {
  rate: ['rateOn', 'ratesOf'],
  rule: ['codeRuleOn'],
  rounding: ['roundingOn'],
  region: ['regionRuleOn'],
}

/**
 * What was drafted from one system proves nothing about that system: what it states is expected by construction. Found by what its documents rest
 * on: a percent, a rule, a rounding place, that stands on this system's word alone, and that nobody read in the agency's own text.
 */
export async function ownWordOf(books: Books): Promise<readonly OwnWord[]> {
  const alone = (await authorityOf(books)).filter(({ standing }) => standing === 'alone')
  if (alone.length === 0) return []
  const { trx, entityId } = books
  const names = [...new Set(alone.flatMap(({ kind }) => ASKED[kind]))]
  const { rows } = (await trx.raw(
    `select question_no as no, asked from question where entity_id = :e and split_part(asked, :between, 1) = 'baseline' and split_part(asked, :between, 2) = any(:names)`,
    { e: entityId, between: BETWEEN, names: names as never },
  )) as { rows: { readonly no: number; readonly asked: string }[] }
  const index = await loadBaseline(books)
  const found: OwnWord[] = []
  for (const [system, things] of groupBy(alone, ({ row }) => row.seen_in[0] ?? '')) {
    const keys = new Set(things.map(keyOf))
    const questions = rows.filter(({ asked }) => keys.has(answeredBy(asked, index) ?? '')).map(({ no }) => no)
    const { rows: sets } = (await trx.raw(
      'select set_no as no from question_set where entity_id = :e and questions && :questions::int[]',
      { e: entityId, questions: questions as never },
    )) as { rows: { readonly no: number }[] }
    found.push({ system, sets: sets.map(({ no }) => no) })
  }
  return found
}

const keyOf = ({ kind, object }: Pick<Standing, 'kind' | 'object'>): string => `${kind} ${object}`

/** The thing that a question is answered by: a rule that a place has from around it is of the place around. */
function answeredBy(asked: string, index: BaselineIndex): string | null {
  const [, name = '', place = '', second = '', third = '', fourth] = asked.split(BETWEEN)
  if (ASKED.rate.includes(name)) return keyOf({ kind: 'rate', object: place })
  if (ASKED.rule.includes(name)) {
    const rule = index.codeRuleOn(place, second, third, fourth === '' ? undefined : fourth)
    return rule ? keyOf({ kind: 'rule', object: `${rule.jurisdictionId} ${rule.itemTaxCode}` }) : null
  }
  const kind = ASKED.rounding.includes(name) ? 'rounding' : 'region'
  const found = kind === 'rounding' ? index.roundingOn(place, second) : index.regionRuleOn(place, second)
  return found ? keyOf({ kind, object: found.jurisdictionId }) : null
}

/** SQL, of a unit `l`: it stands on the word of its own source, by what its tax was drafted from or by the source's own flags. */
export function onOwnWord(words: readonly OwnWord[]): {
  readonly sql: string
  readonly bindings: Readonly<Record<string, unknown>>
} {
  const named = words.filter(({ sets }) => sets.length > 0)
  return {
    sql: `(${['l.by_source', ...named.map((_, at) => `l.system_id = :own_${at} and l.rests_on && :sets_${at}::int[]`)].join(' or ')})`,
    bindings: Object.fromEntries(
      named.flatMap(({ system, sets }, at) => [
        [`own_${at}`, system],
        [`sets_${at}`, sets],
      ]),
    ),
  }
}

/** On what a month's proof rests that was checked by nobody; null where all is. Which documents stand on their own source's word is a list of its own. */
export async function monthResting(books: Books, month: string): Promise<MonthResting | null> {
  const resting = await restingOn(books, month)
  const bySource = (await monthsBySource(books)).has(month)
  if (!resting && !bySource) return null
  const nil = formatAmount(0n, books.currency)
  const { tax, alone, things } = resting ?? { tax: nil, alone: nil, things: 0 }
  const one = (await authorityOf(books)).some(({ standing }) => standing === 'alone')
  return { tax, alone, things, ownWord: bySource || one }
}

/** The months in which a source's own flags decide what something is taxed as. */
async function monthsBySource({ trx, entityId }: Books): Promise<ReadonlySet<string>> {
  const { rows } = (await trx.raw(
    `select m.period from (select distinct period from unit_sum where entity_id = :e) m
     cross join lateral (select 1 from unit u where u.entity_id = :e and u.period = m.period and u.by_source limit 1) one`,
    { e: entityId },
  )) as { rows: { readonly period: string }[] }
  return new Set(rows.map(({ period }) => period))
}

/** Which months are proved only as the systems have it: all, where anything of the baseline is, else those in which a source decides. */
export async function restingMonths(books: Books): Promise<(month: string) => boolean> {
  if (await restsOnSystems(books)) return () => true
  const months = await monthsBySource(books)
  return (month) => months.has(month)
}
