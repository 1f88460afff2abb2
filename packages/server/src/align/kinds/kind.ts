import type { AlignKind, FindingCode, GridObject, LinkKind, Remedy, Resource } from '@axion/contract'
import type { BaselineIndex, Facts } from '@axion/core'
import type { Crosswalk } from '../../setUp/crosswalk.ts'
import type { HeldSystem } from '../../setUp/held.ts'
import type { Purposes } from '../purposes.ts'

/** What a grid is worked out from. */
export interface GridBasis {
  readonly index: BaselineIndex
  /** The last day of the month being worked. */
  readonly date: string
  readonly systems: readonly AlignedSystem[]
  /** Accounts that are kept for kinds of amount alone. */
  readonly purposes: Purposes
}

export interface AlignedSystem {
  readonly held: HeldSystem
  readonly crosswalk: Crosswalk
}

/** A row of the baseline, as it is listed. */
export interface BaselineRow {
  readonly id: string
  readonly name: string
  readonly group: string
  readonly detail: string
  readonly total: string
}

export interface Found {
  readonly code: FindingCode
  readonly facts: Facts
}

/** A system's object beside the baseline's. */
export interface Compared {
  readonly agrees: boolean
  readonly words: string
  readonly fields: GridObject['fields']
  readonly found: readonly Found[]
  readonly remedies: readonly Remedy[]
}

/** One kind of set-up that is aligned: what the baseline's rows are, and how a system's object is held against one. */
export interface KindOfSetUp {
  readonly kind: AlignKind
  /** Null where objects meet without links. */
  readonly link: LinkKind | null
  /** Of which resource the objects are; a system that does not offer it has no column. */
  readonly resource: Resource
  rows(basis: GridBasis): BaselineRow[]
  /** Whether a system that holds nothing for a row lacks something. */
  needs(basis: GridBasis, rowId: string, system: HeldSystem): boolean
  /** Why no system needs to hold a row, in words; absent where there is nothing to say. */
  unneeded?(basis: GridBasis, rowId: string): string
  /** Whether an object that the baseline does not know matters. */
  matters(system: HeldSystem, objectId: string, basis: GridBasis): boolean
  /** What there is to say of an object that the baseline does not know. */
  says(system: HeldSystem, objectId: string, basis: GridBasis): string
  /** What is found of a system's object, whether the baseline knows it or not. */
  found?(basis: GridBasis, system: HeldSystem, objectId: string): readonly Found[]
  compare(basis: GridBasis, row: BaselineRow, objectId: string, system: AlignedSystem): Compared
  /** What systems do with whatever is new: a setting of theirs and no object; nothing where a system does not say. */
  ofNew?(basis: GridBasis): {
    readonly row: BaselineRow
    of(system: AlignedSystem): Omit<Compared, 'fields' | 'remedies'> | null
  } | null
  /** What is found about a row whatever the systems hold. */
  about(basis: GridBasis, row: BaselineRow): readonly Found[]
  /** Where objects meet without links: the one that a row meets; null where it is not there. */
  meets?(row: BaselineRow, system: HeldSystem): string | null
}
