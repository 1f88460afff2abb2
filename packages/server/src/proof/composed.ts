import {
  amountInBase,
  combinedRatesOf,
  commonGrain,
  FINEST,
  grainOf,
  isBySource,
  signatureOf,
  together,
} from '@axion/core'
import { asText } from '../database/copied.ts'
import { specialLinesOf } from '../documents/specialLines.ts'
import type { SourceUnit } from '../documents/units.ts'
import type { SetUp } from './grounds.ts'
import type { Unit } from './gather.ts'
import {
  factLines,
  netLines,
  specialLines,
  sumsOf,
  unitLine,
  type Described,
  type PartTable,
  type Signed,
} from './lines.ts'
import { matterOf, undecidedNet } from './matter.ts'
import { stakeLines, type Staking } from './stakes.ts'
import { touchesOf } from './touches.ts'
import { voicesInBase } from './voices.ts'

/**
 * What a unit comes to, written as it goes into the database: lines of COPY's text form, without the entity and the number that stand
 * before them. They go from thread to thread as they are, and what two of them say is the same where they are.
 */
export interface Composed {
  readonly named: string
  readonly why: Unit['why']
  readonly posted: boolean
  /** Why what is not posted is left out; null of what is. */
  readonly notTaken: string | null
  /** Whether what it comes to has to be weighed: as the table's own column says of the row. */
  readonly differs: boolean
  /** By UNIT_COLUMNS. */
  readonly line: string
  readonly parts: Readonly<Record<PartTable, readonly string[]>>
}

/** What is kept of a unit: its facts in three voices, its signatures, special lines and stakes. */
export function composed(unit: Unit, setUp: SetUp, staking: Staking): Composed {
  const { index } = setUp
  const { source, stated, expected } = unit
  const booked = unit.booked.length === 0 ? null : together(unit.booked)
  const exchange = source?.document.exchange ?? null
  const spoken = voicesInBase({ stated, expected, booked }, exchange)
  const grain = stated ? commonGrain(stated, expected) : FINEST
  const statedSignature = stated && signatureOf(stated, grain)
  const expectedAtStated = stated && signatureOf(expected, grain)
  const bookedGrain = booked ? commonGrain(expected, booked) : FINEST
  const row = {
    ...describedBy(unit),
    agree: statedSignature === expectedAtStated,
    complete: source?.determination.complete ?? true,
    expected: source && signatureOf(expected, bookedGrain),
    booked: booked && signatureOf(booked, bookedGrain),
  }
  const combinedRates = source ? combinedRatesOf(source.document, source.determination, index) : []
  return {
    named: `${row.systemId}/${row.documentId ?? row.entryId}`,
    why: unit.why,
    posted: row.posted,
    notTaken: row.posted ? null : (source?.stored.not_taken ?? null),
    differs: differs(row),
    line: unitLine(row, {
      combinedRates,
      touches: touchesOf(unit, combinedRates, setUp),
      findings: source?.determination.findings ?? [],
      open: source?.determination.open ?? [],
      matter: matterOf(unit, booked),
      undecided: amountInBase(source ? undecidedNet(source) : 0n, exchange),
      split: stated === null || grainOf(stated).agency,
      sums: sumsOf(spoken),
    }),
    parts: {
      determination: source
        ? [
            `${asText(source.stored.system_id)}\t${asText(source.stored.document_id)}\t${asText(statedSignature)}\t${asText(expectedAtStated)}`,
          ]
        : [],
      tax_fact: spoken.flatMap(factLines),
      net_fact: spoken.flatMap(netLines),
      special_line:
        source && isTaken(source, unit.booked.length)
          ? specialLines(unit.period, row.systemId, specialLinesOf(source, index))
          : [],
      stake_share: stakeLines(unit, setUp, staking),
    },
  }
}

/** As the generated column of the table says it (030): what is weighed is known before it is written. */
function differs(row: Described & Signed): boolean {
  return (
    row.posted &&
    (!row.agree ||
      row.expected !== row.booked ||
      !row.complete ||
      row.bookings !== 1 ||
      row.edited ||
      row.voided ||
      row.flaws.length > 0)
  )
}

/** What a unit is: its document as the source has it, or the entry that stands without one. */
function describedBy({ source, entries: [entry], ...unit }: Unit): Described {
  return {
    posted: source?.stored.posted ?? true,
    period: unit.period,
    systemId: source?.stored.system_id ?? entry?.system_id ?? '',
    documentId: source?.stored.document_id ?? null,
    entryId: source ? null : (entry?.entry_id ?? null),
    kind: source?.decoded.kind ?? 'entry',
    number: source?.decoded.number ?? entry?.value.number ?? '',
    party: source?.decoded.party.name ?? entry?.value.memo ?? '',
    date: source?.decoded.documentDate ?? entry?.posting_date,
    currency: source?.decoded.currency ?? entry?.value.currency,
    exchangeRate: source?.decoded.exchangeRate ?? null,
    bookings: unit.voided.ledger ? 0 : unit.booked.length,
    edited: unit.edited,
    voided: unit.voided.source || unit.voided.ledger,
    flaws: unit.flaws,
    overridden: source?.document.lines.some((line) => line.overridden !== undefined) ?? false,
    bySource: source !== null && isBySource(source.document),
  }
}

/** What its scope leaves out counts only once it is booked. */
function isTaken({ stored }: SourceUnit, booked: number): boolean {
  return !['draft', 'void'].includes(stored.status) && (stored.not_taken === null || booked > 0)
}
