import { foldName, nearName } from '@axion/core'
import type { Sheet } from './columns.ts'

/** Which column of a file, from 0, holds which column of a sheet; null where none does. */
export type Mapping = Readonly<Record<string, number | null>>

/** A mapping from a file's header, by title and by path; a title that nearly matches counts where nothing better does. */
export function guessMapping(sheet: Sheet, header: readonly string[]): Mapping {
  const folded = header.map(foldName)
  const taken = new Set<number>()
  const find = (test: (title: string) => boolean): number | null => {
    const at = folded.findIndex((title, place) => !taken.has(place) && title !== '' && test(title))
    if (at < 0) return null
    taken.add(at)
    return at
  }
  const exact = new Map(
    sheet.columns.map(({ path, title }) => [
      path,
      find(
        (t) => t === foldName(title) || t === foldName(path) || t === foldName(path.split('.').at(-1) ?? ''),
      ),
    ]),
  )
  return Object.fromEntries(
    sheet.columns.map(({ path, title }) => [path, exact.get(path) ?? find((t) => nearName(t, title))]),
  )
}

/** What is wrong with a mapping: a needed column without a source, or a source that the file does not have. */
export function mappingProblem(sheet: Sheet, mapping: Mapping, header: readonly string[]): string | null {
  for (const { path, title, needed } of sheet.columns) {
    const at = mapping[path] ?? null
    if (at === null && needed) return `${title} has no column of the file`
    if (at !== null && (at < 0 || at >= header.length))
      return `${title} is taken from a column that the file does not have`
  }
  return null
}

/** A file's row as the sheet's cells. */
export function mapped(sheet: Sheet, mapping: Mapping, cells: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    sheet.columns.map(({ path }) => [path, mapping[path] == null ? '' : (cells[mapping[path]] ?? '')]),
  )
}
