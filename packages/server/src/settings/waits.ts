/** How long Axion waits for what, in seconds, beside what has a setting of its own. `AXION_WAITS` is the share of each that is waited. */
const USUAL = {
  /** A worker says that it is alive, and is thought so for a few times as long. */
  heartbeat: 3,
  heardOf: 15,
  /** Schedules count minutes: looking twice in one is enough. */
  schedule: 30,
  /** A run is a worker's for so long, and is renewed meanwhile: where the worker died, another takes it over then. */
  lease: 20,
  /** A transaction whose program says nothing is given up by the database: it was cut off, and others wait for what it holds. */
  idle: 300,
  /** Somebody who asked for a page waits for others who change the same books. */
  patience: 20,
  /** What a bridge may ask a pull to wait for at the most. */
  askedLater: 30,
  /** A ledger's address where nobody listens. */
  nobodyThere: 1,
  /** Pauses between attempts at a booking, the last of them from then on. */
  attempts: [0.2, 0.5, 1, 2, 4, 8, 15, 30],
  /** A ledger that gives no answer is left alone. */
  circuit: { first: 1, longest: 60 },
} as const

/** The same waits, each of so large a share. */
export type Waits = Shared<typeof USUAL>
type Shared<T> = T extends number
  ? number
  : T extends readonly unknown[]
    ? readonly number[]
    : { readonly [K in keyof T]: Shared<T[K]> }

export function waits(share: number): Waits {
  return shared(USUAL, share) as Waits
}

function shared(usual: unknown, share: number): unknown {
  if (typeof usual === 'number') return usual * share
  if (Array.isArray(usual)) return usual.map((one) => shared(one, share))
  return Object.fromEntries(Object.entries(usual as object).map(([what, one]) => [what, shared(one, share)]))
}
