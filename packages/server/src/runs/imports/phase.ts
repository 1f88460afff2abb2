import type { Books } from '../../database/connection.ts'
import type { ImportRow } from '../../files/imports.ts'
import type { RunRow } from '../../jobs/runs.ts'
import type { Services } from '../../services/services.ts'

export type ImportRun = RunRow<'import'>

export interface Phase {
  readonly services: Services
  readonly books: Books
  readonly run: ImportRun
  readonly row: ImportRow
  readonly checkpoint: (done: number, total?: number) => Promise<void>
}
