import type { SourceDocument, WaysView } from '@axion/contract'
import {
  agree,
  assume,
  fitsCutOff,
  formatPercent,
  groupBy,
  learnCutOff,
  learnWays,
  recompute,
  UNCHANGED,
  type Learned,
  type Observed,
  type RateWay,
  type RoundingPlace,
  lastDayOf,
} from '@axion/core'
import type { Books } from '../database/connection.ts'
import { familiesOf } from '../documents/families.ts'
import { sourceUnit, type SourceUnit, type StoredDocument } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { behindIn, documentsOf, unitsOf } from '../proof/gather.ts'
import { groundsOf, type Grounds } from '../proof/grounds.ts'
import { departuresOf } from '../setUp/departures.ts'
import { loadHeld, type HeldSystem } from '../setUp/held.ts'

/** So many documents of a month are enough to tell places apart, and are searched in a second or two. */
const MOST = 300

/**
 * What a system's own documents of a month show of it (K17), beside what its settings claim: by region, every rounding place that
 * reproduces all of them, how it takes its rates, and what nothing predicts, with the day from which it began.
 */
export async function waysOf(books: Books, month: string, systemId: string): Promise<WaysView> {
  const grounds = await groundsOf(books)
  const system = (await loadHeld(books, ['agencies', 'tax-rates', 'accounts', 'locations', 'items'])).find(
    (one) => one.row.system_id === systemId,
  )
  if (!system) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  const { observed, total, sold } = await observedOf(grounds, month, system)
  const departures = departuresOf(system, grounds.index, lastDayOf(month))
  const claims = system.row.settings?.rounding ?? null
  const regions = groupBy(
    observed,
    ({ determination }) => determination.jurisdictions.find((j) => j.level === 'region')?.id ?? '',
  )
  return {
    system: system.row.name,
    documents: observed.length,
    total,
    claims,
    regions: [...regions]
      .filter(([id]) => id !== '')
      .map(([id, own]) => {
        const learned = learnWays(own, departures)
        const agreed = grounds.index.roundingOn(id, lastDayOf(month))?.place ?? null
        return {
          name: grounds.index.jurisdiction(id)?.name ?? id,
          documents: own.length,
          places: learned.fitting.map(({ place }) => place),
          agreed,
          claimHolds:
            claims === null || learned.fitting.length === 0
              ? null
              : learned.fitting.some(({ place }) => same(place, claims)),
          rates: ratesOf(learned, grounds, system),
          unpredicted: (learned.nearest?.unpredicted ?? []).slice(0, 12),
          more: Math.max(0, (learned.nearest?.unpredicted.length ?? 0) - 12),
          changedOn: learned.nearest?.changedOn ?? null,
          nearest: learned.nearest?.place ?? null,
        }
      }),
    onDefault: onDefault(observed, system, grounds),
    cutOffs: cutOffsOf(sold, system),
  }
}

interface Seen {
  readonly observed: readonly Observed[]
  readonly total: number
  readonly sold: readonly SourceDocument[]
}

/** A source's documents as it charged them, or the ledger's as it booked them. */
async function observedOf(grounds: Grounds, month: string, system: HeldSystem): Promise<Seen> {
  const { trx } = grounds
  const { role, system_id: systemId } = system.row
  const of = (source: SourceUnit, voice: Observed['voice']): Observed => ({
    document: source.document,
    determination: source.determination,
    expected: source.expected,
    index: grounds.index,
    voice,
  })
  if (role === 'ledger' || role === 'billing') {
    const observed: Observed[] = []
    for await (const behind of behindIn(grounds, month, await documentsOf(grounds, month, 'all'), MOST)) {
      for (const { source, stated, booked } of unitsOf(grounds, month, behind)) {
        if (!source || source.stored.status === 'void' || source.stored.status === 'draft') continue
        const voice =
          role === 'ledger'
            ? booked.length === 1
              ? booked[0]
              : undefined
            : source.stored.system_id === systemId
              ? stated
              : undefined
        if (voice) observed.push(of(source, voice))
      }
      if (observed.length >= MOST) break
    }
    const { n } = (await trx('source_document')
      .where({ entity_id: grounds.entityId, period: month })
      .first(trx.raw('count(*)::int as n'))) as { n: number }
    return { observed: observed.slice(0, MOST), total: n, sold: [] }
  }
  const here = { entity_id: grounds.entityId, system_id: systemId, period: month }
  const documents = (await trx('document')
    .where(here)
    .whereNotIn('status', ['draft', 'void'])
    .orderBy(['document_date', 'number'])
    .limit(MOST)) as StoredDocument[]
  const { n: total } = (await trx('document')
    .where(here)
    .whereNotIn('status', ['draft', 'void'])
    .first(trx.raw('count(*)::int as n'))) as { n: number }
  const families = await familiesOf(grounds, documents)
  return {
    total,
    sold: documents.map((stored) => stored.value),
    observed: documents
      .map((stored) => sourceUnit(stored, system, grounds, families(stored)))
      .map((source) => of(source, source.stated)),
  }
}

/** When each outlet's day ends by its sales, beside what it says of itself. */
function cutOffsOf(sold: readonly SourceDocument[], { locations }: HeldSystem): WaysView['cutOffs'] {
  return locations.flatMap(({ id, value }) => {
    const own = sold.flatMap(({ soldAt, locationId, number, documentDate }) =>
      soldAt !== null && locationId === id
        ? [{ number, soldAt, date: documentDate, timeZone: value.timeZone }]
        : [],
    )
    if (own.length === 0) return []
    const learnt = learnCutOff(own)
    return [
      {
        outlet: value.name,
        documents: own.length,
        after: learnt.after,
        until: learnt.until,
        odd: learnt.odd.slice(0, 12),
        claims: value.cutOff,
        claimHolds: learnt.odd.length === 0 && fitsCutOff(value.cutOff, learnt),
      },
    ]
  })
}

function same(a: RoundingPlace, b: RoundingPlace): boolean {
  return a.level === b.level && a.unit === b.unit && a.tie === b.tie
}

/** Rates that it takes otherwise than agreed, in all places that fit. */
function ratesOf(
  { fitting }: Learned,
  { index }: Grounds,
  system: HeldSystem,
): WaysView['regions'][number]['rates'] {
  const [first] = fitting
  return [...(first?.rates ?? [])]
    .filter(([, ways]) => !ways.includes(null))
    .map(([rate, ways]) => ({
      rate: rate
        .split(' + ')
        .map((id) => index.combinedRate(id)?.name ?? id)
        .join(' and '),
      as: ways.map((way) => sayWay(way, index, system)),
    }))
}

function sayWay(way: RateWay, index: Grounds['index'], system: HeldSystem): string {
  if (way === null) return 'as agreed'
  if (way.kind === 'rate-date') return `as on ${way.date}`
  return `${index.jurisdiction(way.jurisdictionId)?.name ?? way.jurisdictionId} at ${formatPercent(way.percent)} %, as it holds it${system.rates.some((rate) => rate.id === way.systemRateId) ? '' : ' no more'}`
}

/** Items without a code of their own that documents were charged for under the default code: recomputed under it, they come to just what was charged, and under their own to something else. */
function onDefault(
  observed: readonly Observed[],
  system: HeldSystem,
  { index }: Grounds,
): WaysView['onDefault'] {
  const code = system.row.settings?.defaultItemTaxCode ?? null
  if (code === null) return null
  const bare = new Set(
    system.items
      .filter(({ value }) => value.itemTaxCode === null)
      .map(({ value }) => system.itemOf(value.code)),
  )
  const charged = observed.flatMap((of) =>
    of.document.lines.flatMap((line) => {
      if (line.itemId == null || !bare.has(line.itemId)) return []
      const changed = assume(
        { kind: 'default-code', systemId: system.row.system_id, itemTaxCode: code, lineId: line.id },
        UNCHANGED(of.document),
        of,
      )
      const voice = changed && recompute(changed, of)
      return voice && agree(voice, of.voice) && !agree(voice, of.expected)
        ? [{ itemId: line.itemId, document: of.document.id }]
        : []
    }),
  )
  const names = [...new Set(charged.map((one) => one.itemId))]
  return {
    code,
    items: names.map((id) => index.baseline.items.find((item) => item.id === id)?.name ?? id),
    documents: new Set(charged.map((one) => one.document)).size,
  }
}
