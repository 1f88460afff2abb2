import type { AgreedChange, AgreedObject } from '@axion/contract'

export type Act = AgreedChange['act']
export type Version = Pick<AgreedObject['versions'][number], 'cells' | 'from' | 'to'>

/** What is being done to an object: nothing is there yet of one that is made. */
export interface Doing {
  readonly act: Act
  readonly id: string | null
  readonly version: Version | null
}

/** What is typed into the form, as it is typed. */
export interface Draft {
  cells: Record<string, string>
  /** Whether what is agreed of the kind holds from day to day. */
  readonly dated: boolean
  /** Whether it is so from a day on, or at all dates of the version. */
  from: 'a-day' | 'always'
  since: string
  /** The version's own days, where all of it is changed. */
  first: string
  last: string
}

/** A form begins with what stands; a day to begin or end with is the month's first, until somebody says otherwise. */
export function draftOf(
  { act, version }: Doing,
  paths: readonly string[],
  { month, dated }: { readonly month: string; readonly dated: boolean },
): Draft {
  return {
    cells: Object.fromEntries(paths.map((path) => [path, version?.cells[path] ?? ''])),
    dated,
    from: dated && act === 'change' ? 'a-day' : 'always',
    since: `${month}-01`,
    first: act === 'make' ? (dated ? `${month}-01` : '') : (version?.from ?? ''),
    last: act === 'end' ? '' : (version?.to ?? ''),
  }
}

/** The draft as the server takes it; what it refuses it names. */
export function changeOf({ act, id, version }: Doing, draft: Draft): AgreedChange {
  const days = draft.dated ? { from: draft.first, to: draft.last } : {}
  if (act === 'make') return { act, cells: { ...draft.cells, ...days } }
  const which = { id: id ?? '', version: version?.from ?? null }
  if (act === 'remove') return { act, ...which }
  if (act === 'end') return { act, ...which, last: draft.last }
  return draft.from === 'a-day'
    ? { act, ...which, cells: draft.cells, since: draft.since }
    : { act, ...which, cells: { ...draft.cells, ...days }, since: null }
}
