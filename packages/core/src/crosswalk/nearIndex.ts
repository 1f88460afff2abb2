import { foldName, nearName } from './folding.ts'

/** Names that nearly match differ by at most so many edits. */
const EDITS = 2
const PIECES = EDITS + 1

/**
 * Finds the names of a set that nearly match another, without comparing each: of a name cut in three pieces, two edits leave
 * at least one piece whole, moved by at most two places. What the pieces find is then compared in full.
 */
export class NearIndex<T> {
  private readonly byPiece = new Map<string, { readonly name: string; readonly of: T }[]>()

  constructor(names: Iterable<readonly [name: string, of: T]>) {
    for (const [name, of] of names) {
      const letters = [...foldName(name)]
      for (const { at, piece } of piecesOf(letters)) {
        const key = keyOf(letters.length, at, piece)
        const found = this.byPiece.get(key)
        if (found) found.push({ name, of })
        else this.byPiece.set(key, [{ name, of }])
      }
    }
  }

  /** What bears a name that nearly matches this one, and is not the same after folding. */
  near(name: string): T[] {
    const letters = [...foldName(name)]
    const found = new Map<T, string>()
    for (let length = Math.max(PIECES, letters.length - EDITS); length <= letters.length + EDITS; length++) {
      for (const [at, { start, size }] of bounds(length).entries()) {
        for (
          let from = Math.max(0, start - EDITS);
          from <= Math.min(letters.length - size, start + EDITS);
          from++
        ) {
          for (const { name: other, of } of this.byPiece.get(
            keyOf(length, at, letters.slice(from, from + size)),
          ) ?? [])
            found.set(of, other)
        }
      }
    }
    return [...found].filter(([, other]) => nearName(name, other)).map(([of]) => of)
  }
}

function piecesOf(letters: readonly string[]): { readonly at: number; readonly piece: readonly string[] }[] {
  // Shorter names have no near ones: an edit in four letters is more than a fifth.
  if (letters.length < PIECES) return []
  return bounds(letters.length).map(({ start, size }, at) => ({
    at,
    piece: letters.slice(start, start + size),
  }))
}

function bounds(length: number): { readonly start: number; readonly size: number }[] {
  return Array.from({ length: PIECES }, (_, at) => {
    const start = Math.floor((length * at) / PIECES)
    return { start, size: Math.floor((length * (at + 1)) / PIECES) - start }
  })
}

function keyOf(length: number, at: number, piece: readonly string[]): string {
  return `${length} ${at} ${piece.join('')}`
}
