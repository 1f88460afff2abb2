import type { Goods } from './charged.ts'
import type { Place } from './land.ts'

/** An object as a system holds it, in the shape of the bridge contract. */
export interface Held {
  readonly id: string
  readonly value: Readonly<Record<string, unknown>>
}
export interface MadeSystem {
  readonly settings: Readonly<Record<string, unknown>>
  readonly objects: Readonly<Record<string, readonly Held[]>>
}

export interface Item {
  readonly code: string
  readonly name: string
  readonly taxCode: string
  readonly kind: Goods['kind']
  readonly price: bigint
}
export interface Party {
  readonly id: string
  readonly name: string
  readonly place: Place
  readonly exempt: string | null
}

export const MONTH = '2026-09'
export const held = (id: string, value: Held['value']): Held => ({ id, value })
/** A code as people write it. */
export const titled = (code: string): string => `${code.slice(0, 1)}${code.slice(1).toLowerCase()}`

/** A percent in millionths as its decimal. */
export function decimal(percent: bigint): string {
  return `${percent / 1_000_000n}.${(percent % 1_000_000n)
    .toString()
    .padStart(6, '0')
    .replace(/0{1,4}$/, '')}`
}
