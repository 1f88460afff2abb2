import { spawn, spawnSync } from 'node:child_process'
import { closeSync, mkdirSync, openSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { fail, ROOT } from './home.mjs'

const TSX = join(ROOT, 'node_modules/tsx/dist/cli.mjs')
const LOADER = ['--import', join(ROOT, 'node_modules/tsx/dist/esm/index.mjs')]
const MOST_RESTARTS = 5

/** Runs one of our TypeScript programs to its end. */
export function runOnce(file, env, input = '') {
  const result = spawnSync(process.execPath, [TSX, join(ROOT, file)], {
    env: { ...process.env, ...env },
    input,
    encoding: 'utf8',
    stdio: ['pipe', 'inherit', 'pipe'],
  })
  if (result.status !== 0) fail(`${file} failed: ${result.stderr.trim()}`)
}

/** Long-running programs of ours, each started again when it ends unasked, a bounded number of times. */
export class Processes {
  constructor(home, env) {
    this.env = env
    this.logs = join(home, 'log')
    this.running = new Map()
    this.ending = false
    mkdirSync(this.logs, { recursive: true })
  }

  start(name, file, restarts = 0) {
    const log = openSync(join(this.logs, `${name}.log`), 'a')
    const child = spawn(process.execPath, [...LOADER, join(ROOT, file)], {
      env: { ...process.env, ...this.env },
      stdio: ['ignore', log, log],
    })
    closeSync(log)
    this.running.set(name, child)
    child.once('exit', (code) => {
      this.running.delete(name)
      if (this.ending) return
      if (restarts >= MOST_RESTARTS || code === 2) {
        process.stderr.write(
          `axion: the ${name} ended (${code}) and is not started again. Its log: ${join(this.logs, `${name}.log`)}\n`,
        )
        process.emit('SIGTERM')
        return
      }
      setTimeout(() => !this.ending && this.start(name, file, restarts + 1), 500)
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
