import { Bridges } from '../bridges/client.ts'
import { connect, withHomes, type Database } from '../database/connection.ts'
import { Homes } from '../database/homes.ts'
import { Reading } from '../reading/pool.ts'
import { businessDate, type EdgeServices, type Services } from '../services/services.ts'
import { besideName, readSettings, type Settings } from '../settings/settings.ts'
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

/** For requests, or a worker's hands. */
const CONNECTIONS = 20
const KEYS_CONNECTIONS = 3

/** What both programs have, with the directory as it is by itself. */
export function openServices(settings: Settings): Services {
  const reading = new Reading()
  return {
    settings,
    reading,
    database: open(settings, settings.AXION_DATABASE),
    bridges: new Bridges(settings, reading),
    today: businessDate(settings),
  }
}

/** The server's own: it finds each entity's books in the database that they are in. A worker that is given the addresses of keys does not read them. */
export function openEdge(settings: Settings): EdgeServices {
  const services = openServices(settings)
  const keys = (address: string | undefined, name: string): Database => {
    if (address !== undefined) return connect(address, KEYS_CONNECTIONS)
    process.stderr.write(`axion: ${name} is missing\n`)
    process.exit(2)
  }
  const beside = settings.beside.map((one) => ({
    name: one.name,
    database: open(settings, one.app),
    keys: keys(one.keys, besideName('AXION_KEYS_DATABASE', one.name)),
  }))
  return {
    ...services,
    database:
      beside.length === 0
        ? services.database
        : withHomes(services.database, new Homes(services.database, beside)),
    keys: keys(settings.AXION_KEYS_DATABASE, 'AXION_KEYS_DATABASE'),
    beside,
  }
}

/** What a worker does its work with, in each database by itself: it is told by each what is due there. */
export function openPlaces(settings: Settings): readonly [Services, ...Services[]] {
  const services = openServices(settings)
  return [services, ...settings.beside.map(({ app }) => ({ ...services, database: open(settings, app) }))]
}

function open(settings: Settings, address: string): Database {
  return connect(address, CONNECTIONS, settings.waits)
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
