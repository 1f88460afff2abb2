import type { FastifyReply } from 'fastify'
import { csvOf } from '../tables/csv.ts'
import { workbookOf, XLSX } from '../tables/workbook.ts'

/** A list on its way out: as CSV, or as a workbook, under a name that says of what and when. */
export async function sendList(
  reply: FastifyReply,
  format: 'csv' | 'xlsx',
  name: string,
  header: readonly string[],
  rows: readonly (readonly string[])[],
): Promise<unknown> {
  void reply.header('content-disposition', `attachment; filename="${name}.${format}"`)
  return format === 'csv'
    ? reply.type('text/csv; charset=utf-8').send(csvOf(header, rows))
    : reply.type(XLSX).send(await workbookOf([{ name: name.slice(0, 31), header, rows }]))
}
