import { availableParallelism } from 'node:os'
import type { Piscina } from 'piscina'
import { begin, fileOf } from '../threads/threads.ts'
import type { ChangesToRead, PageRead, PageToRead, RowsRead } from './thread.ts'

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

  /**
   * A page of changes, made sense of to each value, as it is staged. Where that takes too much, each of its values is said to be spoilt, and
   * the page is read all the same.
   */
  async page(asked: PageToRead): Promise<PageRead> {
    const read = await this.run<PageRead>('page', asked)
    if (!('spoilt' in read)) return read
    const without = await this.run<PageRead>('page', { ...asked, as: { ...asked.as, spoilt: read.spoilt } })
    return 'spoilt' in without ? { problem: without.spoilt } : without
  }

  /** Changes that come in no page, as they are staged. @throws where even to say that they are spoilt takes too much */
  async changes(asked: ChangesToRead): Promise<RowsRead> {
    const read = await this.run<RowsRead>('changes', asked)
    if (!('spoilt' in read)) return read
    const without = await this.run<RowsRead>('changes', {
      ...asked,
      as: { ...asked.as, spoilt: read.spoilt },
    })
    if ('spoilt' in without) throw new Error(without.spoilt)
    return without
  }

  async close(): Promise<void> {
    await this.threads?.destroy()
    this.threads = null
  }

  private async run<T>(name: string, work: unknown): Promise<T | { readonly spoilt: string }> {
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
      if (enough.aborted) return { spoilt: `it takes longer than ${this.bounds.seconds} seconds to read` }
      if ((error as { code?: unknown }).code === 'ERR_WORKER_OUT_OF_MEMORY')
        return { spoilt: `it takes more than ${this.bounds.megabytes} MB to read` }
      throw error
    }
  }
}
