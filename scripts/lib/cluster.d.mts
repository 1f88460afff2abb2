export interface Databases {
  readonly owner: string
  readonly app: string
  readonly ledger: string
  readonly billing: string
}
export class Cluster {
  constructor(home: string)
  readonly secrets: Readonly<Record<'admin' | 'owner' | 'app' | 'ledger' | 'billing' | 'standinsToken' | 'secretKey', string>>
  readonly port: number
  start(): Promise<this>
  stop(): void
  sql(statements: string, database?: string): string
  prepare(names: { readonly axion: string; readonly ledger: string; readonly billing: string }): Databases
}
