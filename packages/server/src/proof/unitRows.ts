import {
  absolute,
  agree,
  allocate,
  amountInBase,
  combinedRatesOf,
  commonGrain,
  FINEST,
  grainOf,
  membersOf,
  signatureOf,
  sum,
  together,
  type Exchange,
  type Voice,
  type VoiceFacts,
} from '@axion/core'
import { insertRows } from '../database/connection.ts'
import { specialLinesOf } from '../documents/specialLines.ts'
import { inBaseCurrency, type SourceUnit } from '../documents/units.ts'
import type { Grounds, Numbered, Proving } from './gather.ts'
import { matterOf, undecidedNet } from './matter.ts'

type InBase = ReturnType<typeof inBaseCurrency>

/**
 * Writes units with their tax facts and signatures; the same units as they were before are gone.
 */
export async function writeUnits(
  grounds: Grounds,
  units: readonly Numbered[],
  { determined }: Proving,
): Promise<void> {
  const { trx, entityId, index } = grounds
  const facts: object[] = []
  const nets: object[] = []
  const determinations: object[] = []
  const specials: object[] = []
  const rows = units.map((unit) => {
    const { source, stated, expected } = unit
    const booked = unit.booked.length === 0 ? null : together(unit.booked)
    const exchange = source?.document.exchange ?? null
    const here = { entity_id: entityId, unit_id: unit.unitId }
    for (const spoken of voicesInBase({ stated, expected, booked }, exchange)) {
      facts.push(...factRows(here, spoken))
      nets.push(...netRows(here, spoken))
    }
    const grain = stated ? commonGrain(stated, expected) : FINEST
    const signed = {
      stated_signature: stated && signatureOf(stated, grain),
      expected_at_stated: stated && signatureOf(expected, grain),
    }
    if (source) {
      const { system_id, document_id } = source.stored
      determinations.push({ ...here, system_id, document_id, ...signed })
      if (isTaken(source, unit.booked.length))
        for (const line of specialLinesOf(source, index))
          specials.push({ ...here, period: unit.period, system_id, ...line })
    }
    const bookedGrain = booked ? commonGrain(expected, booked) : FINEST
    return {
      ...here,
      ...determined,
      ...describedBy(unit),
      ...decidedBy(unit, index),
      matter: matterOf(unit, booked),
      undecided: amountInBase(source ? undecidedNet(source) : 0n, exchange).toString(),
      members_agree: signed.stated_signature === signed.expected_at_stated,
      expected_signature: source && signatureOf(expected, bookedGrain),
      booked_signature: booked && signatureOf(booked, bookedGrain),
      split_stated: stated === null || grainOf(stated).agency,
    }
  })
  await insertRows(trx, 'unit', rows)
  await insertRows(trx, 'determination', determinations)
  await insertRows(trx, 'tax_fact', facts)
  await insertRows(trx, 'net_fact', nets)
  await insertRows(trx, 'special_line', specials)
}

interface UnitKey {
  readonly entity_id: string
  readonly unit_id: string
}

function factRows(here: UnitKey, { voice, of, inBase }: Spoken): object[] {
  return of.facts.map((f, place) => ({
    ...here,
    voice,
    place,
    line_id: f.lineId,
    jurisdiction: f.jurisdictionId,
    agency: f.agency,
    account: f.account,
    currency: f.currency,
    period: f.period,
    base: f.base?.toString() ?? null,
    tax: f.tax.toString(),
    in_base: (inBase.facts[place] ?? 0n).toString(),
    origin: f.source,
  }))
}

function netRows(here: UnitKey, { voice, of, inBase }: Spoken): object[] {
  return of.nets.map((n, place) => ({
    ...here,
    voice,
    place,
    account: n.account,
    rounding: n.isRounding ?? false,
    currency: n.currency,
    period: n.period,
    net: n.net.toString(),
    in_base: (inBase.nets[place] ?? 0n).toString(),
  }))
}

/** What a unit is: its document as the source has it, or the entry that stands without one. */
function describedBy({ source, entries: [entry], ...unit }: Numbered): object {
  return {
    posted: source?.stored.posted ?? true,
    // Why what is posted is missing is weighed; what is not posted is missing from nowhere.
    missing_why: source?.stored.posted === false ? source.stored.not_taken : null,
    period: unit.period,
    system_id: source?.stored.system_id ?? entry?.system_id,
    document_id: source?.stored.document_id ?? null,
    entry_id: source ? null : entry?.entry_id,
    kind: source?.decoded.kind ?? 'entry',
    number: source?.decoded.number ?? entry?.value.number ?? '',
    party: source?.decoded.party.name ?? entry?.value.memo ?? '',
    document_date: source?.decoded.documentDate ?? entry?.posting_date,
    currency: source?.decoded.currency ?? entry?.value.currency,
    exchange_rate: source?.decoded.exchangeRate ?? null,
    bookings: unit.voided.ledger ? 0 : unit.booked.length,
    edited: unit.edited,
    voided: unit.voided.source || unit.voided.ledger,
    flaws: unit.flaws,
  }
}

/** What determination came to, and what it left open. */
function decidedBy({ source }: Numbered, index: Grounds['index']): object {
  return {
    combined_rates: source ? combinedRatesOf(source.document, source.determination, index) : [],
    findings: source?.determination.findings ?? [],
    expected_complete: source?.determination.complete ?? true,
    open_lines: source?.determination.open ?? [],
  }
}

interface Spoken {
  readonly voice: Voice
  readonly of: VoiceFacts
  readonly inBase: InBase
}

/** The voices that speak, each with its amounts in the base currency. */
export function voicesInBase(
  { stated, expected, booked }: Readonly<Record<Voice, VoiceFacts | null>>,
  exchange: Exchange | null,
): Spoken[] {
  const claimed = expected && { of: expected, inBase: inBaseCurrency(expected, exchange) }
  const follows = stated && claimed && exchange && agree(stated, claimed.of)
  const said = (voice: Voice, of: VoiceFacts | null): Spoken[] =>
    of ? [{ voice, of, inBase: inBaseCurrency(of, exchange) }] : []
  return [
    ...(follows
      ? [{ voice: 'stated' as const, of: stated, inBase: asExpected(stated, claimed.of, claimed.inBase) }]
      : said('stated', stated)),
    ...(claimed ? [{ voice: 'expected' as const, ...claimed }] : []),
    ...said('booked', booked),
  ]
}

/** What its scope leaves out counts only once it is booked. */
function isTaken({ stored }: SourceUnit, booked: number): boolean {
  return !['draft', 'void'].includes(stored.status) && (stored.not_taken === null || booked > 0)
}

/** A stated voice that agrees with the expected one comes to the same in the base currency, to the unit. */
function asExpected(stated: VoiceFacts, expected: VoiceFacts, claimed: InBase): InBase {
  const grain = { ...commonGrain(stated, expected), account: false, bases: false, inBase: false }
  const keyOf = (agency: string | null): string => (grain.agency ? (agency ?? '') : '')
  const totals = new Map<string, bigint>()
  expected.facts.forEach((f, at) =>
    totals.set(keyOf(f.agency), (totals.get(keyOf(f.agency)) ?? 0n) + (claimed.facts[at] ?? 0n)),
  )
  const facts = stated.facts.map(() => 0n)
  for (const { agency } of membersOf(stated, grain)) {
    const own = stated.facts
      .map((f, at) => ({ f, at }))
      .filter(({ f }) => keyOf(f.agency) === keyOf(agency) && f.tax !== 0n)
    const parts = allocate(
      totals.get(keyOf(agency)) ?? 0n,
      own.map(({ f }) => absolute(f.tax)),
    )
    own.forEach(({ at }, place) => (facts[at] = parts[place] ?? 0n))
  }
  return { facts, nets: [sum(claimed.nets)] }
}
