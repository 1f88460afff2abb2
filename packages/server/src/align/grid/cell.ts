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
import type { Standing } from '../../setUp/crosswalk.ts'
import type { Found, GridBasis, KindOfSetUp, BaselineRow, AlignedSystem } from '../kinds/kind.ts'
import { isAlmost, objectOf, placed, type Column, type PlacedFinding } from './column.ts'
import { findingKey } from '../../setUp/stake.ts'

/** Finds something in a cell: what its sentence needs beside the system and the row, which are known. */
export type Find = <C extends FindingCode>(
  code: C,
  more: Omit<FindingFacts<C>, 'system' | 'name'> & Found['facts'],
  key?: string | null,
) => PlacedFinding

export function cellOf(
  basis: GridBasis,
  kind: KindOfSetUp,
  row: BaselineRow,
  column: Column,
): { readonly cell: GridCell; readonly findings: readonly PlacedFinding[] } {
  const { aligned, systemId } = column
  const { held } = aligned
  const facts = { system: held.row.name, name: row.name }
  const nothing = { systemId, objects: [], remedies: [] }
  const find: Find = (code, more, key = null) => placed({ code, facts: { ...facts, ...more } }, systemId, key)
  if (kind.link === null) return meeting(basis, kind, row, { ...column, find })

  const own = (column.byRow.get(row.id) ?? []).filter((s) => !column.isSecond(s))
  const broken = held.links.filter(
    (link) =>
      link.kind === kind.link &&
      link.baselineId === row.id &&
      !aligned.crosswalk.find(link.kind, link.objectId),
  )
  const stale = broken.map((link) =>
    find('AXION_ALIGN_STALE_LINK', { object: row.name, name: link.objectId }),
  )
  // What is gone is still shown, so that its link can be taken back.
  const gone = broken.map(({ objectId }): GridObject => ({
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
    finding: findingKey(systemId, kind.link ?? 'item', objectId),
  }))
  if (own.length === 0 && gone.length > 0)
    return {
      cell: { ...nothing, objects: gone, state: 'differs', words: 'linked to what is gone' },
      findings: stale,
    }
  if (own.length === 0) {
    if (column.standings.length === 0)
      return { cell: { ...nothing, state: 'not-pulled', words: none(held) }, findings: [] }
    const questions = column.questions.get(row.id) ?? 0
    if (questions > 0)
      return {
        cell: {
          ...nothing,
          state: 'question',
          words: questions === 1 ? 'a candidate' : `${questions} candidates`,
        },
        findings: [],
      }
    if (!kind.needs(basis, row.id, held)) {
      const words = kind.unneeded?.(basis, row.id) ?? ''
      return { cell: { ...nothing, state: words === '' ? 'none' : 'not-needed', words }, findings: [] }
    }
    return {
      cell: { ...nothing, remedies: creating(kind, row.id, held), state: 'absent', words: 'absent' },
      findings: [find('AXION_ALIGN_ABSENT', {})],
    }
  }
  const compared = own.map((standing) => ({
    standing,
    compared: kind.compare(basis, row, standing.objectId, aligned),
  }))
  const objects = compared.map(({ standing, compared: c }): GridObject =>
    objectOf(kind, { name: row.name, systemId, standing }, c),
  )
  const findings = compared.flatMap(({ standing, compared: c }) => {
    const key = findingKey(systemId, kind.link ?? 'item', standing.objectId)
    return [
      ...c.found.map((found) => placed(found, systemId, key)),
      ...(standing.linkedTo === null ? [find('AXION_ALIGN_NOT_LINKED', { theirs: standing.name })] : []),
      ...(kind.kind !== 'codes' && isAlmost(row.name, standing.name)
        ? [find('AXION_ALIGN_NAME', { theirs: standing.name })]
        : []),
    ]
  })
  const twice =
    own.length > 1 ? [find('AXION_ALIGN_TWICE', { theirs: own.map((s) => s.name).join(' and ') })] : []
  const agrees = compared.every(({ compared: c }) => c.agrees)
  return {
    cell: {
      systemId,
      objects: [...objects, ...gone],
      remedies: compared.flatMap(({ standing, compared: c }) =>
        eachOnce([...c.remedies, ...renaming(kind, row.name, standing, held)]),
      ),
      state:
        !agrees || gone.length > 0
          ? 'differs'
          : own.every((s) => s.linkedTo !== null)
            ? 'agrees'
            : 'proposed',
      words: [
        gone.length > 0 ? 'a link to what is gone' : '',
        own.length > 1
          ? `${own.length}: ${objects.map((o) => o.words).join('; ')}`
          : (objects[0]?.words ?? ''),
      ]
        .filter(Boolean)
        .join('; '),
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
function meeting(
  basis: GridBasis,
  kind: KindOfSetUp,
  row: BaselineRow,
  { aligned, systemId, find }: Column & { readonly find: Find },
): { readonly cell: GridCell; readonly findings: readonly PlacedFinding[] } {
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
  standing: Standing,
  { row }: AlignedSystem['held'],
): Remedy[] {
  if (!isAlmost(name, standing.name) || !isSent(kind)) return []
  const of = { align: kind, systemId: row.system_id, objectId: standing.objectId }
  const adopted = ADOPTED_KINDS.find((one) => one === kind)
  return [
    ...((row.about.takes as readonly string[]).includes(resource) ? [{ kind: 'send', ...of } as const] : []),
    ...(adopted ? [{ kind: 'adopt', ...of, align: adopted } as const] : []),
  ]
}

function isSent(kind: AlignKind): kind is (typeof SENT_KINDS)[number] {
  return (SENT_KINDS as readonly AlignKind[]).includes(kind)
}
