import { randomBytes } from 'node:crypto'
import { chmodSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { dirname, join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

export const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '../..')
export const HOME = resolve(process.env.AXION_HOME ?? join(ROOT, '.axion'))
export const DEMO_TODAY = '2026-10-02'

/** Ends with one clear line: what is wrong, and what to do. */
export function fail(line) {
  process.stderr.write(`axion: ${line}\n`)
  process.exit(1)
}

export function portSetting() {
  const text = process.env.AXION_PORT ?? '4100'
  const port = Number(text)
  if (!/^\d+$/.test(text) || port < 1 || port > 65534)
    fail(`AXION_PORT is "${text}"; it must be a whole number from 1 to 65534 (the next one up is taken too).`)
  return port
}

/** Keys and passwords of this installation, made once and readable by its owner alone. */
export function secrets(home = HOME) {
  mkdirSync(home, { recursive: true })
  const file = join(home, 'secrets.json')
  const names = [
    'admin',
    'owner',
    'app',
    'keys',
    'ledger',
    'billing',
    'sources',
    'standinsToken',
    'secretKey',
  ]
  const kept = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {}
  const lacking = names.filter((name) => !kept[name])
  for (const name of lacking) kept[name] = randomBytes(32).toString('hex')
  if (lacking.length > 0) writeFileSync(file, JSON.stringify(kept, null, 2), { mode: 0o600 })
  chmodSync(file, 0o600)
  return kept
}

/**
 * Whether a data folder has the demo or is somebody's own, as it was begun; what has none yet begins as is wanted. The demo is never loaded
 * among somebody's own books, nor they begun among it.
 */
export function isDemo(home, wantsEmpty) {
  const kept = begun(home)?.demo
  if (kept === true && wantsEmpty)
    fail(
      `${home} has the demo. Set AXION_HOME to a folder of your own for an empty installation, or take the demo away with: npm run reset`,
    )
  return kept ?? !wantsEmpty
}

const begunFile = (home) => join(home, 'begun.json')

/** @returns null where nothing was begun there yet */
function begun(home) {
  if (existsSync(begunFile(home))) return JSON.parse(readFileSync(begunFile(home), 'utf8'))
  // Before it was written down, every folder had the demo.
  return existsSync(join(home, 'secrets.json')) ? { demo: true, external: false } : null
}

/**
 * Writes down with what a data folder is begun, before anything else is there: with the demo or not, and whether its database is on a server
 * of one's own. Ends where it was begun otherwise: nobody finds an empty database in the place of their books.
 */
export function noteBegun(home, { demo, external }) {
  const kept = begun(home)
  if (kept && (kept.external ?? false) !== external)
    fail(
      external
        ? `${home} has a PostgreSQL of its own. Set AXION_HOME to another folder for an installation on a database of your own.`
        : `The database of ${home} is on a server of your own: name it with AXION_OWNER_DATABASE, AXION_DATABASE and AXION_KEYS_DATABASE.`,
    )
  if (existsSync(begunFile(home))) return
  mkdirSync(home, { recursive: true })
  writeFileSync(begunFile(home), `${JSON.stringify({ demo, external })}\n`, { mode: 0o600 })
}

/** Which file the database's control file is: it is written in place, so that it is another one only in a copy; null where there is none. */
function controlOf(home) {
  const file = join(home, 'postgres', 'global', 'pg_control')
  return existsSync(file) ? String(statSync(file, { bigint: true }).ino) : null
}

/** Whether a data folder is a copy that was brought back. Of a database on a server of one's own, the database itself tells. */
export function wasBroughtBack(home) {
  const known = begun(home)?.control
  return known !== undefined && known !== controlOf(home)
}

/** Notes where a data folder is, once whoever has to know that it was brought back knows. */
export function notePlace(home) {
  const [kept, control] = [begun(home), controlOf(home)]
  if (!kept || control === null || kept.control === control) return
  writeFileSync(begunFile(home), `${JSON.stringify({ ...kept, control })}\n`, { mode: 0o600 })
}

/** A port of loopback that is free at this moment. */
export function freePort() {
  return new Promise((done, failed) => {
    const server = createServer()
    server.once('error', failed)
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address()
      server.close(() => done(port))
    })
  })
}

export function isFree(port) {
  return new Promise((done) => {
    const server = createServer()
    server.once('error', () => done(false))
    server.listen(port, '127.0.0.1', () => server.close(() => done(true)))
  })
}
