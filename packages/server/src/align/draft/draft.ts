import { createHash } from 'node:crypto'
import {
  kindsWith,
  sayDoubt,
  sayOption,
  type DecisionRow,
  type DecisionsTaken,
  type DecisionsView,
} from '@axion/contract'
import {
  absolute,
  baselineOf,
  draftBaseline,
  formatAmount,
  indexBaseline,
  multiply,
  partsOf,
  ratio,
  round,
  sum,
  waitingFor,
  type BaselineIndex,
  type Decision,
  type Draft,
  type Given,
} from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { importBaseline, recordedAt } from '../../baseline/import.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { readBaseline } from '../../baseline/read.ts'
import type { Books } from '../../database/connection.ts'
import { json } from '../../database/json.ts'
import { familiesOf } from '../../documents/families.ts'
import { newestDocuments, storedOf } from '../../documents/newest.ts'
import { Problem } from '../../faults/problem.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { ALL_SET_UP, loadHeld, type HeldSystem } from '../../setUp/held.ts'
import { recordBatch, type Step } from '../../setUp/steps.ts'
import { putLink } from '../links.ts'
import { askedOf } from './asked.ts'
import { givenOf } from './given.ts'
import { noteSeen } from './seen.ts'
import { stated } from './stated.ts'

/** A draft is read out of the newest so many documents. */
const MOST_READ = 2000
const NAMED = 20

interface Drafted {
  readonly draft: Draft
  readonly given: Given
  readonly index: BaselineIndex
  readonly systems: readonly HeldSystem[]
  readonly of: number
  /** Purchases, which are not read. */
  readonly bought: number
  readonly revision: string
}

/** What can be drafted of a baseline out of what systems hold and charged, beside what stands in it already. Nothing is kept. */
async function readDraft(books: Books, month: string): Promise<Drafted> {
  const { currency } = books
  const index = await loadBaseline(books)
  const systems = await loadHeld(books, ALL_SET_UP)
  const isBought = ({ purchase }: { readonly purchase: boolean }): boolean => purchase
  const { newest, of } = await newestDocuments(
    books,
    MOST_READ,
    kindsWith((kind) => !isBought(kind)),
  )
  const bought = await newestDocuments(books, 1, kindsWith(isBought))
  const documents = await storedOf(books, newest)
  const families = await familiesOf(books, documents)
  const given = givenOf(systems, { month, documents, families }, { index, currency })
  const draft = draftBaseline(given)
  const revision = createHash('sha256')
    .update(
      json(
        draft.decisions.map(({ key, options }) => [key, options.map((one) => [one.key, told(one.parts)])]),
      ),
    )
    .digest('base64url')
  return { draft, given, index, systems, of, bought: bought.of, revision }
}

/** Parts of a baseline as something that JSON can hold. */
function told(parts: object): unknown {
  return JSON.parse(
    JSON.stringify(parts, (_, value: unknown) => (typeof value === 'bigint' ? value.toString() : value)),
  )
}

/** The draft as it is shown: each decision with its answers in words, and what speaks for it and against it. */
export async function decisionsView(books: Books, month: string): Promise<DecisionsView> {
  const { draft, given, index, systems, of, bought, revision } = await readDraft(books, month)
  const whole = baselineOf(partsOf(draft.decisions), index.baseline)
  const [byNow, byDraft] = [draft.explainedBy(index.baseline), draft.explainedBy(whole)]
  const left = given.sales.filter((sale) => !byDraft(sale))
  return {
    currency: books.currency,
    revision,
    documents: given.sales.length,
    of,
    bought,
    explained: { now: given.sales.filter(byNow).length, drafted: given.sales.length - left.length },
    unexplained: left.slice(0, NAMED).map(({ id, document }) => ({ unit: id, number: document.number })),
    asked: await askedOf(books, month, { given, whole }),
    decisions: rowsOf(draft.decisions, {
      given,
      index: indexBaseline(whole),
      systems,
      currency: books.currency,
    }),
  }
}

function rowsOf(
  decisions: readonly Decision[],
  {
    given,
    index,
    systems,
    currency,
  }: Pick<Drafted, 'given' | 'index' | 'systems'> & { readonly currency: string },
): DecisionRow[] {
  const names = new Map(systems.map(({ row }) => [row.system_id, row.name]))
  const ledger = systems.find(({ row }) => row.role === 'ledger')
  const account = (number: string): string => ledger?.accountName(number) ?? number
  const taxes = new Map(
    given.sales.map(({ id, taxes: own, document }) => {
      const tax = absolute(sum(own.map((one) => one.tax)))
      const { exchange } = document
      return [id, exchange ? round(multiply(ratio(tax), exchange.rate)) : tax] as const
    }),
  )
  const waits = waitingFor(decisions)
  const numbers = new Map(given.sales.map(({ id, document }) => [id, document.number]))
  const weighed = (sales: readonly string[]): { documents: number; tax: string; units: bigint } => {
    const units = sum(sales.map((id) => taxes.get(id) ?? 0n))
    return { documents: sales.length, tax: formatAmount(units, currency), units }
  }
  return decisions
    .map((decision) => ({ decision, rests: weighed(decision.rests), against: weighed(decision.against) }))
    .sort((a, b) => (a.rests.units === b.rests.units ? 0 : a.rests.units < b.rests.units ? 1 : -1))
    .map(({ decision, rests, against }) => {
      const { key, about, name, called, standing, doubts, options, against: sales } = decision
      return {
        ...{
          key,
          about,
          name,
          called: [...called],
          standing,
          doubts: doubts.map((one) => sayDoubt(one, decision, currency)),
        },
        options: options.map((option) => ({
          key: option.key,
          says: sayOption(about, option.parts, { index, account }),
          systems: [...new Set(option.holders)].map((id) => names.get(id) ?? id),
        })),
        waitsFor: (waits.get(key) ?? []).map((one) => one.name),
        rests: { documents: rests.documents, tax: rests.tax },
        against: {
          documents: against.documents,
          tax: against.tax,
          named: sales.slice(0, NAMED).map((unit) => ({ unit, number: numbers.get(unit) ?? unit })),
        },
      }
    })
}

/**
 * Takes decisions into the baseline, with what they rest on and the links that go with them, in one act that is taken back in one.
 * @throws AXION_STALE where the draft is not the one that was seen, AXION_NOT_FOUND of a decision or an answer, AXION_BAD_REQUEST where one
 *   rests on what nothing can be drafted of; then nothing is kept
 */
export async function takeDecisions(
  books: Books,
  { month, person }: { readonly month: string; readonly person: string },
  { revision, take }: DecisionsTaken,
): Promise<number> {
  const choices = new Map(take.map(({ key, option }) => [key, option]))
  const { draft: seen, given, revision: now } = await readDraft(books, month)
  if (now !== revision) throw new Problem('AXION_STALE', { what: 'What is drafted' })
  const isForemost = seen.decisions.every(
    ({ key, options }) => !choices.has(key) || options[0]?.key === choices.get(key),
  )
  // Another answer than the foremost may make others of those that rest on it.
  const draft = isForemost ? seen : draftBaseline(given, choices)
  const by = new Map(draft.decisions.map((decision) => [decision.key, decision]))
  const taken = new Map<string, Decision>()
  const add = (key: string, from: string | null): void => {
    const decision = by.get(key)
    // What a decision rests on may stand in the baseline already.
    if (!decision && from !== null) return
    if (!decision || (from === null && !decision.options.some((one) => one.key === choices.get(key))))
      throw new Problem('AXION_NOT_FOUND', { what: 'such decision' })
    if (decision.options.length === 0)
      throw new Problem('AXION_BAD_REQUEST', {
        path: 'take',
        problem: `${from ?? key} rests on ${decision.name}, of which nothing can be drafted`,
      })
    // Nobody's answer is taken along with something else.
    if (decision.standing === 'open' && !choices.has(key))
      throw new Problem('AXION_BAD_REQUEST', {
        path: 'take',
        problem: `${from ?? key} rests on ${decision.name}, which is to be answered first`,
      })
    if (taken.has(key)) return
    taken.set(key, decision)
    for (const need of decision.needs) add(need, decision.name)
  }
  for (const key of choices.keys()) add(key, null)
  const decisions = [...taken.values()]
  const at = await recordedAt(books)
  await importBaseline(books, stated(partsOf(decisions), await readBaseline(books)), at)
  const steps: Step[] = [{ did: 'imported', at }]
  for (const { options, chosen } of decisions)
    for (const { holderId: systemId, ...link } of options[chosen]?.links ?? [])
      steps.push(await putLink(books, person, { systemId, ...link }))
  steps.push(
    ...(await noteSeen(books, { decisions, baseline: (await loadBaseline(books, at)).baseline, person })),
  )
  const says = decisions.length === 1 ? (decisions[0]?.name ?? '') : `${decisions.length} decisions`
  await audit(books.trx, 'decided', says, {
    after: Object.fromEntries(
      decisions.slice(0, 200).map(({ key, options, chosen }) => [key, options[chosen]?.key ?? '']),
    ),
  })
  await recordBatch(books, { person, action: 'decided', says }, steps)
  await noteSetUp(books)
  return decisions.length
}
