import { spawn, spawnSync } from 'node:child_process'
import { closeSync, mkdirSync, openSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { fail, ROOT } from './home.mjs'
import { told } from './programs.mjs'

/** What died is started again after so many milliseconds: longer each time, up to half a minute; who lived for a minute is forgiven. */
const PAUSES = { first: 500, longest: 30_000, forgivenAfter: 60_000 }
/** The same, each a share of what is usual. */
export const pauses = (share) =>
  Object.fromEntries(Object.entries(PAUSES).map(([what, ms]) => [what, ms * share]))
/** Ends a program when this one does. */
const ATTENDED = join(ROOT, 'scripts/lib/attended.mjs')
/** What a program of ours ends with where its settings are wrong: it would do so again. */
const WRONG_SETTINGS = 2

/** Runs one of our TypeScript programs to its end, and tells how it ended. */
export function runQuietly(file, env) {
  return spawnSync(process.execPath, told(file), {
    env: { ...process.env, ...env },
    encoding: 'utf8',
  })
}

/**
 * Runs one of our TypeScript programs to its end.
 * @param output `pipe`: what it prints is not shown
 * @returns what it printed and was not shown
 */
export function runOnce(file, env, input = '', args = [], output = 'inherit') {
  const result = spawnSync(process.execPath, [...told(file), ...args], {
    env: { ...process.env, ...env },
    input,
    encoding: 'utf8',
    stdio: ['pipe', output, 'pipe'],
  })
  if (result.status !== 0) fail(`${file} failed: ${result.stderr.trim()}`)
  return (result.stdout ?? '').trim()
}

export const pauseAfter = (deaths, { first, longest } = PAUSES) =>
  Math.min(first * 2 ** Math.min(deaths - 1, 20), longest)

/** Long-running programs of ours, each started again when it ends unasked, for as long as it takes. */
export class Processes {
  constructor(home, env, pauses = PAUSES) {
    this.env = env
    this.pauses = pauses
    this.logs = join(home, 'log')
    this.running = new Map()
    this.ending = false
    mkdirSync(this.logs, { recursive: true })
  }

  /** @param own settings that this program alone is given */
  start(name, file, own = {}, deathsBefore = 0) {
    const born = performance.now()
    const log = openSync(join(this.logs, `${name}.log`), 'a')
    const child = spawn(process.execPath, ['--import', ATTENDED, ...told(file)], {
      env: { ...process.env, ...this.env, ...own },
      stdio: ['pipe', log, log],
    })
    closeSync(log)
    this.running.set(name, child)
    child.once('exit', (code, signal) => {
      this.running.delete(name)
      if (this.ending) return
      const where = `Its log: ${join(this.logs, `${name}.log`)}`
      if (code === WRONG_SETTINGS) {
        process.stderr.write(`axion: the ${name} refuses its settings and is not started again. ${where}\n`)
        process.emit('SIGTERM')
        return
      }
      const deaths = performance.now() - born > this.pauses.forgivenAfter ? 1 : deathsBefore + 1
      const wait = pauseAfter(deaths, this.pauses)
      process.stderr.write(
        `axion: the ${name} ended (${code ?? signal}) and is started again in ${wait / 1000} s. ${where}\n`,
      )
      setTimeout(() => !this.ending && this.start(name, file, own, deaths), wait)
    })
    return child
  }

  async stop() {
    this.ending = true
    const children = [...this.running.values()]
    for (const child of children) child.kill('SIGTERM')
    await Promise.race([
      Promise.all(children.map((child) => new Promise((done) => child.once('exit', done)))),
      pause(10_000),
    ])
    for (const child of children) child.kill('SIGKILL')
  }
}

/** Asks until the address answers well, for a bounded number of times. */
export async function untilAnswers(url, seconds = 60) {
  for (let tries = 0; tries < seconds * 5; tries++) {
    const answer = await fetch(url).catch(() => null)
    if (answer?.ok) return
    await pause(200)
  }
  fail(`${url} does not answer. The logs are under the data folder.`)
}
