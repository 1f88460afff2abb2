import type { ChainLink, Evidence, Selector } from '@axion/contract'
import { CORE_VERSION, formatAmount, parseAmount } from '@axion/core'
import type { Books } from '../../database/connection.ts'
import { asRecorded } from '../../database/recorded.ts'
import { familiesOf } from '../../documents/families.ts'
import { externalStem, stemOf } from '../../documents/ids.ts'
import { sourceUnit, type StoredDocument, type StoredEntry } from '../../documents/units.ts'
import { Problem } from '../../faults/problem.ts'
import { olderRecord } from '../../proof/flaws.ts'
import { matterKey } from '../../proof/matter.ts'
import { DETERMINED_AT } from '../../proof/write.ts'
import { groundsOf } from '../../proof/grounds.ts'
import type { HeldSystem } from '../../setUp/held.ts'
import { causeFacts, type Trouble } from '../causes.ts'
import { accountLink, ledgerLink } from './books.ts'
import { departuresOf } from './departs.ts'
import { keptOf } from './kept.ts'
import { type Open, type Parts, type Thread, type UnitRow } from './parts.ts'
import { bookingLink, determinationLink, sourceLink } from './source.ts'

/**
 * The chain behind a document's amount, link by link, in the document's currency; a gap stands where a link does not equal the one before it.
 * What is stated and expected is worked out from what was recorded when the document was determined, and held against what is stored.
 */
export async function chainOf(
  books: Books,
  month: string,
  selector: Selector,
  amount: bigint,
): Promise<Evidence> {
  const parts = await partsOf(books, month, selector.unit ?? '')
  const departures = await departuresOf(books, parts)
  const thread: Thread =
    selector.of === 'total'
      ? { kind: 'whole' }
      : ['net', 'unproved-net', 'lines'].includes(selector.of)
        ? { kind: 'net' }
        : { kind: 'tax', agency: selector.agency || null }
  const links = [
    sourceLink(parts, thread),
    determinationLink(parts, thread),
    bookingLink(parts, thread),
    ledgerLink(parts, thread),
    accountLink(parts, thread),
  ]
  const chain = withGaps(await inBooks(books, links, parts, thread), parts)
  const broken = chain.findIndex((link) => link.gap !== null && parseAmount(link.gap, parts.currency) !== 0n)
  // What agrees in its own currency and not in the books' breaks in the ledger.
  const breaksAt =
    broken < 0 && parts.unit.headline === 'currency'
      ? chain.findIndex((link) => link.role === 'ledger')
      : broken
  const systems = [parts.from, parts.ledger].filter((s): s is HeldSystem => s !== undefined)
  const { unit } = parts
  return {
    kind: 'chain',
    selector,
    currency: books.currency,
    amount: formatAmount(amount, books.currency),
    chain,
    breaksAt: breaksAt < 0 ? null : breaksAt,
    determined: {
      at: unit.determined_at,
      core: unit.core_version,
      isCurrent: unit.core_version === CORE_VERSION,
    },
    departures,
    headline: unit.headline,
    proved: unit.proved,
    settled: unit.settled,
    settledWith: unit.settled_with,
    document: {
      number: unit.number,
      party: unit.party,
      date: unit.document_date,
      unit: unit.named,
      posted: unit.posted,
      kind: unit.kind,
    },
    kept: await keptOf(books, unit),
    chainCurrency: parts.currency,
    exchangeRate: unit.exchange_rate,
    agency:
      thread.kind === 'tax' && thread.agency !== null
        ? (parts.index.agency(thread.agency)?.name ?? thread.agency)
        : null,
    causes: troubled(unit) ? causeFacts(unit, month, { systems, index: parts.index }) : [],
  }
}

async function partsOf(books: Books, month: string, named: string): Promise<Parts> {
  const { trx, entityId } = books
  const unit = await unitRow(books, named)
  if (!unit) throw new Problem('AXION_NOT_FOUND', { what: 'such document in this month' })
  const at = unit.determined_at
  const grounds = await groundsOf(books, at)
  const { index, systems } = grounds
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const from = systems.find((s) => s.row.system_id === unit.system_id)
  const own = { entity_id: entityId, system_id: unit.system_id, document_id: unit.document_id }
  const stored =
    unit.document_id === null
      ? undefined
      : ((await asRecorded(trx, 'document', entityId, at)
          .where({ system_id: own.system_id, document_id: unit.document_id })
          .first()) as StoredDocument | undefined)
  const booking =
    unit.document_id === null
      ? undefined
      : ((await trx('booking')
          .where({ ...own, document_id: unit.document_id, kind: unit.kind })
          .first()) as Parts['booking'])
  const stem = externalStem(entityId, unit.system_id, unit.document_id ?? '')
  const entries = (
    (await trx('ledger_entry')
      .where({ entity_id: entityId })
      .modify(
        (q) =>
          void (unit.document_id === null ? q.where({ entry_id: unit.entry_id ?? '' }) : q.where({ stem })),
      )
      .orderBy('entry_id')) as StoredEntry[]
  ).filter((entry) => unit.document_id === null || stemOf(entry.external_id ?? '') === stem)
  const balances = await trx('ledger_balance').where({ entity_id: entityId, period: month })
  const families = stored ? await familiesOf(books, [stored], at) : () => null
  return {
    unit,
    source: stored && from ? sourceUnit(stored, from, grounds, families(stored)) : null,
    from,
    ledger,
    booking,
    entries,
    index,
    currency: unit.currency,
    baseCurrency: books.currency,
    closing: new Map(balances.map((b) => [b.account, BigInt(b.closing)])),
  }
}

/** A unit as it is tied out; of a document that is not posted so far, only whether it can be trusted. */
async function unitRow(books: Books, named: string): Promise<UnitRow | undefined> {
  const { trx, entityId } = books
  const unit = (await trx('unit')
    .where({ entity_id: entityId, named })
    .first('*', trx.raw(`to_json(${DETERMINED_AT})#>>'{}' as determined_at`))) as UnitRow | undefined
  if (!unit || unit.posted) return unit
  const matter = await olderRecord(books, unit)
  return {
    ...unit,
    cause: matter && matterKey(matter),
    matter,
    headline: matter && 'amount',
    missing_why: null,
  }
}

function troubled(unit: UnitRow): unit is UnitRow & Trouble {
  return unit.cause !== null && unit.headline !== null
}

/** Each link that says something is compared with the last one that did. */
function withGaps(links: readonly Open[], { currency, baseCurrency }: Parts): ChainLink[] {
  const isForeign = currency !== baseCurrency
  let before: { units: bigint; inBase: bigint | null } | null = null
  return links.map(({ units, inBase = null, ...link }) => {
    const gap = units === null || before === null ? null : units - before.units
    const gapInBase =
      !isForeign || units === null || inBase === null || !before || before.inBase === null
        ? null
        : inBase - before.inBase
    if (units !== null) before = { units, inBase }
    return {
      ...link,
      amount: units === null ? null : formatAmount(units, currency),
      gap: gap === null ? null : formatAmount(gap, currency),
      inBase: isForeign && units !== null && inBase !== null ? formatAmount(inBase, baseCurrency) : null,
      gapInBase: gapInBase === null ? null : formatAmount(gapInBase, baseCurrency),
    }
  })
}

/** What source and determination come to in the books' currency, as their facts have it; the booking is in what it was composed from. */
async function inBooks(
  { trx, entityId }: Books,
  links: readonly Open[],
  { unit, currency, baseCurrency }: Parts,
  thread: Thread,
): Promise<Open[]> {
  if (currency === baseCurrency) return [...links]
  const { rows } = (await trx.raw(
    `select voice, sum(in_base)::bigint::text as amount from (
       select voice, in_base from tax_fact where entity_id = :e and unit_id = :u and :tax and (:agency::text is null or agency = :agency)
       union all select voice, in_base from net_fact where entity_id = :e and unit_id = :u and :net) f group by 1`,
    {
      e: entityId,
      u: unit.unit_id,
      tax: thread.kind !== 'net',
      net: thread.kind !== 'tax',
      agency: thread.kind === 'tax' ? thread.agency : null,
    },
  )) as { rows: { voice: string; amount: string }[] }
  const of = (voice: string): bigint | null => {
    const found = rows.find((row) => row.voice === voice)
    return found ? BigInt(found.amount) : null
  }
  const [source, determination] = [links[0]?.units ?? null, links[1]?.units ?? null]
  const VOICES: Readonly<Partial<Record<Open['role'], (link: Open) => bigint | null>>> = {
    source: () => of('stated'),
    determination: () => of('expected'),
    booking: ({ units }) =>
      units === source ? of('stated') : units === determination ? of('expected') : null,
  }
  return links.map((link) => ({ ...link, inBase: VOICES[link.role]?.(link) ?? link.inBase ?? null }))
}
