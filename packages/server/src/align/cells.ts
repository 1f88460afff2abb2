import {
  findingOf,
  ADOPTED_KINDS,
  CREATED_KINDS,
  wordsOf,
  SENT_KINDS,
  TAKEN_IN_KINDS,
  type AlignKind,
  type FindingCode,
  type FindingFacts,
  type GridCell,
  type GridObject,
  type GridRow,
  type Remedy,
  type Severity,
} from '@axion/contract'
import { compareNames, foldName, groupBy, nearName } from '@axion/core'
import { evidenceOf, isClear, standsFor, type Standing } from '../setUp/crosswalk.ts'
import { findingKey } from '../setUp/stake.ts'
import type { Found, Ground, KindOfSetUp, Row, Walked } from './kinds/index.ts'

/** A finding of one row, and the system that it is about; null where it is about the baseline alone. */
export interface PlacedFinding extends Found {
  readonly severity: Severity
  readonly systemId: string | null
  /** Under which the tax at stake by it is kept; null where none can be. */
  readonly key: string | null
}

export interface BuiltRow extends Row {
  readonly extra: GridRow['extra']
  readonly cells: readonly GridCell[]
  readonly findings: readonly PlacedFinding[]
}

/** All rows of one grid: the baseline's, then what systems hold beyond it. */
export function buildRows(ground: Ground, kind: KindOfSetUp): BuiltRow[] {
  const columns = ground.systems
    .filter(({ held }) => held.row.about.resources.includes(kind.resource))
    .map((walked) => columnOf(kind, walked))
  const rows = kind.rows(ground)
  const ours = rows.map((row): BuiltRow => {
    const built = columns.map((column) => cellOf(ground, kind, row, column))
    return {
      ...row,
      extra: null,
      cells: built.map(({ cell }) => cell),
      findings: [
        ...kind.about(ground, row).map((found) => placed(found, null, null)),
        ...built.flatMap(({ findings }) => findings),
      ],
    }
  })
  const names = new Map(rows.map((row) => [row.id, row.name]))
  return [
    ...ours,
    ...newRow(ground, kind, columns),
    ...columns.flatMap((column) => extrasOf(kind, column, columns, names)),
  ]
}

/** What is new, beside what each system does with it. */
function newRow(ground: Ground, kind: KindOfSetUp, columns: readonly Column[]): BuiltRow[] {
  const fresh = kind.ofNew?.(ground)
  if (!fresh) return []
  const built = columns.map(({ walked, systemId }) => ({ systemId, compared: fresh.of(walked) }))
  return [
    {
      ...fresh.row,
      extra: null,
      findings: built.flatMap(({ systemId, compared }) =>
        (compared?.found ?? []).map((found) => placed(found, systemId, null)),
      ),
      cells: built.map(({ systemId, compared }): GridCell => ({
        systemId,
        objects: [],
        remedies: [],
        state: compared === null ? 'none' : compared.agrees ? 'agrees' : 'differs',
        words: compared?.words ?? '',
      })),
    },
  ]
}

interface Column {
  readonly walked: Walked
  readonly systemId: string
  readonly standings: readonly Standing[]
  readonly byRow: ReadonlyMap<string, readonly Standing[]>
  readonly questions: ReadonlyMap<string, number>
  isSecond(standing: Standing): boolean
}

function columnOf(kind: KindOfSetUp, walked: Walked): Column {
  const standings = kind.link === null ? [] : walked.walk.of(kind.link)
  const byRow = groupBy(
    standings.filter((s) => standsFor(s) !== null),
    (s) => standsFor(s) ?? '',
  )
  const questions = new Map<string, number>()
  for (const { linkedTo, proposal } of standings) {
    if (linkedTo === null && proposal.kind === 'question')
      for (const { id } of proposal.candidates) questions.set(id, (questions.get(id) ?? 0) + 1)
  }
  // A second object of one system that claims what another has: linked, or with stronger evidence.
  const isSecond = (standing: Standing): boolean =>
    standing.linkedTo === null &&
    (byRow.get(standsFor(standing) ?? '') ?? []).some(
      (other) => other !== standing && (other.linkedTo !== null || strength(other) > strength(standing)),
    )
  return { walked, systemId: walked.held.row.system_id, standings, byRow, questions, isSecond }
}

const STRENGTH = [
  'near-name',
  'same-jurisdictions',
  'same-percent-and-components',
  'same-name',
  'same-code',
] as const

function strength(standing: Standing): number {
  return Math.max(-1, ...evidenceOf(standing).map((e) => STRENGTH.indexOf(e)))
}

/** Finds something in a cell: what its sentence needs beside the system and the row, which are known. */
type Find = <C extends FindingCode>(
  code: C,
  more: Omit<FindingFacts<C>, 'system' | 'name'> & Found['facts'],
  key?: string | null,
) => PlacedFinding

function cellOf(
  ground: Ground,
  kind: KindOfSetUp,
  row: Row,
  column: Column,
): { readonly cell: GridCell; readonly findings: readonly PlacedFinding[] } {
  const { walked, systemId } = column
  const { held } = walked
  const facts = { system: held.row.name, name: row.name }
  const nothing = { systemId, objects: [], remedies: [] }
  const find: Find = (code, more, key = null) => placed({ code, facts: { ...facts, ...more } }, systemId, key)
  if (kind.link === null) return meeting(ground, kind, row, { ...column, find })

  const own = (column.byRow.get(row.id) ?? []).filter((s) => !column.isSecond(s))
  const broken = held.links.filter(
    (link) =>
      link.kind === kind.link && link.baselineId === row.id && !walked.walk.find(link.kind, link.objectId),
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
    if (!kind.needs(ground, row.id, held)) {
      const words = kind.unneeded?.(ground, row.id) ?? ''
      return { cell: { ...nothing, state: words === '' ? 'none' : 'not-needed', words }, findings: [] }
    }
    return {
      cell: { ...nothing, remedies: creating(kind, row.id, held), state: 'absent', words: 'absent' },
      findings: [find('AXION_ALIGN_ABSENT', {})],
    }
  }
  const compared = own.map((standing) => ({
    standing,
    compared: kind.compare(ground, row, standing.objectId, walked),
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
function none(held: Walked['held']): string {
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
  ground: Ground,
  kind: KindOfSetUp,
  row: Row,
  { walked, systemId, find }: Column & { readonly find: Find },
): { readonly cell: GridCell; readonly findings: readonly PlacedFinding[] } {
  const nothing = { systemId, objects: [], remedies: [] }
  if (walked.held.accounts.length === 0)
    return { cell: { ...nothing, state: 'not-pulled', words: none(walked.held) }, findings: [] }
  if (row.total === '') return { cell: { ...nothing, state: 'none', words: '' }, findings: [] }
  const objectId = kind.meets?.(row, walked.held) ?? null
  if (objectId === null)
    return {
      cell: { ...nothing, remedies: creating(kind, row.id, walked.held), state: 'absent', words: 'absent' },
      findings: [find('AXION_ACCOUNT_ABSENT', { ours: row.total })],
    }
  const compared = kind.compare(ground, row, objectId, walked)
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

function objectOf(
  kind: KindOfSetUp,
  {
    name,
    systemId,
    standing,
  }: { readonly name: string; readonly systemId: string; readonly standing: Standing },
  { agrees, words, fields }: Pick<GridObject, 'agrees' | 'words' | 'fields'>,
): GridObject {
  return {
    id: standing.objectId,
    name: standing.name,
    linked: standing.linkedTo !== null,
    gone: false,
    agrees,
    words,
    fields,
    evidence: evidenceOf(standing),
    clear: isClear(standing),
    names: kind.link === 'item-tax-code' || name === standing.name ? null : compareNames(name, standing.name),
    finding: findingKey(systemId, kind.link ?? 'item', standing.objectId),
  }
}

/** What a system lacks, made there, where it lets others make one. */
function creating({ kind, resource }: KindOfSetUp, baselineId: string, { row }: Walked['held']): Remedy[] {
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
  { row }: Walked['held'],
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

/** Names that are the same after folding and not as they stand, or that nearly match. */
function isAlmost(ours: string, theirs: string): boolean {
  return ours !== theirs && (foldName(ours) === foldName(theirs) || nearName(ours, theirs))
}

function extrasOf(
  kind: KindOfSetUp,
  column: Column,
  columns: readonly Column[],
  names: ReadonlyMap<string, string>,
): BuiltRow[] {
  const {
    walked: { held },
    systemId,
  } = column
  return column.standings.flatMap((standing): BuiltRow[] => {
    const stands = standsFor(standing)
    const gone = stands !== null && !names.has(stands)
    if (stands !== null && !gone && !column.isSecond(standing)) return []
    if (!kind.matters(held, standing.objectId)) return []
    const candidates = (
      standing.proposal.kind === 'proposal'
        ? [standing.proposal.candidate]
        : standing.proposal.kind === 'question'
          ? standing.proposal.candidates
          : []
    ).map((c) => ({ ...c, name: names.get(c.id) ?? c.id }))
    const key = findingKey(systemId, kind.link ?? 'item', standing.objectId)
    const facts = { system: held.row.name, name: standing.name, theirs: standing.name, object: standing.name }
    const words = kind.says(held, standing.objectId)
    const found: Found =
      gone && standing.linkedTo !== null
        ? findingOf('AXION_ALIGN_STALE_LINK', { ...facts, name: stands })
        : stands !== null && !gone
          ? findingOf('AXION_ALIGN_TWICE', { ...facts, name: names.get(stands) ?? stands })
          : candidates.length > 1
            ? findingOf('AXION_ALIGN_UNDECIDED', {
                ...facts,
                names: candidates.map((c) => `${c.name} (${c.id})`).join(' or '),
              })
            : findingOf('AXION_ALIGN_EXTRA', facts)
    const flat =
      kind.kind === 'rates' && held.rates.find((r) => r.id === standing.objectId)?.value.components === null
    const object = objectOf(
      kind,
      { name: standing.name, systemId, standing },
      { agrees: false, words, fields: [] },
    )
    const align = TAKEN_IN_KINDS.find((one) => one === kind.kind)
    // What has candidates is a question of linking; what is typed by hand has no components to take in.
    const takingIn: Remedy[] =
      align && found.code === 'AXION_ALIGN_EXTRA' && candidates.length === 0 && !flat
        ? [{ kind: 'take-in', align, systemId, objectId: standing.objectId }]
        : []
    return [
      {
        id: `${systemId} ${standing.objectId}`,
        name: standing.name,
        group: 'Held by a system, and linked to nothing',
        detail: `in ${held.row.name}`,
        total: '',
        extra: { systemId, system: held.row.name, objectId: standing.objectId, candidates },
        cells: columns.map((other) =>
          other === column
            ? { systemId, state: 'differs', words, objects: [object], remedies: takingIn }
            : { systemId: other.systemId, state: 'none', words: '', objects: [], remedies: [] },
        ),
        findings: [
          placed(found, systemId, key),
          ...(flat
            ? [
                placed(
                  findingOf('AXION_RATE_FLAT', {
                    ...facts,
                    theirs: held.rates.find((r) => r.id === standing.objectId)?.value.percent ?? '',
                  }),
                  systemId,
                  key,
                ),
              ]
            : []),
        ],
      },
    ]
  })
}

function placed(found: Found, systemId: string | null, key: string | null): PlacedFinding {
  return { ...found, severity: wordsOf(found.code).severity, systemId, key }
}
