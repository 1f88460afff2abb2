import { Bridges } from '../bridges/client.ts'
import { connect } from '../database/connection.ts'
import { Reading } from '../reading/pool.ts'
import { businessDate, type EdgeServices, type Services } from '../services/services.ts'
import { readSettings, type Settings } from '../settings/settings.ts'
import { lastingLogs } from './lastingLog.ts'

/** Reads the settings, or ends with one clear line for each that is wrong. */
export function settingsOrExit(): Settings {
  lastingLogs()
  try {
    return readSettings(process.env)
  } catch (error) {
    for (const line of (error as Error).message.split('\n')) process.stderr.write(`axion: ${line}\n`)
    process.exit(2)
  }
}

/** For requests, or a worker's hands, each of which holds a lock of its own beside its transaction. */
const CONNECTIONS = 20

export async function openServices(settings: Settings): Promise<Services> {
  const reading = new Reading()
  return {
    settings,
    reading,
    database: connect(settings.AXION_DATABASE, CONNECTIONS, settings.waits.patience),
    bridges: new Bridges(settings, reading),
    today: businessDate(settings),
  }
}

/** The server's own: a worker that is given this address does not read it. */
export async function openEdge(settings: Settings): Promise<EdgeServices> {
  if (settings.AXION_KEYS_DATABASE === undefined) {
    process.stderr.write('axion: AXION_KEYS_DATABASE is missing\n')
    process.exit(2)
  }
  return { ...(await openServices(settings)), keys: connect(settings.AXION_KEYS_DATABASE, 3) }
}

/** Ends in order on a signal: what is under way is finished, then connections are closed. */
export function onEnd(close: () => Promise<void>): void {
  for (const signal of ['SIGTERM', 'SIGINT'] as const) {
    process.once(
      signal,
      () =>
        void close().then(
          () => process.exit(0),
          (error: unknown) => {
            process.stderr.write(`axion: ${(error as Error).message}\n`)
            process.exit(1)
          },
        ),
    )
  }
}
