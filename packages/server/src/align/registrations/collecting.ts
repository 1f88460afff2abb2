import { kindsWith, type CollectingDraft, type CollectingView } from '@axion/contract'
import {
  answerOn,
  collectingStanding,
  covers,
  formatAmount,
  lastDayOf,
  type Baseline,
  type Jurisdiction,
} from '@axion/core'
import { audit } from '../../audit/audit.ts'
import { importTable, recordedAt, requireReferences } from '../../baseline/import.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { readBaseline } from '../../baseline/read.ts'
import { rowsOf } from '../../baseline/rows.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { recordBatch } from '../../setUp/steps.ts'

/** Whom somebody has to register with by itself: a region, or a country that collects. */
function obliges({ level, agencyId }: Jurisdiction): boolean {
  return level === 'region' || (level === 'country' && agencyId !== null)
}

/** What is asked of each place: itself, and all that lies within; a country that collects is asked of by itself alone. */
function scopesOf({ jurisdictions }: Baseline): ReadonlyMap<string, readonly Jurisdiction[]> {
  const scopes = new Map<string, Jurisdiction[]>()
  const places = new Map(jurisdictions.map((one) => [one.id, one]))
  const up = (one: Jurisdiction): Jurisdiction | undefined =>
    one.parentId === null ? undefined : places.get(one.parentId)
  for (const one of jurisdictions) {
    const seen = new Set<string>()
    let at: Jurisdiction | undefined = one
    while (at !== undefined && !obliges(at) && !seen.has(at.id)) {
      seen.add(at.id)
      at = up(at)
    }
    if (at !== undefined && obliges(at)) scopes.set(at.id, [...(scopes.get(at.id) ?? []), one])
  }
  return scopes
}

interface Shown {
  readonly place: string
  readonly own: number
  readonly marketplace: number
  readonly net: string
  readonly charged: string
  readonly unsplit: string
}
const NOTHING = { own: 0, marketplace: 0, net: '0', charged: '0', unsplit: '0' }

/** Sales that lie in no place that anybody is asked of. */
const NOWHERE = ''

/**
 * What a month's sales show of each place: documents, what they come to, and the tax that those charged which no marketplace collects for. What a source stated for
 * no agency that is linked counts in every place that a document was sold in, and is told apart.
 */
async function shownIn(
  { trx, entityId }: Books,
  month: string,
  scopes: ReadonlyMap<string, readonly Jurisdiction[]>,
): Promise<ReadonlyMap<string, Shown>> {
  const scope = [...scopes].flatMap(([place, within]) =>
    within.map(({ id, agencyId }) => ({ place, jurisdiction: id, agency: agencyId })),
  )
  const { rows } = (await trx.raw(
    `with scope as materialized (select s.place, s.jurisdiction, s.agency from jsonb_to_recordset(:scope::jsonb) as s(place text, jurisdiction text, agency text)),
       sold as (select u.unit_id, u.stated_net, d.value->>'marketplace' is not null as marketplace from unit u
         join document d on d.entity_id = u.entity_id and d.named = u.named
         where u.entity_id = :e and u.period = :p and u.taken and not u.voided and u.kind <> all(:bought)),
       met as (select distinct s.place, sold.unit_id, sold.stated_net, sold.marketplace from sold
         join tax_fact f on f.entity_id = :e and f.unit_id = sold.unit_id and f.voice = 'expected' join scope s on s.jurisdiction = f.jurisdiction)
     select m.place, count(*) filter (where not m.marketplace)::int as own, count(*) filter (where m.marketplace)::int as marketplace,
       coalesce(sum(m.stated_net), 0)::text as net, coalesce(sum(c.charged) filter (where not m.marketplace), 0)::text as charged,
       coalesce(sum(c.unsplit) filter (where not m.marketplace), 0)::text as unsplit
     from (select * from met union all select '', unit_id, stated_net, marketplace from sold where unit_id not in (select unit_id from met)) m left join lateral (
       select sum(f.in_base) as charged, sum(f.in_base) filter (where f.agency is null) as unsplit from tax_fact f where f.entity_id = :e and f.unit_id = m.unit_id and f.voice = 'stated'
         and (f.agency is null or f.agency in (select s.agency from scope s where s.place = m.place))) c on true
     group by m.place`,
    {
      e: entityId,
      p: month,
      bought: [...kindsWith((kind) => kind.purchase)],
      scope: JSON.stringify(scope),
    },
  )) as { rows: Shown[] }
  return new Map(rows.map((row) => [row.place, row]))
}

/** For each country and region: what is sold there, who is said to collect, and whether that agrees with what is seen. Those that are sold to first. */
export async function collectingView(books: Books, month: string): Promise<CollectingView> {
  const { currency } = books
  const { baseline } = await loadBaseline(books)
  const scopes = scopesOf(baseline)
  const shown = await shownIn(books, month, scopes)
  const day = lastDayOf(month)
  const stated = (await readBaseline(books)).collecting
  const rows = baseline.jurisdictions.filter(obliges).map((place): CollectingView['rows'][number] => {
    const { own, marketplace, net, charged } = shown.get(place.id) ?? NOTHING
    const said = answerOn(baseline, place.id, day)
    const agencies = new Set((scopes.get(place.id) ?? []).map(({ agencyId }) => agencyId))
    const registered = baseline.registrations.some(
      ({ agencyId, valid }) =>
        covers(valid, day) &&
        (place.agencyId === null ? agencies.has(agencyId) : agencyId === place.agencyId),
    )
    return {
      id: place.id,
      name: place.name,
      ...{ own, marketplace, registered },
      net: formatAmount(BigInt(net), currency),
      charged: formatAmount(BigInt(charged), currency),
      answer: said?.answer ?? null,
      /** Where it is said of what it lies in. */
      by:
        said && said.of !== place.id
          ? (baseline.jurisdictions.find(({ id }) => id === said.of)?.name ?? null)
          : null,
      standing: collectingStanding(said?.answer ?? null, {
        ...{ own, marketplace, registered },
        charged: BigInt(charged),
      }),
      versions: stated
        .filter(({ jurisdiction }) => jurisdiction === place.id)
        .map(({ jurisdiction: _jurisdiction, ...version }) => version),
    }
  })
  const sold = ({ own, marketplace }: Pick<Shown, 'own' | 'marketplace'>): number => own + marketplace
  const nowhere = shown.get(NOWHERE) ?? NOTHING
  return {
    currency,
    unsplit: formatAmount(
      [...shown.values()].reduce(
        (most, { unsplit }) => (BigInt(unsplit) > most ? BigInt(unsplit) : most),
        0n,
      ),
      currency,
    ),
    nowhere: {
      documents: sold(nowhere),
      net: formatAmount(BigInt(nowhere.net), currency),
    },
    rows: rows.sort((a, b) => sold(b) - sold(a) || (a.name < b.name ? -1 : 1)),
  }
}

/** Keeps all that is said of a country or region. No figure changes by it. @throws AXION_NOT_FOUND, AXION_BAD_REQUEST, AXION_BASELINE_OVERLAP */
export async function keepCollecting(
  books: Books,
  person: string,
  {
    jurisdiction,
    versions,
  }: { readonly jurisdiction: string; readonly versions: readonly CollectingDraft[] },
): Promise<void> {
  const now = await readBaseline(books)
  const place = now.jurisdictions.find(({ code }) => code === jurisdiction)
  if (!place) throw new Problem('AXION_NOT_FOUND', { what: 'such country or region in the baseline' })
  for (const { from, to } of versions)
    if (to !== null && to < from)
      throw new Problem('AXION_BAD_REQUEST', { path: 'to', problem: `${to} is before ${from}` })
  const before = now.collecting.filter((one) => one.jurisdiction === jurisdiction)
  const own = versions.map((version) => ({ ...version, jurisdiction }))
  const wanted = {
    ...now,
    collecting: [...now.collecting.filter((one) => one.jurisdiction !== jurisdiction), ...own],
  }
  requireReferences(wanted)
  const at = await recordedAt(books)
  await importTable(books, 'collecting', rowsOf(wanted)['collecting'] ?? [], { at })
  await recordBatch(books, { person, action: 'said-who-collects', says: place.name }, [
    { did: 'imported', at },
  ])
  await audit(books.trx, 'said-who-collects', place.name, { before, after: own })
}
