import type { BaselineImport } from '@axion/contract'
import { formatAmount, parseAmount, type Baseline, type DateRange } from '@axion/core'

/** A row of a baseline table as it is written: its object, the dates it holds, and its values by column. */
export interface BaselineRow {
  readonly objectId: string
  readonly from: string | null
  readonly to: string | null
  readonly values: Readonly<Record<string, unknown>>
}

/** What every row of a baseline table is read with: its object, and its first and last day. */
export interface Dated {
  readonly object_id: string
  readonly from: string | null
  readonly to: string | null
}

/** One kind of baseline object in its three forms: rows of its table, what an import states of it, and what the core asks for. */
export interface BaselineTable<Row, Stated, Held> {
  readonly table: string
  /** The columns that order its objects, where they have an order. */
  readonly order?: string
  toRow(stated: Stated, place: number): BaselineRow
  toStated(row: Row & Dated): Stated
  toHeld(row: Row & Dated): Held
}

/** One object of a part of a baseline, as an import states it. */
export type Stated<Part extends keyof BaselineImport> = Listed<BaselineImport[Part]>
/** One object of a part of a baseline, as the core asks for it. */
export type Held<Part extends keyof Baseline> = Listed<Baseline[Part]>
type Listed<T> = T extends readonly (infer One)[] ? One : NonNullable<T>

/** Whose rows hold at all times. */
export const ALWAYS = { from: null, to: null }

/** The first day of all: an open beginning. */
export const BEGINNING = '0001-01-01'

export function validOf({ from, to }: Dated): DateRange {
  return { from: from ?? BEGINNING, to }
}

/** A version is named by its object and its first day. */
export function versionId(row: Dated): string {
  return `${row.object_id}@${row.from ?? ''}`
}

/** An amount in minor units, from a text of a currency; null where there is none. */
export function minorUnits(amount: string | null, currency: string | null): string | null {
  return amount && parseAmount(amount, currency ?? '').toString()
}

/** The text of an amount in minor units. */
export function amountText(units: string | null, currency: string | null): string | null {
  return units === null || currency === null ? null : formatAmount(BigInt(units), currency)
}

/** A decimal without idle zeros. */
export function plain(decimal: string): string {
  return decimal.includes('.') ? decimal.replace(/\.?0+$/, '') : decimal
}

/** The same, where there may be none. */
export function plainOrNull(decimal: string | null): string | null {
  return decimal === null ? null : plain(decimal)
}
