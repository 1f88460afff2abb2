export interface Pauses {
  readonly first: number
  readonly longest: number
  readonly forgivenAfter: number
}
/** The usual pauses, each of so large a share. */
export function pauses(share: number): Pauses
/** Milliseconds to wait after so many deaths in a row. */
export function pauseAfter(deaths: number, pauses?: Pauses): number
export class Processes {
  constructor(home: string, env: Readonly<Record<string, string>>, pauses?: Pauses)
  /** Starts a program, with settings that it alone is given. */
  start(name: string, file: string, own?: Readonly<Record<string, string>>): void
  readonly running: ReadonlyMap<string, import('node:child_process').ChildProcess>
  stop(): Promise<void>
}
