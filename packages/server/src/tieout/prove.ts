import {
  causeKey, combinedRateOf, commonGrain, diagnose, FINEST, grainOf, groupBy, judge, signatureOf, sum,
  type Assumption, type BaselineIndex, type MissingWhy, type Verdict, type VoiceFacts,
} from '@axion/core'
import { crosswalk } from '../align/crosswalk.ts'
import { stakesOf } from '../align/stake.ts'
import { loadBaseline } from '../baseline/load.ts'
import { loadHeld, type HeldSystem } from '../connect/held.ts'
import { insertRows, json, type Transaction } from '../database/connection.ts'
import { lastDayOf } from './periods.ts'
import { departuresOf } from './departures.ts'
import { bookedUnit, externalIdOf, otherRoundings, sourceUnit, type SourceUnit, type StoredDocument, type StoredEntry } from './units.ts'

interface BookingState {
  readonly external_id: string
  readonly state: string
  readonly ledger_revision: string | null
}

interface Unit {
  readonly unitId: string
  readonly source: SourceUnit | null
  readonly entries: readonly StoredEntry[]
  readonly period: string
  readonly expected: VoiceFacts
  readonly stated: VoiceFacts | null
  readonly booked: VoiceFacts | null
  readonly bookings: number
  readonly edited: boolean
  readonly why: MissingWhy
}

interface Judged extends Unit {
  readonly verdict: Verdict
  readonly assumptions: readonly Assumption[]
}

const WHY: Readonly<Record<string, MissingWhy>> = { sending: 'sending', sent: 'sent', booked: 'sent', failed: 'failed', 'in-doubt': 'in-doubt', withdrawn: 'withdrawn' }

/**
 * Proves a month anew: works out every unit's facts and signatures, then weighs and diagnoses those whose signatures differ.
 * Verdicts, totals and evidence are read from the rows that this writes.
 */
export async function prove(trx: Transaction, entityId: string, period: string): Promise<void> {
  await trx.raw(`select pg_advisory_xact_lock(hashtext('prove' || ?))`, [entityId])
  const index = await loadBaseline(trx, entityId)
  const systems = await loadHeld(trx, entityId)
  const units = await unitsOf(trx, entityId, period, systems, index)
  await writeUnits(trx, entityId, units, index)
  await writeStakes(trx, entityId, period, units, systems, index)

  const differing = new Set(((await trx('tie_unit').where({ entity_id: entityId, period, differs: true }).select('unit_id')) as { unit_id: string }[]).map((r) => r.unit_id))
  const departures = systems.map((held) => ({ role: held.row.role, of: departuresOf(held, index, lastDayOf(period)) }))
  const judged = units.filter((unit) => differing.has(unit.unitId)).map((unit) => weigh(unit, departures, index))
  await writeVerdicts(trx, entityId, judged)
  await trx('tie_unit').where({ entity_id: entityId, period, differs: false }).update({ proved: true })
  await noteHistory(trx, entityId, period, units, judged)
}

async function unitsOf(trx: Transaction, entityId: string, period: string, systems: readonly HeldSystem[], index: BaselineIndex): Promise<Unit[]> {
  const documents = (await trx('source_document').where({ entity_id: entityId, period }).orderBy(['document_date', 'number'])) as StoredDocument[]
  const bookings = new Map(((await trx('booking').where({ entity_id: entityId }).select('external_id', 'state', 'ledger_revision')) as BookingState[]).map((b) => [b.external_id, b]))
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const entries = ledger ? ((await trx('ledger_entry').where({ entity_id: entityId, system_id: ledger.row.system_id }).orderBy('entry_id')) as StoredEntry[]) : []
  const byExternal = groupBy(entries, (entry) => entry.external_id ?? '')
  const taxAccounts = new Set(index.baseline.postingRules.filter((rule) => rule.kind === 'tax').map((rule) => rule.account))
  const known = new Set<string>()

  const sourced = documents.flatMap((stored): Unit[] => {
    const system = systems.find((s) => s.row.system_id === stored.system_id)
    if (!system) return []
    const externalId = externalIdOf(entityId, stored.system_id, stored.document_id)
    known.add(externalId)
    const own = byExternal.get(externalId) ?? []
    if (stored.status === 'void' && own.every((entry) => entry.voided)) return []
    const source = sourceUnit(stored, system, index)
    const booking = bookings.get(externalId)
    return [{
      unitId: `doc:${stored.system_id}:${stored.document_id}`, source, entries: own, period,
      stated: source.stated, expected: source.expected,
      booked: ledger && own.length > 0 ? bookedUnit(own, ledger, taxAccounts, source.expected) : null,
      bookings: own.filter((entry) => !entry.voided).length,
      edited: booking?.ledger_revision != null && own.some((entry) => entry.booking_revision !== booking.ledger_revision),
      why: stored.status === 'draft' ? 'draft' : (WHY[booking?.state ?? ''] ?? 'waiting'),
    }]
  })
  const orphans = entries.filter((e) => e.period === period && !e.voided && !bookings.has(e.external_id ?? '') && !known.has(e.external_id ?? '')).flatMap((entry): Unit[] => {
    const nothing: VoiceFacts = { facts: [], nets: [] }
    const booked = ledger ? bookedUnit([entry], ledger, taxAccounts, nothing) : nothing
    if (booked.facts.length === 0) return []
    return [{ unitId: `entry:${entry.system_id}:${entry.entry_id}`, source: null, entries: [entry], period, stated: null, expected: nothing, booked, bookings: 1, edited: false, why: 'waiting' }]
  })
  return [...sourced, ...orphans]
}

async function writeUnits(trx: Transaction, entityId: string, units: readonly Unit[], index: BaselineIndex): Promise<void> {
  await trx('tie_unit').where({ entity_id: entityId, period: units[0]?.period ?? '' }).delete()
  const facts: object[] = []
  const nets: object[] = []
  const rows = units.map((unit) => {
    const { source, entries: [entry], stated, expected, booked } = unit
    for (const [voice, of] of [['stated', stated], ['expected', expected], ['booked', booked]] as const) {
      of?.facts.forEach((f, place) => facts.push({
        entity_id: entityId, unit_id: unit.unitId, voice, place, line_id: f.lineId, jurisdiction: f.jurisdictionId, agency: f.agency, account: f.account,
        currency: f.currency, period: f.period, base: f.base?.toString() ?? null, tax: f.tax.toString(), origin: f.source,
      }))
      of?.nets.forEach((n, place) => nets.push({ entity_id: entityId, unit_id: unit.unitId, voice, place, currency: n.currency, period: n.period, net: n.net.toString() }))
    }
    const grain = stated ? commonGrain(stated, expected) : FINEST
    const bookedGrain = booked ? commonGrain(expected, booked) : FINEST
    return {
      entity_id: entityId, unit_id: unit.unitId, period: unit.period, system_id: source?.stored.system_id ?? entry?.system_id,
      document_id: source?.stored.document_id ?? null, number: source?.decoded.number ?? entry?.value.number ?? '', party: source?.decoded.party.name ?? entry?.value.memo ?? '',
      document_date: source?.decoded.documentDate ?? entry?.posting_date, currency: source?.decoded.currency ?? entry?.value.currency,
      combined_rate: source && combinedRateOf(source.document, source.determination, index),
      findings: source?.determination.findings ?? [], expected_complete: source?.determination.complete ?? true,
      stated_signature: stated && signatureOf(stated, grain), expected_at_stated: stated && signatureOf(expected, grain),
      expected_signature: source && signatureOf(expected, bookedGrain), booked_signature: booked && signatureOf(booked, bookedGrain),
      split_stated: stated === null || grainOf(stated).agency,
      bookings: unit.bookings, edited: unit.edited, voided: unit.entries.some((e) => e.voided) || source?.stored.status === 'void',
    }
  })
  await insertRows(trx, 'tie_unit', rows)
  await insertRows(trx, 'tax_fact', facts)
  await insertRows(trx, 'net_fact', nets)
}

async function writeStakes(trx: Transaction, entityId: string, period: string, units: readonly Unit[], systems: readonly HeldSystem[], index: BaselineIndex): Promise<void> {
  const walked = systems.map((held) => ({ held, walk: crosswalk(held, index, lastDayOf(period)) }))
  const rows = units.flatMap(({ unitId, source }) => {
    if (!source) return []
    const rateIds = new Set(source.decoded.taxes.map((tax) => tax.taxRateId))
    const staked = { document: source.document, determination: source.determination, systemId: source.stored.system_id, rateIds }
    return stakesOf(staked, walked, index).map(({ findingKey, amount }) => ({
      entity_id: entityId, finding_key: findingKey, unit_id: unitId, period, currency: source.decoded.currency, amount: amount.toString(),
    }))
  })
  await insertRows(trx, 'stake_share', rows)
}

function weigh(unit: Unit, departures: readonly { readonly role: string; readonly of: readonly Assumption[] }[], index: BaselineIndex): Judged {
  const { source } = unit
  const verdict = judge({
    stated: unit.stated, expected: source ? unit.expected : null, expectedComplete: source?.determination.complete ?? true, booked: unit.booked, bookings: unit.bookings,
    missingWhy: unit.why, edited: unit.edited, otherRoundings: () => (source ? otherRoundings(source, index) : []),
    voided: { source: source?.stored.status === 'void', ledger: unit.entries.some((e) => e.voided) },
  })
  const odd = verdict.odd.includes('booked') && unit.booked ? { voice: unit.booked, role: 'ledger' } : verdict.odd.includes('stated') && unit.stated ? { voice: unit.stated, role: 'billing' } : null
  const from = departures.filter((d) => d.role === odd?.role).flatMap((d) => d.of)
  const assumptions = source && odd && unit.bookings <= 1 ? diagnose(source.document, source.determination, odd.voice, from, index) : []
  return { ...unit, verdict, assumptions }
}

async function writeVerdicts(trx: Transaction, entityId: string, judged: readonly Judged[]): Promise<void> {
  const explains = new Map<string, number>()
  for (const key of judged.flatMap((j) => j.assumptions.map(causeKey))) explains.set(key, (explains.get(key) ?? 0) + 1)
  const shares: object[] = []
  const rows = judged.map(({ unitId, verdict, assumptions }) => {
    const ranked = [...assumptions].sort((a, b) => (explains.get(causeKey(b)) ?? 0) - (explains.get(causeKey(a)) ?? 0))
    verdict.unproved.forEach(({ agency, account, currency, period, tax }, place) => shares.push({ entity_id: entityId, unit_id: unitId, place, agency, account, currency, period, tax }))
    return {
      unit_id: unitId, proved: verdict.proved, headline: verdict.headline, facets: verdict.facets, odd: verdict.odd, missing_why: verdict.missingWhy, cause: causeOf(verdict, ranked[0]),
      unproved: sum(verdict.unproved.map((u) => u.tax)), unproved_net: verdict.unprovedNet, assumptions: ranked,
    }
  })
  await trx.raw(
    `update tie_unit u set proved = v.proved, headline = v.headline, facets = v.facets, odd = v.odd, missing_why = v.missing_why, cause = v.cause,
       unproved = v.unproved, unproved_net = v.unproved_net, assumptions = v.assumptions
     from jsonb_populate_recordset(null::tie_unit, ?::jsonb) v where u.entity_id = ? and u.unit_id = v.unit_id`,
    [json(rows), entityId],
  )
  await insertRows(trx, 'unproved_share', shares)
}

/** The key that documents with the same cause share; null where nothing is at fault. */
function causeOf(verdict: Verdict, first: Assumption | undefined): string | null {
  if (verdict.proved || verdict.notTaken) return null
  if (first) return causeKey(first)
  return verdict.headline === 'missing' ? `missing|${verdict.missingWhy}` : `unexplained|${verdict.headline}|${verdict.odd.join('+')}`
}

/** One point of the month's falling number, where it moved. */
async function noteHistory(trx: Transaction, entityId: string, period: string, units: readonly Unit[], judged: readonly Judged[]): Promise<void> {
  const currency = units[0]?.source?.decoded.currency
  if (!currency) return
  const unproved = sum(judged.flatMap((j) => j.verdict.unproved.map((u) => u.tax))).toString()
  const expected = sum(units.flatMap((u) => u.expected.facts.map((f) => f.tax))).toString()
  const last = (await trx('unproved_history').where({ entity_id: entityId, period }).orderBy('at', 'desc').first()) as { unproved: string; expected: string } | undefined
  if (last?.unproved !== unproved || last.expected !== expected) await trx('unproved_history').insert({ entity_id: entityId, period, currency, unproved, expected })
}
