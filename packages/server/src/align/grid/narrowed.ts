import type { GridQuery } from '@axion/contract'
import type { Knex } from 'knex'
import { foldName } from '@axion/core'

export const ORDER: Readonly<Record<GridQuery['sort'], string>> = {
  name: 'place',
  stake: 'stake desc, worst desc, place',
  findings: 'findings desc, worst desc, place',
  documents: 'documents desc, place',
}

/** Stored rows of a grid, being asked for. */
type GridRows = Knex.QueryBuilder<Knex.TableType<'align_row'>, unknown>

/** Only the rows that a filter leaves. */
export function narrowed(q: GridRows, { search, only, system, code }: GridQuery, here: object): void {
  contains(q, search)
  if (only === 'differs') q.where('findings', '>', 0)
  if (only === 'extra') q.whereNotNull('extra')
  const severity = only === 'stops' || only === 'costs' || only === 'settle' ? only : undefined
  if (severity === undefined && system === undefined && code === undefined && only !== 'left') return
  q.whereExists(
    (f) =>
      void f
        .from('align_finding as f')
        .where(
          Object.fromEntries(Object.entries(here).map(([column, value]) => [`f.${column}`, value as string])),
        )
        .whereRaw('f.row_id = align_row.row_id')
        .modify((g) => {
          if (only === 'left') g.whereNotNull('f.left_because')
          else g.whereNull('f.left_because')
          if (severity) g.where('f.severity', severity)
          if (system !== undefined) g.where('f.system_id', system)
          if (code !== undefined) g.where('f.code', code)
        }),
  )
}

/** Every word of the search, anywhere in what is known of a row. */
export function contains(q: GridRows, search: string): void {
  for (const word of foldName(search).split(' ').filter(Boolean))
    q.whereRaw(`search like ?`, [`%${word.replace(/[\\%_]/g, '\\$&')}%`])
}
