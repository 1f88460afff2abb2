import { BASELINE_SHEETS, SYSTEM_SHEETS, type ImportChanges } from '@axion/contract'
import type { ImportMode } from './changes.ts'
import { BASELINE, type StagedSheet } from './importRows.ts'

/** A file that is taken in, phase by phase. */
export interface ImportRow {
  readonly import_id: string
  readonly target: string
  readonly sheet: string | null
  readonly file_name: string
  readonly content: Buffer | null
  readonly state: 'opening' | 'mapping' | 'reading' | 'read' | 'applying' | 'applied' | 'cancelled' | 'failed'
  readonly sheets: readonly StagedSheet[]
  readonly total: number
  readonly bad: number
  readonly report: {
    readonly whole?: ImportChanges
    readonly part?: ImportChanges
    readonly problem?: { readonly says: string; readonly mend: string }
  }
  readonly mode: ImportMode | null
  readonly person: string
  readonly at: Date
}

/** The sheets that a target may have, with their titles. */
export function sheetTitles(target: string): readonly { readonly key: string; readonly title: string }[] {
  return Object.entries(target === BASELINE ? BASELINE_SHEETS : SYSTEM_SHEETS).map(([key, { title }]) => ({
    key,
    title,
  }))
}

export const mappingKey = (target: string, sheet: string): string =>
  `${target === BASELINE ? BASELINE : 'system'}/${sheet}`
export const headerKey = (header: readonly string[]): string => header.join('\t').slice(0, 2000)
