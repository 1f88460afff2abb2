import {
  COPIED_KINDS,
  fieldsOfKind,
  type BaselineImport,
  type CopiedKind,
  type CopyVersion,
} from '@axion/contract'
import { groupBy } from '@axion/core'
import { canonical, digestOfText } from '../../database/json.ts'
import { idOf } from '../baseline/change.ts'
import { versionOf, type Version } from '../baseline/versions.ts'

/** An object of a baseline that may be taken from one legal entity to another. */
export interface Thing {
  readonly key: string
  readonly kind: CopiedKind
  readonly id: string
  /** In the order of their days. */
  readonly versions: readonly Version[]
  /** The same for what says the same, whoever's it is. */
  readonly digest: string
}

/** So many of a cell's places or codes are named; how many there are is said of more. */
const NAMED = 12

/** All that may be taken of a baseline, by key. */
export function thingsOf(baseline: BaselineImport): ReadonlyMap<string, Thing> {
  return new Map(
    COPIED_KINDS.flatMap((kind) =>
      [...groupBy(baseline[kind] as readonly unknown[], (stated) => idOf(kind, stated))].map(
        ([id, stated]) => {
          const key = `${kind} ${id}`
          const versions = stated
            .map((one) => versionOf(kind, one))
            .sort((a, b) => ((a.from ?? '') < (b.from ?? '') ? -1 : 1))
          const digest = digestOfText(canonical(versions.map(({ cells, from, to }) => [cells, from, to])))
          return [key, { key, kind, id, versions, digest }] as const
        },
      ),
    ),
  )
}

/** What a baseline is once these are as they are elsewhere: of each key what is there, nothing where nothing is. */
export function withThings(
  baseline: BaselineImport,
  taken: ReadonlyMap<string, Thing | null>,
): BaselineImport {
  const lists = COPIED_KINDS.map((kind) => {
    const kept = (baseline[kind] as readonly unknown[]).filter(
      (stated) => !taken.has(`${kind} ${idOf(kind, stated)}`),
    )
    const fresh = [...taken.values()].flatMap((thing) =>
      thing?.kind === kind ? thing.versions.map(({ stated }) => stated) : [],
    )
    return [kind, [...kept, ...fresh]] as const
  })
  return { ...baseline, ...Object.fromEntries(lists) }
}

/** What is agreed of an object, version by version, without what it is known and called by. */
export function sayThing({ kind, versions }: Thing, called: string): CopyVersion[] {
  const fields = fieldsOfKind(kind).filter(({ known }) => !known)
  return versions.map(({ cells, from, to }) => ({
    says: fields
      .flatMap(({ path, title, type }) => {
        const cell = cells[path] ?? ''
        if (cell === '' || (path === 'name' && cell === called)) return []
        return [`${title} ${type === 'covers' || type === 'list' ? listed(cell) : cell}`]
      })
      .join(', '),
    ...{ from, to },
  }))
}

/** Places by their narrowest part, codes as they are. */
function listed(cell: string): string {
  const parts = cell
    .split(';')
    .map((part) => part.split('/').filter(Boolean).at(-1)?.trim() ?? '')
    .filter(Boolean)
  return parts.length > NAMED
    ? `${parts.slice(0, NAMED).join(', ')} … (${parts.length} in all)`
    : parts.join(', ')
}
