import { createHash } from 'node:crypto'
import { sayOption, type SeenChecked, type SeenView } from '@axion/contract'
import {
  formatAmount,
  textualKeys,
  type Baseline,
  type BaselineIndex,
  type Decision,
  type TextualKind,
} from '@axion/core'
import { audit } from '../../audit/audit.ts'
import {
  authorityOf,
  expectedBy,
  keepChecked,
  keepSeen,
  keyOf,
  restingOn,
  type Standing,
} from '../../baseline/authority.ts'
import { loadBaseline } from '../../baseline/load.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { filesOf } from '../attached/files.ts'
import { connectedSystems } from '../../setUp/held.ts'
import type { Step } from '../../setUp/steps.ts'

const ABOUT = { rate: 'place', rule: 'code', rounding: 'rounding', region: 'region' } as const

/** Keeps on whose word the drafted rates and rules of decisions stand, once they are in the baseline. */
export async function noteSeen(
  books: Books,
  {
    decisions,
    baseline,
    person,
  }: { readonly decisions: readonly Decision[]; readonly baseline: Baseline; readonly person: string },
): Promise<Step[]> {
  const seen = new Map<string, Set<string>>()
  for (const { options, chosen, rests } of decisions) {
    const option = options[chosen]
    for (const [kind, object] of textualKeys(option?.parts ?? {})) {
      const systems = seen.get(keyOf(kind, object)) ?? new Set()
      for (const holder of holdersOf(option?.holders ?? [], rests)) systems.add(holder)
      seen.set(keyOf(kind, object), systems)
    }
  }
  const things = await keepSeen(books, baseline, { seen, person })
  return things.length > 0 ? [{ did: 'seen', things }] : []
}

/** The systems that hold what is drafted, else the one whose documents it was read from; where documents of several were read, nobody says which. */
function holdersOf(holders: readonly string[], rests: readonly string[]): readonly string[] {
  if (holders.length > 0) return holders
  const sold = new Set(rests.map((sale) => sale.slice(0, sale.indexOf('/'))))
  return sold.size === 1 ? [...sold] : []
}

/** Whose text it is: the agency that collects in the place, or the place itself where none does. */
function ownerOf({ place }: Standing, index: BaselineIndex): { id: string; name: string } {
  const agency = place.agencyId === null ? undefined : index.agency(place.agencyId)
  return agency ? { id: agency.id, name: agency.name } : { id: place.id, name: place.name }
}

interface Group {
  readonly id: string
  readonly name: string
  readonly of: Standing[]
}

function groupsOf(all: readonly Standing[], index: BaselineIndex): Group[] {
  const groups = new Map<string, Group>()
  for (const one of all) {
    const { id, name } = ownerOf(one, index)
    const group = groups.get(id) ?? { id, name, of: [] }
    group.of.push(one)
    groups.set(id, group)
  }
  return [...groups.values()]
}

function revisionOf({ of }: Group): string {
  const says = of.map(({ kind, object, says: text, standing }) => [kind, object, text, standing])
  return createHash('sha256').update(JSON.stringify(says)).digest('base64url').slice(0, 20)
}

/** What was drafted out of systems, by whose text would say it, the largest tax first; what is checked stands beside it with who read it. */
export async function seenView(books: Books, month: string): Promise<SeenView> {
  const index = await loadBaseline(books)
  const names = new Map((await connectedSystems(books)).map((system) => [system.system_id, system.name]))
  const taxes = await expectedBy(books, month)
  const groups = groupsOf(await authorityOf(books), index).map((group) => {
    const agencies = new Set(group.of.flatMap((one) => one.agencies))
    return { ...group, tax: [...agencies].reduce((sum, agency) => sum + (taxes.get(agency) ?? 0n), 0n) }
  })
  const files = await filesOf(
    books,
    'check',
    groups.map(({ id }) => id),
  )
  return {
    currency: books.currency,
    resting: await restingOn(books, month),
    groups: groups
      .sort((a, b) => (a.tax === b.tax ? 0 : a.tax < b.tax ? 1 : -1))
      .map((group) => ({
        ...{ id: group.id, name: group.name, tax: formatAmount(group.tax, books.currency) },
        revision: revisionOf(group),
        files: files.get(group.id) ?? [],
        things: group.of.map((one) => ({
          says: sayTextual(one, index),
          standing: one.standing,
          seenIn: one.row.seen_in.map((id) => names.get(id) ?? id),
          checked: one.standing === 'checked' || one.standing === 'changed' ? checkedOf(one) : null,
        })),
      })),
  }
}

/** @throws AXION_NOT_FOUND where nothing that was drafted is of such an agency or place */
export async function requireSeen(books: Books, id: string): Promise<void> {
  const groups = groupsOf(await authorityOf(books), await loadBaseline(books))
  if (!groups.some((group) => group.id === id))
    throw new Problem('AXION_NOT_FOUND', { what: 'such agency or place among what was seen in systems' })
}

function checkedOf({ row }: Standing): SeenView['groups'][number]['things'][number]['checked'] {
  const { checked_against: against, checked_on: on, checked_by: person } = row
  return against === null || on === null || person === null ? null : { against, on, person }
}

function sayTextual({ kind, object, place, parts }: Standing, index: BaselineIndex): string {
  const text = sayOption(ABOUT[kind], kind === 'rate' ? { ...parts, jurisdictions: [place] } : parts, {
    index,
    account: (number) => number,
  })
  return `${before(kind, object, place.name)}${text}`
}

function before(kind: TextualKind, object: string, place: string): string {
  if (kind === 'rule') return `${object.slice(object.indexOf(' ') + 1)}: `
  return kind === 'rate' ? `${place}: ` : `${kind === 'rounding' ? 'Rounding' : 'Taxed'} in ${place}: `
}

/**
 * Keeps that somebody read what is of an agency, or of a place, in its own text, as it stands now.
 * @throws AXION_STALE where it is not as it was seen any more, AXION_NOTHING_TO_DO where all of it is checked, AXION_BAD_REQUEST of a day that is to come; then nothing is kept
 */
export async function checkSeen(
  books: Books,
  { person, today }: { readonly person: string; readonly today: string },
  { checks }: SeenChecked,
): Promise<number> {
  const groups = new Map(
    groupsOf(await authorityOf(books), await loadBaseline(books)).map((group) => [group.id, group]),
  )
  let kept = 0
  for (const { id, revision, against, on } of checks) {
    const group = groups.get(id)
    if (!group || revisionOf(group) !== revision)
      throw new Problem('AXION_STALE', { what: `What is held of ${group?.name ?? id}` })
    if (on > today)
      throw new Problem('AXION_BAD_REQUEST', {
        path: 'on',
        problem: `${group.name} cannot have been read on ${on}: it is ${today}`,
      })
    // What is checked twice at once is seen once.
    groups.delete(id)
    const open = group.of.filter(({ standing }) => standing !== 'checked')
    if (open.length === 0)
      throw new Problem('AXION_NOTHING_TO_DO', {
        what: `check of ${group.name}: it was checked as it stands`,
      })
    await keepChecked(books, open, { against, on, person })
    await audit(books.trx, 'checked', group.name, {
      after: { against, on, things: open.map(({ kind, object }) => keyOf(kind, object)) },
    })
    kept += open.length
  }
  return kept
}
