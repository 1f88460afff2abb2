import { baseOfAgency, groupBy, sum, type TaxFact, type Voice } from '@axion/core'
import { asJson, asList, asText, NO_VALUE } from '../database/copied.ts'
import type { RowOf } from '../database/row.ts'
import type { SpecialRow } from '../documents/specialLines.ts'
import type { Flaw } from './flaws.ts'
import type { Spoken } from './voices.ts'

/** What is kept of a unit, as lines of COPY's text form: its columns, and who writes them, side by side. */

/** What is kept of a unit beside its own row. */
export type PartTable = 'determination' | 'tax_fact' | 'net_fact' | 'special_line' | 'stake_share'

/** The columns of each table in the order in which a unit's lines have them, its entity and number aside. */
export const PART_COLUMNS = {
  determination: ['system_id', 'document_id', 'stated_signature', 'expected_at_stated'],
  tax_fact: [
    'voice',
    'place',
    'jurisdiction',
    'agency',
    'account',
    'currency',
    'period',
    'base',
    'tax',
    'in_base',
  ],
  net_fact: ['voice', 'place', 'account', 'rounding', 'currency', 'period', 'net', 'in_base'],
  special_line: [
    'period',
    'system_id',
    'place',
    'what',
    'wording',
    'region',
    'amount',
    'taxed',
    'item_tax_code',
    'account',
    'open',
    'rules',
  ],
  stake_share: ['finding_key', 'period', 'currency', 'amount'],
} as const satisfies { readonly [T in PartTable]: readonly (keyof RowOf<T>)[] }

/** What a unit is, and what it comes to; its verdict aside. */
export const UNIT_COLUMNS = [
  'posted',
  'period',
  'system_id',
  'document_id',
  'entry_id',
  'kind',
  'number',
  'party',
  'document_date',
  'currency',
  'exchange_rate',
  'bookings',
  'edited',
  'voided',
  'flaws',
  'by_source',
  'overridden',
  'combined_rates',
  'touches',
  'findings',
  'expected_complete',
  'open_lines',
  'members_agree',
  'expected_signature',
  'booked_signature',
  'matter',
  'undecided',
  'split_stated',
  'stated',
  'expected',
  'booked',
  'stated_net',
] as const satisfies readonly (keyof RowOf<'unit'>)[]

/** What a unit is: its document as the source has it, or the entry that stands without one. */
export interface Described {
  readonly posted: boolean
  readonly period: string
  readonly systemId: string
  readonly documentId: string | null
  readonly entryId: string | null
  readonly kind: string
  readonly number: string
  readonly party: string
  readonly date: string | undefined
  readonly currency: string | undefined
  readonly exchangeRate: string | null
  readonly bookings: number
  readonly edited: boolean
  readonly voided: boolean
  readonly flaws: readonly Flaw[]
  /** Whether its source's own flags decided what it is taxed as. */
  readonly bySource: boolean
  /** Whether somebody overrode what its source would have charged by itself. */
  readonly overridden: boolean
}

/** What its voices come to, as it is compared. */
export interface Signed {
  /** Whether what is stated and what is expected agree. */
  readonly agree: boolean
  /** Whether the baseline answers for all of it. */
  readonly complete: boolean
  /** Signatures, at the grain that both have; null where a voice does not speak. */
  readonly expected: string | null
  readonly booked: string | null
}

/** What the voices of a unit come to in the base currency: tax, and what its source states net of it. */
export interface Sums extends Readonly<Record<Voice, bigint>> {
  readonly statedNet: bigint
}

/** @param facts and nets as they are kept */
export function sumsOf(spoken: readonly Spoken[]): Sums {
  const tax = (voice: Voice): bigint =>
    sum(
      spoken
        .filter((one) => one.voice === voice)
        .flatMap((one) =>
          groupedFacts(one).map(({ tax: amount, converted }) => (amount === 0n ? 0n : converted)),
        ),
    )
  const stated = spoken.find(({ voice }) => voice === 'stated')
  return {
    stated: tax('stated'),
    expected: tax('expected'),
    booked: tax('booked'),
    statedNet: stated ? sum(stated.inBase.nets) : 0n,
  }
}

export function unitLine(
  row: Described & Signed,
  of: {
    readonly combinedRates: readonly string[]
    readonly touches: readonly string[]
    readonly findings: readonly unknown[]
    readonly open: readonly string[]
    readonly matter: object | null
    readonly undecided: bigint
    readonly split: boolean
    readonly sums: Sums
  },
): string {
  return [
    row.posted,
    row.period,
    asText(row.systemId),
    asText(row.documentId),
    asText(row.entryId),
    row.kind,
    asText(row.number),
    asText(row.party),
    asText(row.date),
    asText(row.currency),
    asText(row.exchangeRate),
    row.bookings,
    row.edited,
    row.voided,
    asJson(row.flaws),
    row.bySource,
    row.overridden,
    asList(of.combinedRates),
    asList(of.touches),
    asJson(of.findings),
    row.complete,
    asList(of.open),
    row.agree,
    asText(row.expected),
    asText(row.booked),
    asJson(of.matter),
    of.undecided,
    of.split,
    of.sums.stated,
    of.sums.expected,
    of.sums.booked,
    of.sums.statedNet,
  ].join('\t')
}

export function specialLines(period: string, systemId: string, rows: readonly SpecialRow[]): string[] {
  const where = `${period}\t${asText(systemId)}`
  return rows.map(
    (line) =>
      `${where}\t${line.place}\t${line.what}\t${asText(line.wording)}\t${asText(line.region)}\t${line.amount}\t${line.taxed}\t${asText(line.item_tax_code)}\t${asText(line.account)}\t${line.open}\t${asList(line.rules)}`,
  )
}

const units = (amount: bigint | null): string => (amount === null ? NO_VALUE : amount.toString())

interface Grouped {
  readonly group: readonly TaxFact[]
  readonly tax: bigint
  readonly converted: bigint
}

/** A voice's tax by jurisdiction, agency and account: lines of a document that say the same of them stand together. */
function groupedFacts({ of, inBase }: Spoken): Grouped[] {
  const groups = groupBy(of.facts.keys(), (at) => {
    const { jurisdictionId, agency, account, currency, period } = of.facts[at] as TaxFact
    return `${jurisdictionId ?? ''}|${agency ?? ''}|${account ?? ''}|${currency}|${period}`
  })
  return [...groups.values()].map((places) => {
    const group = places.map((at) => of.facts[at] as TaxFact)
    return {
      group,
      tax: sum(group.map((fact) => fact.tax)),
      converted: sum(places.map((at) => inBase.facts[at] ?? 0n)),
    }
  })
}

export function factLines(spoken: Spoken): string[] {
  return groupedFacts(spoken).map(({ group, tax, converted }, place) => {
    const { jurisdictionId, agency, account, currency, period } = group[0] as TaxFact
    return `${spoken.voice}\t${place}\t${asText(jurisdictionId)}\t${asText(agency)}\t${asText(account)}\t${currency}\t${period}\t${units(baseOfAgency(group))}\t${tax}\t${converted}`
  })
}

export function netLines({ voice, of, inBase }: Spoken): string[] {
  return of.nets.map(
    (n, place) =>
      `${voice}\t${place}\t${asText(n.account)}\t${n.isRounding ?? false}\t${n.currency}\t${n.period}\t${n.net}\t${inBase.nets[place] ?? 0n}`,
  )
}
