import type { FastifyReply } from 'fastify'
import { audit } from '../audit/audit.ts'
import { inEntity, type Database } from '../database/connection.ts'
import { csvOf } from '../tables/csv.ts'
import { workbookOf, XLSX, type SheetOut } from '../tables/workbook.ts'

/** Tables on their way out: one as CSV, or all as a workbook, under a name that says of what and when; the trail says by whom. */
export async function sendTables(
  database: Database,
  reply: FastifyReply,
  {
    entityId,
    format,
    name,
    tables,
  }: {
    readonly entityId: string
    readonly format: 'csv' | 'xlsx'
    readonly name: string
    readonly tables: readonly SheetOut[]
  },
): Promise<unknown> {
  const [only] = tables
  const asCsv = format === 'csv' && only !== undefined && tables.length === 1
  const file = `${name}.${asCsv ? 'csv' : 'xlsx'}`
  await inEntity(database, entityId, ({ trx }) =>
    audit(trx, 'exported', file, { after: { rows: tables.reduce((sum, { rows }) => sum + rows.length, 0) } }),
  )
  void reply.header('content-disposition', `attachment; filename="${file}"`)
  return asCsv
    ? reply.type('text/csv; charset=utf-8').send(csvOf(only.header, only.rows))
    : reply.type(XLSX).send(await workbookOf(tables))
}
