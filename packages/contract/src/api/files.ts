import type { Mapping } from '../sheets/mapping.ts'

/** What taking a file's rows would change. */
export interface ImportChanges {
  readonly added: number
  readonly changed: number
  readonly removed: number
  readonly same: number
  /** Of what changes or goes, by more than its name: what holds in months before the one that is worked, which were proved. */
  readonly earlier: number
  readonly samples: readonly {
    readonly kind: 'added' | 'changed' | 'removed'
    readonly label: string
    readonly fields: readonly { readonly field: string; readonly from: string; readonly to: string }[]
  }[]
}

export type ImportState =
  'opening' | 'mapping' | 'reading' | 'read' | 'applying' | 'applied' | 'cancelled' | 'failed'

/** What can go out as a spreadsheet, and what can come in as one. */
export interface FilesView {
  readonly targets: readonly {
    readonly id: string
    readonly name: string
    readonly takes: boolean
    readonly sheets: readonly { readonly key: string; readonly title: string; readonly rows: number }[]
  }[]
  readonly imports: readonly {
    readonly id: string
    readonly target: string
    readonly sheet: string | null
    readonly fileName: string
    readonly state: ImportState
    readonly total: number
    readonly bad: number
    readonly person: string
    readonly at: string
  }[]
}

/** A file on its way in. */
export interface ImportView {
  readonly id: string
  readonly target: string
  readonly fileName: string
  readonly state: ImportState
  readonly total: number
  readonly bad: number
  /** The first of them, by line. */
  readonly badRows: readonly {
    readonly sheet: string
    readonly line: number
    readonly problem: string
    readonly cells: readonly string[]
  }[]
  /** Where the file holds all objects, and where it holds some of them; null before its rows are read. */
  readonly changes: { readonly whole: ImportChanges | null; readonly part: ImportChanges | null }
  readonly sheets: readonly {
    readonly name: string
    readonly sheet: string | null
    readonly title: string
    readonly header: readonly string[]
    readonly rows: number
    readonly mapping: Mapping
    /** Whether it was mapped so before, under the same header. */
    readonly remembered: boolean
    readonly columns: readonly { readonly path: string; readonly title: string; readonly needed: boolean }[]
    readonly sample: readonly { readonly line: number; readonly cells: readonly string[] }[]
  }[]
}
