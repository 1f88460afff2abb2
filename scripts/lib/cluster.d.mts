export interface StandinDatabase {
  readonly path: string
  readonly kind:
    'ledger' | 'billing' | 'pos' | 'commerce' | 'purchasing' | 'payments' | 'bank' | 'tax-service'
  readonly database: string
}
export interface Databases {
  readonly owner: string
  readonly app: string
  /** The role that alone reads password hashes and lets people in. */
  readonly keys: string
  /** Each with the address of its own database. */
  readonly standins: readonly StandinDatabase[]
}
/** Settings of a database of which nothing is wanted once the machine fell. */
export const PASSING: readonly string[]
export class Cluster {
  constructor(
    home: string,
    options?: { readonly clock?: Readonly<Record<string, string>>; readonly config?: readonly string[] },
  )
  readonly secrets: Readonly<
    Record<
      'admin' | 'owner' | 'app' | 'keys' | 'ledger' | 'billing' | 'sources' | 'standinsToken' | 'secretKey',
      string
    >
  >
  readonly port: number
  readonly data: string
  start(at?: number): Promise<this>
  /** Starts the database again whenever it is down; gives how to stop watching. */
  keepRunning(everyMs?: number): () => void
  stop(): void
  /** Runs a program of PostgreSQL as its administrator; ends where it fails. */
  run(program: string, args: readonly string[]): { readonly stdout: string }
  sql(statements: string, database?: string): string
  prepare(axion: string, standins: readonly StandinDatabase[], template?: string): Databases
}
