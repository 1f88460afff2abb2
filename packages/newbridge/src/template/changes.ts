import { createHash } from 'node:crypto'
import { closeSync, existsSync, fsyncSync, openSync, readFileSync, renameSync, writeSync } from 'node:fs'
import { Refusal } from './refusal.ts'

/** One object of a resource, as it stands in the system now. */
export interface Row {
  readonly id: string
  readonly value: unknown
}

/** Where an object stands: its latest change, and what it was then. */
interface Place {
  sequence: number
  revision: number
  digest: string
  removed: boolean
}
interface Kept {
  last: number
  readonly places: Map<string, Place>
}

/** An object on a page, in the order of its sequence. */
export interface Item {
  readonly id: string
  readonly sequence: string
  readonly revision: string
  readonly removed: boolean
  readonly value: unknown
}
export interface Page {
  readonly items: readonly Item[]
  readonly next: string
  readonly more: boolean
}

/**
 * Gives what has no sequence one: each time that a reader begins anew, the system is read whole and compared with what it was, and what
 * is new, changed or gone moves to the end. Kept in a file, written before anything is handed out, so that no sequence ever means
 * something else. One process at a time keeps a file.
 */
export class Changes {
  private readonly kept: Map<string, Kept>
  /** What a reader who goes on page by page is served from: one state of the system. */
  private readonly held = new Map<string, { readonly items: readonly Item[]; next: string }>()
  private turn: Promise<unknown> = Promise.resolve()

  constructor(
    private readonly file: string,
    private readonly read: (resource: string) => Promise<readonly Row[]>,
  ) {
    const written = existsSync(file)
      ? (JSON.parse(readFileSync(file, 'utf8')) as [string, number, [string, Place][]][])
      : []
    this.kept = new Map(
      written.map(([resource, last, places]) => [resource, { last, places: new Map(places) }]),
    )
  }

  /** One page past a sequence. One is read after the other: a sequence that was handed out has nothing below it any more that comes later. */
  page(resource: string, after: bigint, limit: number): Promise<Page> {
    const page = this.turn.then(() => this.pageNow(resource, after, limit))
    this.turn = page.catch(() => undefined)
    return page
  }

  /** All of a resource as it stands now, with the sequence that it stands at. */
  async now(resource: string): Promise<{ rows: readonly Row[]; sequence: string }> {
    const { items } = await this.page(resource, 0n, Number.MAX_SAFE_INTEGER)
    const rows = items.filter(({ removed }) => !removed)
    return { rows, sequence: items.at(-1)?.sequence ?? '0' }
  }

  private async pageNow(resource: string, after: bigint, limit: number): Promise<Page> {
    const goesOn = this.held.get(resource)
    if (goesOn?.next !== String(after)) await this.readAnew(resource)
    const held = this.held.get(resource)
    const rest = (held?.items ?? []).filter((item) => BigInt(item.sequence) > after)
    const items = rest.slice(0, limit)
    const next = items.at(-1)?.sequence ?? String(after)
    const more = rest.length > items.length
    if (held) held.next = more ? next : ''
    return { items, next, more }
  }

  private async readAnew(resource: string): Promise<void> {
    const rows = new Map<string, unknown>()
    for (const { id, value } of await this.read(resource)) {
      if (rows.has(id)) throw new Refusal(500, 'Not readable', `${resource} has ${id} twice.`)
      rows.set(id, value)
    }
    // Where the file was lost, what comes now is past all that was handed out before.
    const kept = this.kept.get(resource) ?? { last: Date.now(), places: new Map<string, Place>() }
    this.kept.set(resource, kept)
    let changed = false
    const move = (id: string, place: { digest: string; removed: boolean }): void => {
      const revision = (kept.places.get(id)?.revision ?? 0) + 1
      kept.places.set(id, { sequence: ++kept.last, revision, ...place })
      changed = true
    }
    for (const [id, value] of rows) {
      const digest = createHash('sha256').update(JSON.stringify(value)).digest('hex')
      const before = kept.places.get(id)
      if (before?.digest !== digest || before.removed) move(id, { digest, removed: false })
    }
    for (const [id, { removed }] of [...kept.places])
      if (!removed && !rows.has(id)) move(id, { digest: '', removed: true })
    if (changed) this.write()
    this.held.set(resource, {
      items: [...kept.places]
        .sort(([, a], [, b]) => a.sequence - b.sequence)
        .map(([id, { sequence, revision, removed }]) => ({
          id,
          sequence: String(sequence),
          revision: String(revision),
          removed,
          value: removed ? null : rows.get(id),
        })),
      next: '',
    })
  }

  /** Whole or not at all, and on the disk before anybody sees what it says. */
  private write(): void {
    const file = openSync(`${this.file}.new`, 'w', 0o600)
    writeSync(
      file,
      JSON.stringify([...this.kept].map(([resource, { last, places }]) => [resource, last, [...places]])),
    )
    fsyncSync(file)
    closeSync(file)
    renameSync(`${this.file}.new`, this.file)
  }
}
