import type { CopySources, CopyStanding, CopyView } from '@axion/contract'
import type { EntityOfPerson } from '../../access/sessions.ts'
import { authorityOf, type Standing } from '../../baseline/authority.ts'
import { readBaseline } from '../../baseline/read.ts'
import { inEntity, type Books, type Database } from '../../database/connection.ts'
import { digestOf } from '../../database/json.ts'
import { Problem } from '../../faults/problem.ts'
import { whyAway } from '../../faults/whyAway.ts'
import type { Copied } from '../../setUp/steps.ts'
import { sayThing, thingsOf, type Thing } from './things.ts'

/** So many objects that are not the same are listed; what is taken is not held to them. */
const LISTED = 500

/** A legal entity that something may be taken from, with what there is: read as whoever asks may read it. */
export interface Source {
  readonly entity: Pick<EntityOfPerson, 'id' | 'name'>
  readonly things: ReadonlyMap<string, Thing>
  /** On whose word what was drafted there stands. */
  readonly authority: readonly Standing[]
}

/** @throws AXION_NOT_FOUND where whoever asks is no member of it, or it is the one that would take */
export async function sourceFor(
  database: Database,
  own: readonly EntityOfPerson[],
  { to, from }: { readonly to: string; readonly from: string },
): Promise<Source> {
  const entity = own.find(({ id }) => id === from && id !== to)
  if (!entity) throw new Problem('AXION_NOT_FOUND', { what: 'such legal entity' })
  return inEntity(database, entity.id, async (books) => ({
    entity,
    things: thingsOf(await readBaseline(books)),
    authority: await authorityOf(books),
  }))
}

/** What was taken before, and from whom. */
export async function copiedOf({ trx, entityId }: Books): Promise<ReadonlyMap<string, Copied>> {
  const rows = await trx('copied')
    .where({ entity_id: entityId })
    .orderBy('at')
    .select('source', 'follows', 'things', 'person', trx.raw('at::text as at'))
  return new Map(
    (rows as unknown as (Copied & { source: string })[]).map(({ source, ...copied }) => [source, copied]),
  )
}

/** An object that is not the same here and there. */
export interface Apart {
  readonly key: string
  readonly standing: CopyStanding
  readonly here: Thing | null
  readonly there: Thing | null
  /** Whether it is there as it was when it was taken, or left. */
  readonly known: boolean
}

export interface Compared {
  readonly same: number
  readonly apart: readonly Apart[]
}

/** @param taken a digest of each object as it was taken */
export function compare(
  here: ReadonlyMap<string, Thing>,
  there: ReadonlyMap<string, Thing>,
  taken: Copied['things'],
): Compared {
  const apart: Apart[] = []
  let same = 0
  for (const key of new Set([...there.keys(), ...here.keys()])) {
    const [mine, theirs] = [here.get(key) ?? null, there.get(key) ?? null]
    if (mine !== null && mine.digest === theirs?.digest) {
      same += 1
      continue
    }
    const standing = standingOf(mine?.digest, theirs?.digest, taken[key])
    const known = theirs?.digest === taken[key]
    if (standing !== null) apart.push({ key, standing, here: mine, there: theirs, known })
  }
  return { same, apart }
}

/** Of what is not the same; null where it is here alone, and was never there. */
function standingOf(
  mine: string | undefined,
  theirs: string | undefined,
  taken: string | undefined,
): CopyStanding | null {
  if (theirs === undefined) return taken === undefined ? null : taken === mine ? 'gone' : 'own'
  if (mine === undefined) return taken === undefined ? 'new' : 'off'
  if (taken === mine) return 'changed'
  return taken === theirs ? 'own' : 'differs'
}

/** Whom something may be taken from, and what waits of whom is followed. */
export async function copySources(
  database: Database,
  own: readonly EntityOfPerson[],
  to: string,
): Promise<CopySources> {
  const { copied, here } = await inEntity(database, to, async (books) => ({
    copied: await copiedOf(books),
    here: thingsOf(await readBaseline(books)),
  }))
  const others = own.filter(({ id }) => id !== to)
  const sources: CopySources['sources'][number][] = []
  for (const { id, name } of others) {
    const before = copied.get(id)
    const told = before?.follows
      ? await sourceFor(database, own, { to, from: id })
          .then(({ things }) => ({ waiting: waitingOf(compare(here, things, before.things)), away: null }))
          .catch((error: unknown) => {
            // What is wrong with one entity's database keeps nobody from the others.
            const away = whyAway(error)
            if (!away) throw error
            return { waiting: null, away }
          })
      : { waiting: null, away: null }
    sources.push({ id, name, taken: takenOf(before), ...told })
  }
  return {
    sources,
    unseen: [...copied].filter(([id, { follows }]) => follows && !others.some((one) => one.id === id)).length,
  }
}

/** What whoever follows is told of: what is new there, or another, or gone. What was left as it is here is not asked again. */
function waitingOf({ apart }: Compared): number {
  return apart.filter(({ known }) => !known).length
}

function takenOf(copied: Copied | undefined): CopyView['taken'] {
  return copied
    ? { at: new Date(copied.at).toISOString(), person: copied.person, follows: copied.follows }
    : null
}

/** What of another legal entity's baseline is not here, or is another. */
export async function copyView(books: Books, source: Source): Promise<CopyView> {
  const here = thingsOf(await readBaseline(books))
  const copied = (await copiedOf(books)).get(source.entity.id)
  const compared = compare(here, source.things, copied?.things ?? {})
  const { same, apart } = compared
  const among = (standing: CopyStanding): number => apart.filter((one) => one.standing === standing).length
  return {
    from: { id: source.entity.id, name: source.entity.name },
    taken: takenOf(copied),
    same,
    waiting: copied ? waitingOf(compared) : 0,
    counts: {
      new: among('new'),
      changed: among('changed'),
      differs: among('differs'),
      gone: among('gone'),
      own: among('own'),
      off: among('off'),
    },
    rows: apart.slice(0, LISTED).map(rowOf),
    more: Math.max(0, apart.length - LISTED),
    revision: revisionOf(here, source.things, copied),
  }
}

function rowOf({ key, standing, here, there }: Apart): CopyView['rows'][number] {
  const thing = there ?? here
  if (!thing) throw new Error('an object that is neither here nor there')
  const name = thing.versions.at(-1)?.cells['name'] ?? ''
  return {
    ...{ key, standing, kind: thing.kind, id: thing.id, name },
    here: here ? sayThing(here, name) : [],
    there: there ? sayThing(there, name) : [],
  }
}

/** As it was looked at. */
export function revisionOf(
  here: ReadonlyMap<string, Thing>,
  there: ReadonlyMap<string, Thing>,
  copied: Copied | undefined,
): string {
  const digests = (of: ReadonlyMap<string, Thing>): readonly unknown[] =>
    [...of.values()].map(({ key, digest }) => [key, digest]).sort()
  return digestOf([digests(here), digests(there), copied?.at ?? null])
}
