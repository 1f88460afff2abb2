import {
  ADOPTED_KINDS,
  CREATED_KINDS,
  SENT_KINDS,
  type AlignKind,
  type FindingCode,
  type FindingFacts,
  type GridCell,
  type GridObject,
  type Remedy,
} from '@axion/contract'
import type { MatchedObject } from '../../setUp/crosswalk.ts'
import type { Found, GridBasis, KindOfSetUp, BaselineRow, AlignedSystem } from '../kinds/kind.ts'
import { isAlmost, objectOf, placed, type Column, type PlacedFinding } from './column.ts'
import { findingKey } from '../../setUp/stake.ts'

/** Finds something in a cell: what its sentence needs beside the system and the row, which are known. */
export type Find = <C extends FindingCode>(
  code: C,
  more: Omit<FindingFacts<C>, 'system' | 'name'> & Found['facts'],
  key?: string | null,
) => PlacedFinding

interface Judged {
  readonly cell: GridCell
  readonly findings: readonly PlacedFinding[]
}

/** What a row is met by in a system: the kind, the row, the column, and how something is found there. */
interface Meeting {
  readonly basis: GridBasis
  readonly kind: KindOfSetUp
  readonly row: BaselineRow
  readonly column: Column
  readonly find: Find
}

export function cellOf(basis: GridBasis, kind: KindOfSetUp, row: BaselineRow, column: Column): Judged {
  const { aligned, systemId } = column
  const facts = { system: aligned.held.row.name, name: row.name }
  const find: Find = (code, more, key = null) => placed({ code, facts: { ...facts, ...more } }, systemId, key)
  const meeting = { basis, kind, row, column, find }
  if (kind.link === null) return withoutLinks(meeting)

  const own = (column.byRow.get(row.id) ?? []).filter((s) => !column.isSecond(s))
  const { gone, stale } = brokenLinks(meeting, kind.link)
  if (own.length > 0) return standingThere(meeting, own, { gone, stale })
  return gone.length > 0
    ? {
        cell: {
          systemId,
          objects: gone,
          remedies: [],
          state: 'differs',
          words: 'linked to what is gone',
        },
        findings: stale,
      }
    : nothingThere(meeting)
}

/** Links to what is gone: it is still shown, so that its link can be taken back. */
function brokenLinks(
  { row, column: { aligned, systemId }, find }: Meeting,
  linked: NonNullable<KindOfSetUp['link']>,
): { readonly gone: readonly GridObject[]; readonly stale: readonly PlacedFinding[] } {
  const broken = aligned.held.links.filter(
    (link) =>
      link.kind === linked && link.baselineId === row.id && !aligned.crosswalk.find(link.kind, link.objectId),
  )
  return {
    stale: broken.map((link) => find('AXION_ALIGN_STALE_LINK', { object: row.name, name: link.objectId })),
    gone: broken.map(({ objectId }) => ({
      id: objectId,
      name: objectId,
      linked: true,
      gone: true,
      agrees: false,
      words: 'gone from the system',
      evidence: [],
      clear: false,
      names: null,
      fields: [],
      finding: findingKey(systemId, linked, objectId),
    })),
  }
}

/** Why nothing of a system stands in the row, and whether something should. */
function nothingThere({ basis, kind, row, column, find }: Meeting): Judged {
  const { held } = column.aligned
  const empty = { systemId: column.systemId, objects: [], remedies: [] }
  if (column.matched.length === 0)
    return { cell: { ...empty, state: 'not-pulled', words: none(held) }, findings: [] }
  const questions = column.questions.get(row.id) ?? 0
  if (questions > 0) {
    const words = questions === 1 ? 'a candidate' : `${questions} candidates`
    return { cell: { ...empty, state: 'question', words }, findings: [] }
  }
  if (!kind.needs(basis, row.id, held)) {
    const words = kind.unneeded?.(basis, row.id) ?? ''
    return { cell: { ...empty, state: words === '' ? 'none' : 'not-needed', words }, findings: [] }
  }
  return {
    cell: { ...empty, remedies: creating(kind, row.id, held), state: 'absent', words: 'absent' },
    findings: [find('AXION_ALIGN_ABSENT', {})],
  }
}

/** What stands in the row, compared with it, each with what would mend it. */
function standingThere(
  { basis, kind, row, column: { aligned, systemId }, find }: Meeting,
  own: readonly MatchedObject[],
  { gone, stale }: ReturnType<typeof brokenLinks>,
): Judged {
  const compared = own.map((match) => ({
    match,
    compared: kind.compare(basis, row, match.objectId, aligned),
  }))
  const objects = compared.map(({ match, compared: c }): GridObject =>
    objectOf(kind, { name: row.name, systemId, match }, c),
  )
  const findings = compared.flatMap(({ match, compared: c }) => {
    const key = findingKey(systemId, kind.link ?? 'item', match.objectId)
    return [
      ...c.found.map((found) => placed(found, systemId, key)),
      ...(match.linkedTo === null ? [find('AXION_ALIGN_NOT_LINKED', { theirs: match.name })] : []),
      ...(kind.kind !== 'codes' && isAlmost(row.name, match.name)
        ? [find('AXION_ALIGN_NAME', { theirs: match.name })]
        : []),
    ]
  })
  const twice =
    own.length > 1 ? [find('AXION_ALIGN_TWICE', { theirs: own.map((s) => s.name).join(' and ') })] : []
  const agrees = compared.every(({ compared: c }) => c.agrees) && gone.length === 0
  const inWords =
    own.length > 1 ? `${own.length}: ${objects.map((o) => o.words).join('; ')}` : (objects[0]?.words ?? '')
  return {
    cell: {
      systemId,
      objects: [...objects, ...gone],
      remedies: compared.flatMap(({ match, compared: c }) =>
        eachOnce([...c.remedies, ...renaming(kind, row.name, match, aligned.held)]),
      ),
      state: !agrees ? 'differs' : own.every((s) => s.linkedTo !== null) ? 'agrees' : 'proposed',
      words: [gone.length > 0 ? 'a link to what is gone' : '', inWords].filter(Boolean).join('; '),
    },
    findings: [...stale, ...findings, ...twice],
  }
}

/** Why a system holds nothing of a kind: it was never pulled, or it has none. */
export function none(held: AlignedSystem['held']): string {
  const { agencies, rates, accounts, items, parties, codes, methods, locations, dimensions } = held
  const all: readonly (readonly unknown[])[] = [
    agencies,
    rates,
    accounts,
    items,
    parties,
    codes,
    methods,
    locations,
    dimensions,
  ]
  return all.some((each) => each.length > 0) ? 'it has none' : 'not pulled yet'
}

/** Where objects meet without links: a posting rule and the account of its number. */
function withoutLinks({ basis, kind, row, column: { aligned, systemId }, find }: Meeting): Judged {
  const nothing = { systemId, objects: [], remedies: [] }
  if (aligned.held.accounts.length === 0)
    return { cell: { ...nothing, state: 'not-pulled', words: none(aligned.held) }, findings: [] }
  if (row.total === '') return { cell: { ...nothing, state: 'none', words: '' }, findings: [] }
  const objectId = kind.meets?.(row, aligned.held) ?? null
  if (objectId === null)
    return {
      cell: { ...nothing, remedies: creating(kind, row.id, aligned.held), state: 'absent', words: 'absent' },
      findings: [find('AXION_ACCOUNT_ABSENT', { ours: row.total })],
    }
  const compared = kind.compare(basis, row, objectId, aligned)
  const object: GridObject = {
    id: objectId,
    name: compared.words,
    linked: true,
    gone: false,
    agrees: compared.agrees,
    words: compared.words,
    evidence: [],
    clear: false,
    names: null,
    fields: compared.fields,
    finding: '',
  }
  return {
    cell: {
      systemId,
      objects: [object],
      remedies: compared.remedies,
      state: compared.agrees ? 'agrees' : 'differs',
      words: compared.words,
    },
    findings: compared.found.map((found) => placed(found, systemId, null)),
  }
}

/** What a system lacks, made there, where it lets others make one. */
function creating(
  { kind, resource }: KindOfSetUp,
  baselineId: string,
  { row }: AlignedSystem['held'],
): Remedy[] {
  const align = CREATED_KINDS.find((one) => one === kind)
  return align && (row.about.creates as readonly string[]).includes(resource)
    ? [{ kind: 'create', align, systemId: row.system_id, baselineId }]
    : []
}

function eachOnce(remedies: readonly Remedy[]): Remedy[] {
  return [...new Map(remedies.map((remedy) => [JSON.stringify(remedy), remedy])).values()]
}

/** Where a system calls a thing by nearly the same name: the baseline's name to it, or its name into the baseline. */
function renaming(
  { kind, resource }: KindOfSetUp,
  name: string,
  match: MatchedObject,
  { row }: AlignedSystem['held'],
): Remedy[] {
  if (!isAlmost(name, match.name) || !isSent(kind)) return []
  const of = { align: kind, systemId: row.system_id, objectId: match.objectId }
  const adopted = ADOPTED_KINDS.find((one) => one === kind)
  return [
    ...((row.about.takes as readonly string[]).includes(resource) ? [{ kind: 'send', ...of } as const] : []),
    ...(adopted ? [{ kind: 'adopt', ...of, align: adopted } as const] : []),
  ]
}

function isSent(kind: AlignKind): kind is (typeof SENT_KINDS)[number] {
  return (SENT_KINDS as readonly AlignKind[]).includes(kind)
}
