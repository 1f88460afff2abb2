export interface Pauses {
  readonly first: number
  readonly longest: number
  readonly forgivenAfter: number
}
/** Milliseconds to wait after so many deaths in a row. */
export function pauseAfter(deaths: number, pauses?: Pauses): number
export class Processes {
  constructor(home: string, env: Readonly<Record<string, string>>, pauses?: Pauses)
  start(name: string, file: string): void
  stop(): Promise<void>
}
