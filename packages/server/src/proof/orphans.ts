import type { Books } from '../database/connection.ts'
import { documentStemSql } from '../documents/ids.ts'
import { bookedUnit, NOTHING, type StoredEntry } from '../documents/units.ts'
import type { Touched, Unit } from './gather.ts'
import type { Question } from './asking.ts'
import type { Kit } from './workOut.ts'

/** SQL, of an entry `e` of an `:entity`: it stands, is not part of what was taken over on the opening day, and neither a source document of any month nor a booking of ours stands behind it. */
export const NOBODYS = `not e.voided and not exists (select from source_document d where d.entity_id = :entity and ${documentStemSql(':entity::text', 'd')} = e.stem)
       and not exists (select from booking b where b.entity_id = :entity and b.stem = e.stem)
       and not exists (select from opening o where o.entity_id = :entity and e.posting_date < o.day)`

/** Entries with tax, or on tax accounts, that nobody stands behind; and what the others were read by, which have no unit. */
export async function orphansIn(
  { trx, entityId }: Books,
  { setUp, asking, period }: Kit,
  touched: Touched,
): Promise<{ readonly units: readonly Unit[]; readonly without: ReadonlySet<Question> }> {
  const without = new Set<Question>()
  const ledger = setUp.systems.find((s) => s.row.role === 'ledger')
  if (!ledger) return { units: [], without }
  const { rows: entries } = (await trx.raw(
    `select e.* from ledger_entry e where e.entity_id = :entity and e.system_id = :ledger and e.period = :period and (:entries::text[] is null or e.entry_id = any(:entries)) and ${NOBODYS}
     order by e.entry_id`,
    {
      entity: entityId,
      ledger: ledger.row.system_id,
      period,
      entries: touched === 'all' ? null : [...touched.entries],
    },
  )) as { rows: StoredEntry[] }
  const units = entries.flatMap((entry): Unit[] => {
    const asked = new Set<Question>()
    const booked = asking.noting(asked, () => bookedUnit([entry], ledger, setUp.accounts(), NOTHING))
    if (booked.facts.length === 0) {
      asked.forEach((question) => without.add(question))
      return []
    }
    return [
      {
        source: null,
        entries: [entry],
        period: entry.period,
        stated: null,
        committed: null,
        expected: NOTHING,
        booked: [booked],
        voided: { source: false, ledger: false },
        edited: false,
        flaws: [],
        why: 'waiting',
        asked,
      },
    ]
  })
  return { units, without }
}
