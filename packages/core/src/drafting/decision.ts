import type { Baseline } from '../baseline/baseline.ts'
import type { Between } from './limits.ts'

/** What is decided of a baseline. */
export const DECIDED = [
  'agency',
  'place',
  'rate',
  'code',
  'item',
  'party',
  'method',
  'location',
  'rounding',
  'region',
  'posting',
] as const
export type Decided = (typeof DECIDED)[number]

/** Several systems say the same and nothing speaks against it; one system alone says so; or somebody has to say. */
export const STANDINGS = ['agreed', 'alone', 'open'] as const
export type Standing = (typeof STANDINGS)[number]

/** Why somebody has to say. */
export const DOUBTS = [
  'near-name',
  'two-of-one',
  'systems-differ',
  'documents-differ',
  'limit-between',
  'nobody-says',
  'fit-equally',
  'other-components',
  'no-place',
  'turns',
  'by-unit',
  'explains-nothing',
] as const
export type Doubt = (typeof DOUBTS)[number]

/** DraftedParts of a baseline. */
export type DraftedParts = Partial<Omit<Baseline, 'homeAddress' | 'defaults'>>

export type DraftedLink = {
  readonly kind:
    'agency' | 'combined-rate' | 'item-tax-code' | 'item' | 'party' | 'payment-method' | 'location'
  readonly holderId: string
  readonly objectId: string
  readonly baselineId: string
}

/** One of the answers. */
export interface Option {
  readonly key: string
  /** The systems that say so. */
  readonly holders: readonly string[]
  readonly parts: DraftedParts
  readonly links: readonly DraftedLink[]
}

/** One line of a draft. */
export interface Decision {
  readonly key: string
  readonly about: Decided
  readonly name: string
  /** What the systems call it, where that is not all the same. */
  readonly called: readonly string[]
  readonly standing: Standing
  readonly doubts: readonly Doubt[]
  /** Between which prices of one article a limit lies, in minor units, where that is a doubt. */
  readonly between?: Between
  /** The foremost first. None where nothing can be drafted: then it is asked plainly. */
  readonly options: readonly Option[]
  /** Which of them counts: what was chosen, else the foremost. */
  readonly chosen: number
  /** Decisions without which it cannot be taken. */
  readonly needs: readonly string[]
  /** Documents that rest on it, and those that speak against it. */
  readonly rests: readonly string[]
  readonly against: readonly string[]
}

/** What was chosen, by the key of a decision: an option's key. */
export type Choices = ReadonlyMap<string, string>

export function standingOf(doubts: readonly Doubt[], holders: readonly string[]): Standing {
  return doubts.length > 0 ? 'open' : new Set(holders).size > 1 ? 'agreed' : 'alone'
}

export function chosenAmong(key: string, options: readonly Option[], choices: Choices): number {
  const wanted = choices.get(key)
  return Math.max(
    0,
    options.findIndex((option) => option.key === wanted),
  )
}

/** All parts of the options that count, as one. */
export function partsOf(decisions: readonly Decision[]): DraftedParts {
  const all: Record<string, unknown[]> = {}
  for (const { options, chosen } of decisions)
    for (const [name, rows] of Object.entries(options[chosen]?.parts ?? {}))
      all[name] = [...(all[name] ?? []), ...(rows as readonly unknown[])]
  return all as DraftedParts
}

/** The names of an object, where they differ by more than nothing. */
export function namesOf(names: readonly string[]): string[] {
  const all = [...new Set(names)]
  return all.length > 1 ? all : []
}

/** The open decisions that each decision rests on, by its key: until they are answered nobody can take it. */
export function waitingFor(decisions: readonly Decision[]): ReadonlyMap<string, readonly Decision[]> {
  const by = new Map(decisions.map((decision) => [decision.key, decision]))
  const known = new Map<string, readonly Decision[]>()
  const find = (key: string): readonly Decision[] => {
    const found = known.get(key)
    if (found) return found
    const needs = (by.get(key)?.needs ?? []).flatMap((need) => by.get(need) ?? [])
    const open = new Set(
      needs.flatMap((need) => [...(need.standing === 'open' ? [need] : []), ...find(need.key)]),
    )
    known.set(key, [...open])
    return [...open]
  }
  return new Map(decisions.map(({ key }) => [key, find(key)]))
}
