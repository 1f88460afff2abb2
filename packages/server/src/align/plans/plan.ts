import { createHash } from 'node:crypto'
import type { RemedyPreview, SetUpTaken } from '@axion/contract'
import type { Revision } from '../../baseline/revise.ts'
import type { HeldSystem } from '../../setUp/held.ts'
import type { LinkRequest } from '../links.ts'

/** What carrying out a remedy comes to: fields sent to one object of a system, an object made there, or changes of the baseline. */
export type Act =
  | {
      readonly to: 'object'
      readonly resource: SetUpTaken
      readonly objectId: string
      readonly revision: string
      readonly fields: Readonly<Record<string, unknown>>
      readonly before: Readonly<Record<string, unknown>>
    }
  | {
      readonly to: 'system'
      readonly resource: SetUpTaken
      readonly value: object
      readonly key: string
      readonly link: Omit<LinkRequest, 'objectId'> | null
    }
  | {
      readonly to: 'baseline'
      readonly revisions: readonly Revision[]
      readonly introduces: boolean
      readonly link: LinkRequest | null
    }

export interface Plan {
  readonly system: HeldSystem
  readonly object: string
  /** Another state of what it rests on makes another revision. */
  readonly revision: string
  readonly changes: RemedyPreview['changes']
  readonly act: Act
}

export function planned(
  system: HeldSystem,
  object: string,
  changes: RemedyPreview['changes'],
  act: Act,
): Plan {
  return {
    system,
    object,
    changes,
    act,
    revision: createHash('sha256')
      .update(JSON.stringify([changes, act]))
      .digest('base64url'),
  }
}

/** A value as people read it. */
export function inWords(value: unknown): string {
  if (value === null || value === undefined) return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'object')
    return Object.values(value)
      .filter((part) => part !== null)
      .join(', ')
  return String(value as string | number)
}
