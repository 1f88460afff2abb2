import { setTimeout as delay } from 'node:timers/promises'
import type { FastifyRequest } from 'fastify'
import { Refusal } from './problems.ts'
import type { Store } from './store.ts'

/** Faults that can be switched on from the desk page. Each holds how many requests it still spoils; −1 is until switched off. */
export const FAULTS = {
  slow: 'Takes three seconds over a write, and finishes it even when nobody waits',
  'too-many': 'Answers 429, Retry-After one second',
  unavailable: 'Answers 503',
  'lost-after-commit': 'Commits a booking, then drops the connection',
  'lost-before-commit': 'Drops the connection before a booking is committed',
  'keys-ignored': 'Ignores idempotency keys',
  'no-external-id': 'Does not find bookings by external id',
} as const
export type FaultName = keyof typeof FAULTS
export type FaultSwitches = Partial<Record<FaultName, number>>

const SLOW_SECONDS = 3

export class Faults {
  constructor(private readonly store: Store) {}

  switches(): Promise<FaultSwitches> {
    return this.store.setting<FaultSwitches>('faults', {})
  }

  async set(name: FaultName, requests: number): Promise<void> {
    await this.store.setSetting('faults', { ...(await this.switches()), [name]: requests })
  }

  async isOn(name: FaultName): Promise<boolean> {
    return ((await this.switches())[name] ?? 0) !== 0
  }

  /** Whether this request is spoiled; counts it off. */
  async strikes(name: FaultName): Promise<boolean> {
    const left = (await this.switches())[name] ?? 0
    if (left > 0) await this.set(name, left - 1)
    return left !== 0
  }

  /** The faults that spoil any write, before it is handled. */
  async beforeRequest(request: FastifyRequest): Promise<void> {
    if (request.method === 'GET') return
    if (await this.strikes('slow'))
      await delay((await this.store.setting('slowSeconds', SLOW_SECONDS)) * 1000)
    if (await this.strikes('too-many'))
      throw new Refusal(429, 'too-many-requests', 'More requests than this system takes at once.', 1)
    if (await this.strikes('unavailable'))
      throw new Refusal(503, 'unavailable', 'The system is being maintained.')
  }
}
