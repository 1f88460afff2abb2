import type { Database } from '../database/connection.ts'

/** Where a chain of the trail ends: the practice's has an empty name, an entity's its id. */
export interface Head {
  readonly chain: string
  /** How many lines it has. */
  readonly place: string
  /** SHA-256 of its newest line and the digest before, hexadecimal. */
  readonly digest: string
}

/** What the newest digests are written as, to a log that the database cannot reach, and read again from there. */
export function headLine({ chain, place, digest }: Head): string {
  return `axion: trail ${chain === '' ? '(practice)' : chain} ${place} ${digest}`
}

const HEAD_LINE = /axion: trail (\S+) (\d+) ([0-9a-f]{64})$/

export function headsIn(log: string): Head[] {
  return log.split('\n').flatMap((line) => {
    const [, chain, place, digest] = HEAD_LINE.exec(line) ?? []
    return chain && place && digest ? [{ chain: chain === '(practice)' ? '' : chain, place, digest }] : []
  })
}

export async function headsOf(database: Database): Promise<Head[]> {
  return (await database('trail_end').orderBy('chain').select('chain', 'place', 'digest')) as Head[]
}

/**
 * Works every digest out anew, as the owner of the schema, and compares the ends of the chains, and what was logged of them.
 * @returns one sentence for each place that does not hold
 */
export async function brokenIn(owner: Database, logged: readonly Head[]): Promise<string[]> {
  const { rows } = (await owner.raw(`
    with line as (
      select '' as chain, place, at, person, from_address, action, object, before, after, digest from practice_entry
      union all select entity_id, place, at, person, from_address, action, object, before, after, digest from audit_entry),
    followed as (select *, lag(digest, 1, ''::bytea) over w as last, row_number() over w as nth from line window w as (partition by chain order by place)),
    ended as (select chain, max(place) as place from line group by chain),
    head as (select chain, place, digest from chain_head)
    select chain, place::text, 'changed' as what from followed where digest <> trail_digest(last, place, at, person, from_address, action, object, before, after) and place = nth
    union all select chain, min(place)::text, 'gap' from followed where place <> nth group by chain
    union all select chain, head.place::text, 'end' from head left join ended using (chain) where head.place <> coalesce(ended.place, 0)
    union all select chain, ended.place::text, 'end' from ended left join head using (chain) where head.chain is null
    union all select head.chain, head.place::text, 'head' from head join line using (chain, place) where head.digest <> line.digest
    order by 1, 2`)) as { rows: { chain: string; place: string; what: keyof typeof SAYS }[] }
  const named = (chain: string): string => (chain === '' ? 'The practice' : chain)
  const kept = (
    (await owner.raw(
      `
    select '' as chain, place::text, encode(digest, 'hex') as digest from practice_entry where '' = any(:chains)
    union all select entity_id, place::text, encode(digest, 'hex') from audit_entry where entity_id = any(:chains)`,
      {
        chains: [...new Set(logged.map(({ chain }) => chain))],
      },
    )) as { rows: Head[] }
  ).rows
  const digests = new Map(kept.map(({ chain, place, digest }) => [`${chain} ${place}`, digest]))
  return [
    ...rows.map(({ chain, place, what }) => `${named(chain)}: ${SAYS[what](place)}`),
    ...logged
      .filter(({ chain, place, digest }) => place !== '0' && digests.get(`${chain} ${place}`) !== digest)
      .map(({ chain, place }) => `${named(chain)}: line ${place} is not the one that was logged`),
  ]
}

const SAYS = {
  changed: (place: string) => `line ${place} was changed, or one before it`,
  gap: (place: string) => `lines are missing before line ${place}`,
  end: (place: string) => `its end is not where it should be: the last lines up to ${place} are missing`,
  head: (place: string) => `line ${place}, its last, was changed`,
} as const
