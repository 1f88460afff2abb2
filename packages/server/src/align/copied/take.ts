import type { AgreedPreview, CopyChoice } from '@axion/contract'
import type { TextualKind } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { keepChecked, keepSeen, keyOf, type Standing } from '../../baseline/authority.ts'
import { importBaseline, recordedAt, requireReferences } from '../../baseline/import.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { readBaseline } from '../../baseline/read.ts'
import type { Books } from '../../database/connection.ts'
import { json } from '../../database/json.ts'
import { Problem } from '../../faults/problem.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { recordBatch, type Copied, type Step } from '../../setUp/steps.ts'
import { effectOf } from '../baseline/effect.ts'
import { compare, copiedOf, revisionOf, type Source } from './compare.ts'
import { thingsOf, withThings, type Thing } from './things.ts'

/** What was seen in the systems of another legal entity is here the word of one: theirs. Whose it was is not told to whoever is no member of it. */
const ELSEWHERE = 'another legal entity'

/** Kinds whose objects an agency's own text says. */
const TEXTUAL: Readonly<Record<string, TextualKind>> = {
  rateVersions: 'rate',
  codeRules: 'rule',
  roundings: 'rounding',
  regionRules: 'region',
}

interface Chosen {
  readonly wanted: Awaited<ReturnType<typeof readBaseline>>
  /** By key; null where nothing is there any more. */
  readonly taken: ReadonlyMap<string, Thing | null>
  readonly before: Copied | undefined
  readonly revision: string
}

/** @throws AXION_NOT_FOUND of a key that is the same, or nowhere; AXION_NOTHING_TO_DO; AXION_BASELINE_INCONSISTENT where something that is needed with it is not taken */
async function chosenOf(books: Books, { entity, things }: Source, choice: CopyChoice): Promise<Chosen> {
  const now = await readBaseline(books)
  const here = thingsOf(now)
  const before = (await copiedOf(books)).get(entity.id)
  const { apart } = compare(here, things, before?.things ?? {})
  const open = new Map(apart.map((one) => [one.key, one]))
  const keys =
    'keys' in choice
      ? choice.keys
      : apart.filter(({ standing }) => choice.standings.includes(standing)).map(({ key }) => key)
  const taken = new Map(
    keys.map((key) => {
      const one = open.get(key)
      if (!one) throw new Problem('AXION_NOT_FOUND', { what: `${key} among what may be taken` })
      return [key, one.there] as const
    }),
  )
  if (taken.size === 0)
    throw new Problem('AXION_NOTHING_TO_DO', { what: `copy: nothing of ${entity.name} is left to take` })
  const wanted = withThings(now, taken)
  requireReferences(wanted)
  return { wanted, taken, before, revision: revisionOf(here, things, before) }
}

/** What would be if these were taken, before they are. @throws what `chosenOf` throws, AXION_BASELINE_OVERLAP */
export async function previewCopy(books: Books, source: Source, choice: CopyChoice): Promise<AgreedPreview> {
  const { wanted, taken, revision } = await chosenOf(books, source, choice)
  const effect = await effectOf(books, async (tried) => {
    await importBaseline(tried, wanted, await recordedAt(tried))
  })
  return { what: saysOf(taken), since: null, fields: [], ...effect, revision }
}

/**
 * Takes objects of another legal entity's baseline as they are there, in one act that is taken back in one.
 * @throws AXION_STALE where either baseline changed since it was looked at, and what `previewCopy` throws
 */
export async function takeCopy(
  books: Books,
  source: Source,
  {
    choice,
    follows,
    revision,
    person,
  }: {
    readonly choice: CopyChoice
    readonly follows: boolean
    readonly revision: string
    readonly person: string
  },
): Promise<number> {
  const chosen = await chosenOf(books, source, choice)
  if (chosen.revision !== revision)
    throw new Problem('AXION_STALE', { what: `What is agreed here, or in ${source.entity.name},` })
  const at = await recordedAt(books)
  await importBaseline(books, chosen.wanted, at)
  const seen = await noteAuthority(books, source, chosen.taken, person)
  const after = await keepCopied(books, source, { before: chosen.before, follows, person })
  const says = saysOf(chosen.taken)
  await recordBatch(books, { person, action: 'copied', says }, [
    { did: 'imported', at },
    ...seen,
    { did: 'copied', source: source.entity.id, after, before: chosen.before ?? null },
  ])
  await audit(books.trx, 'copied-agreed', says, { after: { follows, objects: [...chosen.taken.keys()] } })
  await noteSetUp(books)
  return chosen.taken.size
}

function saysOf(taken: ReadonlyMap<string, Thing | null>): string {
  return taken.size === 1 ? ([...taken.keys()][0] ?? '') : `${taken.size} objects`
}

/** What is the same now is known as taken, whoever made it so; what was taken before and is another here stays known as it was. */
async function keepCopied(
  books: Books,
  { entity, things }: Source,
  { before, follows, person }: { before: Copied | undefined; follows: boolean; person: string },
): Promise<Copied> {
  const here = thingsOf(await readBaseline(books))
  const known = new Map(Object.entries(before?.things ?? {}))
  for (const [key, { digest }] of here) if (things.get(key)?.digest === digest) known.set(key, digest)
  for (const key of known.keys()) if (!here.has(key) && !things.has(key)) known.delete(key)
  const { trx, entityId } = books
  const [row] = (await trx('copied')
    .insert({
      entity_id: entityId,
      source: entity.id,
      follows,
      things: json(Object.fromEntries(known)),
      person,
      at: trx.raw('clock_timestamp()') as never,
    })
    .onConflict(['entity_id', 'source'])
    .merge()
    .returning(['follows', 'things', 'person', trx.raw('at::text as at')])) as unknown as [Copied]
  return row
}

/** What nobody read in an agency's own text there, nobody has read here; what somebody did, stands on that. */
async function noteAuthority(
  books: Books,
  { authority }: Source,
  taken: ReadonlyMap<string, Thing | null>,
  person: string,
): Promise<Step[]> {
  const drafted = new Map(authority.map((one) => [keyOf(one.kind, one.object), one]))
  const own = new Map<string, Standing>()
  for (const thing of taken.values())
    for (const key of textsOf(thing)) {
      const standing = drafted.get(key)
      if (standing) own.set(key, standing)
    }
  if (own.size === 0) return []
  const { baseline } = await loadBaseline(books)
  const seen = new Map([...own.keys()].map((key) => [key, new Set([ELSEWHERE])]))
  const things = await keepSeen(books, baseline, { seen, person })
  for (const one of own.values()) {
    const { checked_against: against, checked_on: on, checked_by: by } = one.row
    if (one.standing === 'checked' && against !== null && on !== null && by !== null)
      await keepChecked(books, [one], { against, on, person: by })
  }
  return [{ did: 'seen', things }]
}

function textsOf(thing: Thing | null): readonly string[] {
  const kind = thing && TEXTUAL[thing.kind]
  if (!kind) return []
  return thing.versions.map(({ stated }) => {
    const { jurisdiction, itemTaxCode } = stated as { jurisdiction: string; itemTaxCode?: string }
    return keyOf(kind, itemTaxCode === undefined ? jurisdiction : `${jurisdiction} ${itemTaxCode}`)
  })
}

/** Whether what changes there is waited for from now on. @throws AXION_NOT_FOUND where nothing was taken from it */
export async function follow(
  books: Books,
  { entity }: Source,
  { follows }: { readonly follows: boolean },
): Promise<void> {
  const { trx, entityId } = books
  const changed = await trx('copied').where({ entity_id: entityId, source: entity.id }).update({ follows })
  if (changed === 0) throw new Problem('AXION_NOT_FOUND', { what: 'anything that was taken from it' })
  await audit(trx, 'follows-baseline', follows ? 'yes' : 'no', { after: { follows } })
}

/**
 * Leaves objects as they are here: as they are there now is known, and nobody is told of it again until it is another.
 * @throws AXION_NOT_FOUND where nothing was taken from it, or of a key that is the same
 */
export async function leave(
  books: Books,
  { entity, things }: Source,
  keys: readonly string[],
): Promise<number> {
  const { trx, entityId } = books
  const before = (await copiedOf(books)).get(entity.id)
  if (!before) throw new Problem('AXION_NOT_FOUND', { what: 'anything that was taken from it' })
  const { apart } = compare(thingsOf(await readBaseline(books)), things, before.things)
  const open = new Map(apart.map((one) => [one.key, one]))
  const known = new Map(Object.entries(before.things))
  for (const key of keys) {
    const one = open.get(key)
    if (!one) throw new Problem('AXION_NOT_FOUND', { what: `${key} among what may be taken` })
    if (one.there) known.set(key, one.there.digest)
    else known.delete(key)
  }
  await trx('copied')
    .where({ entity_id: entityId, source: entity.id })
    .update({ things: json(Object.fromEntries(known)) })
  await audit(trx, 'left', `${keys.length === 1 ? keys[0] : `${keys.length} objects`}, other elsewhere`, {
    after: { objects: keys },
  })
  return keys.length
}

/** Takes back what is known of another legal entity's baseline. What was taken of it since is known still. */
export async function uncopy(
  { trx, entityId }: Books,
  { source, after, before }: Extract<Step, { readonly did: 'copied' }>,
): Promise<void> {
  const own = { entity_id: entityId, source }
  const is = trx.raw('at = ?::timestamptz', [after.at])
  if (before === null) await trx('copied').where(own).where(is).delete()
  else
    await trx('copied')
      .where(own)
      .where(is)
      .update({
        follows: before.follows,
        things: json(before.things),
        person: before.person,
        at: before.at as never,
      })
}
