import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

const EVERY_MS = 500

/**
 * Watches the memory of this process and of every process of a PostgreSQL cluster: proportional set size, in which
 * what several processes share (the buffer cache) counts for each by its part.
 */
export class MemoryWatch {
  private readonly peaks = new Map<string, number>()
  private readonly timer: NodeJS.Timeout
  private readonly others = new Map<string, string>()

  /** @param data the cluster's data directory */
  constructor(private readonly data: string) {
    this.timer = setInterval(() => this.look(), EVERY_MS)
  }

  /** A process of ours beside this one, by what it is. */
  also(name: string, pid: string): void {
    this.others.set(name, pid)
  }

  stop(): void {
    clearInterval(this.timer)
  }

  /** By process, largest first; PostgreSQL's are named as it names them, backends of one kind together by their largest. */
  most(): { readonly process: string; readonly mebibytes: number }[] {
    return [...this.peaks]
      .sort((a, b) => b[1] - a[1])
      .map(([process, kibibytes]) => ({ process, mebibytes: Math.round(kibibytes / 1024) }))
  }

  private look(): void {
    const postmaster = readFileSync(join(this.data, 'postmaster.pid'), 'utf8').split('\n')[0] ?? ''
    this.note('this process: server code and benchmark', 'self')
    this.note('postgres: postmaster', postmaster)
    for (const [name, pid] of this.others) this.note(name, pid)
    for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
      // A process that has just been forked bears its parent's command line.
      const title = titleOf(pid)
      if (title.startsWith('postgres:') && read(pid, 'stat').split(') ')[1]?.split(' ')[1] === postmaster)
        this.note(title, pid)
    }
  }

  private note(name: string, pid: string): void {
    const held = Number(/^Pss:\s+(\d+)/m.exec(read(pid, 'smaps_rollup'))?.[1] ?? 0)
    if (held > (this.peaks.get(name) ?? 0)) this.peaks.set(name, held)
  }
}

/** A file of a process; empty where the process has ended since it was listed. */
function read(pid: string, file: string): string {
  try {
    return readFileSync(`/proc/${pid}/${file}`, 'utf8')
  } catch (error) {
    if (['ENOENT', 'ESRCH'].includes((error as NodeJS.ErrnoException).code ?? '')) return ''
    throw error
  }
}

/** PostgreSQL's own name for a process, without the address and the state of a backend. */
function titleOf(pid: string): string {
  const title = read(pid, 'cmdline').replaceAll('\0', ' ').trim()
  return title
    .replace(/ for PID \d+/, '')
    .replace(/^(postgres: \S+ \S+) \S+\(\d+\).*$/, '$1')
    .replace(/^(postgres: \S+ \S+) (\[local\]|\d+\.\d+\.\d+\.\d+).*$/, '$1')
}
