import { silenceOf, WATCHED_DAYS, type Silence, lastDayOf, dayBefore, daysFrom } from '@axion/core'
import type { Books } from '../database/connection.ts'

/** What a system sends through one outlet or channel: documents, settlements of one kind, lines of one bank account. */
export interface Stream {
  readonly systemId: string
  /** The outlet, channel, kind or account; empty where the system states none. */
  readonly name: string
  /** Of the month. */
  readonly documents: number
  readonly silence: Silence | null
}

interface Received {
  readonly system_id: string
  readonly stream: string
  readonly day: string
  readonly n: number
}

/** What each system sent by outlet and channel, and which of it has stopped by the end of the month, or by yesterday where the month goes on. */
export async function streamsOf({ trx, entityId }: Books, month: string, today: string): Promise<Stream[]> {
  const last = dayBefore(today) < lastDayOf(month) ? dayBefore(today) : lastDayOf(month)
  const from = daysFrom(last, 1 - WATCHED_DAYS)
  const { rows } = (await trx.raw(
    `with sent as (
       select system_id, trading_day as day, value->>'locationId' as location, value->>'channel' as channel from document where entity_id = :e and trading_day between :from and :last and status not in ('draft', 'void') and not_taken is distinct from 'kind-off'
       -- A processor's charges come otherwise than its payouts, and a bank's lines by account.
       union all select system_id, day, null, case resource when 'settlements' then kind || 's' else value->>'account' end from held_record where entity_id = :e and not removed and not_taken is distinct from 'kind-off' and day between :from and :last)
     select s.system_id, coalesce(l.value->>'name', s.location, s.channel, '') as stream, s.day::text as day, count(*)::int as n from sent s
       left join held_object l on l.entity_id = :e and l.system_id = s.system_id and l.resource = 'locations' and l.object_id = s.location group by 1, 2, 3 order by 1, 2, 3`,
    { e: entityId, from, last },
  )) as { rows: Received[] }
  const streams = new Map<string, Map<string, number>>()
  for (const { system_id: systemId, stream, day, n } of rows) {
    const key = `${systemId}\n${stream}`
    streams.set(key, (streams.get(key) ?? new Map<string, number>()).set(day, n))
  }
  return [...streams].map(([key, received]) => {
    const [systemId = '', name = ''] = key.split('\n')
    return {
      systemId,
      name,
      documents: [...received].filter(([day]) => day.startsWith(month)).reduce((sum, [, n]) => sum + n, 0),
      silence: silenceOf(received, last),
    }
  })
}
