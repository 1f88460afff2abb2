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
import { json } from '../database/connection.ts'
import { specialLinesOf } from '../documents/specialLines.ts'
import { inBaseCurrency, type SourceUnit } from '../documents/units.ts'
import type { SetUp } from './grounds.ts'
import type { Unit } from './gather.ts'
import { matterOf, undecidedNet } from './matter.ts'
import { stakeRows, type Staking } from './stakes.ts'

type InBase = ReturnType<typeof inBaseCurrency>

/** A row that is kept of a unit; its number is given where it is written. */
export interface Row {
  readonly entity_id: string
  unit_id: string
}

/** What a unit comes to: its rows as JSON, so that nothing else goes from thread to thread. */
export interface Composed {
  readonly named: string
  readonly why: Unit['why']
  /** Whether what it comes to has to be weighed: as the table's own column says of the row. */
  readonly differs: boolean
  /** `Kept` */
  readonly text: string
}

/** All that is kept of a unit, its verdict aside. */
export interface Kept {
  readonly rows: Readonly<Record<PartTable, readonly Row[]>>
  readonly row: Row & { readonly posted: boolean; readonly missing_why: string | null }
}

/** What is kept of a unit beside its own row. */
export type PartTable = 'determination' | 'tax_fact' | 'net_fact' | 'special_line' | 'stake_share'

/** What is kept of a unit: its facts in three voices, its signatures, special lines and stakes. */
export function composed(unit: Unit, setUp: SetUp, staking: Staking): readonly [Composed, Kept] {
  const { entityId, index } = setUp
  const { source, stated, expected } = unit
  const booked = unit.booked.length === 0 ? null : together(unit.booked)
  const exchange = source?.document.exchange ?? null
  const spoken = voicesInBase({ stated, expected, booked }, exchange)
  const grain = stated ? commonGrain(stated, expected) : FINEST
  const statedSignature = stated && signatureOf(stated, grain)
  const expectedAtStated = stated && signatureOf(expected, grain)
  const bookedGrain = booked ? commonGrain(expected, booked) : FINEST
  const signed = {
    members_agree: statedSignature === expectedAtStated,
    expected_signature: source && signatureOf(expected, bookedGrain),
    booked_signature: booked && signatureOf(booked, bookedGrain),
  }
  const row = {
    entity_id: entityId,
    unit_id: '',
    ...describedBy(unit),
    ...decidedBy(unit, index),
    ...signed,
    matter: matterOf(unit, booked),
    undecided: amountInBase(source ? undecidedNet(source) : 0n, exchange).toString(),
    split_stated: stated === null || grainOf(stated).agency,
  }
  const kept: Kept = {
    row,
    rows: {
      determination: source
        ? [
            {
              entity_id: entityId,
              unit_id: '',
              system_id: source.stored.system_id,
              document_id: source.stored.document_id,
              stated_signature: statedSignature,
              expected_at_stated: expectedAtStated,
            } as Row,
          ]
        : [],
      tax_fact: spoken.flatMap((of) => factRows(entityId, of)),
      net_fact: spoken.flatMap((of) => netRows(entityId, of)),
      special_line: specialRows(unit, entityId, index),
      stake_share: stakeRows(unit, setUp, staking),
    },
  }
  const named = `${row.system_id}/${row.document_id ?? row.entry_id}`
  return [{ named, why: unit.why, differs: differs(row), text: json(kept) }, kept]
}

/** As the generated column of the table says it (030): what is weighed is known before it is written. */
function differs(row: {
  readonly posted: boolean
  readonly members_agree: boolean
  readonly expected_signature: string | null
  readonly booked_signature: string | null
  readonly expected_complete: boolean
  readonly bookings: number
  readonly edited: boolean
  readonly voided: boolean
  readonly flaws: readonly unknown[]
}): boolean {
  return (
    row.posted &&
    (!row.members_agree ||
      row.expected_signature !== row.booked_signature ||
      !row.expected_complete ||
      row.bookings !== 1 ||
      row.edited ||
      row.voided ||
      row.flaws.length > 0)
  )
}

function specialRows({ source, booked, period }: Unit, entityId: string, index: SetUp['index']): Row[] {
  if (!source || !isTaken(source, booked.length)) return []
  const { system_id } = source.stored
  return specialLinesOf(source, index).map((line) => ({
    entity_id: entityId,
    unit_id: '',
    period,
    system_id,
    ...line,
  }))
}

function factRows(entity_id: string, { voice, of, inBase }: Spoken): Row[] {
  return of.facts.map((f, place) => ({
    entity_id,
    unit_id: '',
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

function netRows(entity_id: string, { voice, of, inBase }: Spoken): Row[] {
  return of.nets.map((n, place) => ({
    entity_id,
    unit_id: '',
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
function describedBy({ source, entries: [entry], ...unit }: Unit) {
  return {
    posted: source?.stored.posted ?? true,
    // Why what is posted is missing is weighed; what is not posted is missing from nowhere.
    missing_why: source?.stored.posted === false ? source.stored.not_taken : null,
    period: unit.period,
    system_id: source?.stored.system_id ?? entry?.system_id ?? '',
    document_id: source?.stored.document_id ?? null,
    entry_id: source ? null : (entry?.entry_id ?? null),
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
function decidedBy({ source }: Unit, index: SetUp['index']) {
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
