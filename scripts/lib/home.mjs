import { randomBytes } from 'node:crypto'
import { chmodSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
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
