import { spawn, type ChildProcess } from 'node:child_process'
import { told } from '../../../scripts/lib/programs.mjs'
import type { World } from './world.ts'

const AGAIN_MS = 200

/** Real worker processes of a world, which can be killed as no signal handler can soften. */
export class Workers {
  private readonly running: ChildProcess[] = []
  private readonly killed = new Set<ChildProcess>()
  private ended = false

  /** How many ended that nobody killed. */
  get died(): number {
    return this.running.filter(
      (one) => (one.exitCode !== null || one.signalCode !== null) && !this.killed.has(one),
    ).length
  }

  constructor(private readonly world: World) {}

  /** A worker, or a server with settings of its own. @param on what the command begins with, to run elsewhere */
  start(
    program: 'worker' | 'server' = 'worker',
    own: Readonly<Record<string, string>> = {},
    on: readonly string[] = [],
  ): ChildProcess {
    const [command = '', ...args] = [
      ...on,
      process.execPath,
      ...told(`packages/server/src/main/${program}.ts`),
    ]
    const worker = spawn(command, args, {
      env: { ...process.env, ...this.world.environment, ...own },
      stdio: ['ignore', 'ignore', 'inherit'],
    })
    this.running.push(worker)
    return worker
  }

  /** A program that is started again whenever it ends, for as long as it takes. */
  keep(program: 'worker' | 'server', own: Readonly<Record<string, string>> = {}): () => ChildProcess {
    let current = this.start(program, own)
    const watch = (): void =>
      void current.once('exit', () =>
        setTimeout(() => {
          if (this.ended) return
          current = this.start(program, own)
          watch()
        }, AGAIN_MS),
      )
    watch()
    return () => current
  }

  /** kill -9, and waits until it is gone. */
  async kill(worker: ChildProcess): Promise<void> {
    this.killed.add(worker)
    if (worker.exitCode !== null || worker.signalCode !== null) return
    const gone = new Promise((done) => worker.once('exit', done))
    worker.kill('SIGKILL')
    await gone
  }

  killAll(): Promise<unknown> {
    this.ended = true
    return Promise.all(this.running.map((worker) => this.kill(worker)))
  }
}
