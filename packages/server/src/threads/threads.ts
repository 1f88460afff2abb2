import { fileURLToPath } from 'node:url'
import { Piscina } from 'piscina'

/** For what is soon forgotten, of each thread's heap. */
const YOUNG_MEGABYTES = 96

/** A thread that has had nothing to do for so long ends. */
const IDLE_MS = 60_000

/** Where threads of a room begin: built beside the programs, or read as it is written. */
export function fileOf(room: 'proof' | 'reading'): string {
  const isBuilt = import.meta.url.endsWith('.js')
  return fileURLToPath(new URL(isBuilt ? `./${room}-thread.js` : `../${room}/thread.mjs`, import.meta.url))
}

export interface Threads {
  /** Where they begin. */
  readonly file: string
  readonly most: number
  /** Of each thread's heap. */
  readonly megabytes: number
  /** What they do, for whoever reads what is told of them. */
  readonly does: string
}

/** Threads that begin when there is work for them. What one dies of while it works is told to whoever waits for it. */
export function begin({ file, most, megabytes, does }: Threads): Piscina {
  const threads = new Piscina({
    filename: file,
    minThreads: 0,
    maxThreads: most,
    idleTimeout: IDLE_MS,
    resourceLimits: { maxOldGenerationSizeMb: megabytes, maxYoungGenerationSizeMb: YOUNG_MEGABYTES },
  })
  threads.on('error', (error: Error) =>
    process.stderr.write(`axion: a thread that ${does}: ${error.message}\n`),
  )
  return threads
}
