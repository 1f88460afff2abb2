import { availableParallelism } from 'node:os'
import type { Piscina } from 'piscina'
import { begin, fileOf } from '../threads/threads.ts'
import type { PageRead, ValueRead, ValuesToRead } from './thread.ts'

/** What a thread may take for one piece of work. */
export interface Bounds {
  readonly seconds: number
  /** Of its heap. */
  readonly megabytes: number
}

const BOUNDS: Bounds = { seconds: 60, megabytes: 512 }

/**
 * Threads that make sense of what bridges send, so that neither a page of any shape nor its size keeps others waiting: each piece of work
 * has its time and memory, and whoever passes them ends alone. Threads are begun when they are needed.
 */
export class Reading {
  private threads: Piscina | null = null

  constructor(
    private readonly bounds: Bounds = BOUNDS,
    private readonly file = fileOf('reading'),
  ) {}

  page(bytes: Uint8Array): Promise<PageRead> {
    return this.run('page', bytes)
  }

  /** @returns for each value, in their order, how it is read */
  async values(asked: ValuesToRead): Promise<readonly ValueRead[]> {
    if (asked.values.length === 0) return []
    const read = await this.run<ValueRead[] | { readonly problem: string }>('values', asked)
    return 'problem' in read ? asked.values.map(() => read) : read
  }

  async close(): Promise<void> {
    await this.threads?.destroy()
    this.threads = null
  }

  private async run<T>(name: string, work: unknown): Promise<T | { readonly problem: string }> {
    this.threads ??= begin({
      file: this.file,
      most: availableParallelism(),
      megabytes: this.bounds.megabytes,
      does: 'reads',
    })
    const enough = AbortSignal.timeout(this.bounds.seconds * 1000)
    try {
      return (await this.threads.run(work, { name, signal: enough })) as T
    } catch (error) {
      if (enough.aborted) return { problem: `it takes longer than ${this.bounds.seconds} seconds to read` }
      if ((error as { code?: unknown }).code === 'ERR_WORKER_OUT_OF_MEMORY')
        return { problem: `it takes more than ${this.bounds.megabytes} MB to read` }
      throw error
    }
  }
}
