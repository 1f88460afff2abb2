import { fstatSync, writeSync } from 'node:fs'
import { Writable } from 'node:stream'

/**
 * Output into a file whose disk may be full: what cannot be written is lost, its program goes on, and as soon as there is room it says
 * how many lines are missing. Node's own stream would end the program.
 */
export class LastingLog extends Writable {
  private lost = 0

  /** @param write appends what it can of bytes, from a place on, and says how many; throws where it can none */
  constructor(private readonly into: (bytes: Buffer, from: number) => number) {
    super({ decodeStrings: true })
  }

  override _write(lines: Buffer, _encoding: BufferEncoding, done: () => void): void {
    try {
      if (this.lost > 0) this.append(Buffer.from(`\naxion: here ${this.lost} lines could not be written\n`))
      this.lost = 0
      this.append(lines)
    } catch {
      // There is nowhere to say it until there is room: it is counted.
      this.lost += lines.toString().trimEnd().split('\n').length
    }
    done()
  }

  private append(bytes: Buffer): void {
    for (let written = 0; written < bytes.length;) written += this.into(bytes, written)
  }
}

/** Has this program's output last, where it goes into files. */
export function lastingLogs(): void {
  for (const [name, file] of [
    ['stdout', 1],
    ['stderr', 2],
  ] as const)
    if (fstatSync(file).isFile())
      Object.defineProperty(process, name, {
        value: new LastingLog((bytes, from) => writeSync(file, bytes, from)),
      })
}
