import { ranked } from '@axion/core'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import type { Columns } from '../database/row.ts'
import { matterKey, type Matter } from './matter.ts'
import { reproducedKey, type Reproduced } from './weigh.ts'

interface OpenUnit extends Columns<
  'unit',
  'unit_id' | 'headline' | 'missing_why' | 'odd' | 'proved' | 'settled' | 'assumptions' | 'cause' | 'matter'
> {
  readonly assumptions: readonly Reproduced[]
  readonly matter: Matter | null
  readonly status: string | null
}

const NOT_TAKEN: readonly (string | null)[] = ['draft', 'out-of-range', 'kind-off']

/**
 * Gives each open unit of the month its cause: of the equals that reproduce it, the one that explains most of the month's other
 * differences comes first. Documents with the same cause share its key; null where nothing is at fault.
 */
export async function rankCauses({ trx, entityId }: Books, period: string): Promise<void> {
  const open = (await trx('tie_unit as u')
    .leftJoin(
      'source_document as d',
      (on) =>
        void on
          .on('d.entity_id', 'u.entity_id')
          .on('d.system_id', 'u.system_id')
          .on('d.document_id', 'u.document_id'),
    )
    .where({ 'u.entity_id': entityId, 'u.period': period, 'u.differs': true })
    .select(
      'u.unit_id',
      'u.headline',
      'u.missing_why',
      'u.odd',
      'u.proved',
      'u.settled',
      'u.assumptions',
      'u.cause',
      'u.matter',
      'd.status',
    )) as OpenUnit[]
  const explains = new Map<string, number>()
  for (const key of open.flatMap((u) => u.assumptions.map(reproducedKey)))
    explains.set(key, (explains.get(key) ?? 0) + 1)
  const weight = (r: Reproduced): number => explains.get(reproducedKey(r)) ?? 0
  const rows = open.map((u) => {
    const equals = ranked(u.assumptions, weight)
    return { unit_id: u.unit_id, assumptions: equals, cause: causeOf(u, equals[0]) }
  })
  await trx.raw(
    `update tie_unit u set cause = v.cause, assumptions = v.assumptions from jsonb_populate_recordset(null::tie_unit, ?::jsonb) v
     where u.entity_id = ? and u.unit_id = v.unit_id and (u.cause is distinct from v.cause or u.assumptions is distinct from v.assumptions)`,
    [json(rows), entityId],
  )
}

function causeOf(
  { proved, settled, headline, missing_why: why, odd, matter, status }: OpenUnit,
  first: Reproduced | undefined,
): string | null {
  if (proved || settled !== null || (headline === 'missing' && NOT_TAKEN.includes(why))) return null
  if (headline === 'missing') return `missing|${why}`
  if (headline === 'voided') return `voided|${status === 'void' ? 'source' : 'ledger'}`
  if (headline === 'orphan' || headline === 'duplicate' || headline === 'edited' || headline === 'period')
    return matter && matter.kind !== 'moved' && headline !== 'orphan' ? matterKey(matter) : headline
  if (matter && matter.kind !== 'moved') return matterKey(matter)
  if (!first && matter && headline === 'account') return matterKey(matter)
  return first ? reproducedKey(first) : `unexplained|${headline}|${odd.join('+')}`
}
