/** A name after Unicode, case and white-space folding: what two names that "are the same" share. */
export function foldName(name: string): string {
  return name
    .normalize('NFKC')
    .replace(/[\u2010-\u2015\u2212]/g, '-')
    .trim()
    .replace(/\s+/g, ' ')
    .toLowerCase()
}

/**
 * Whether two names nearly match: edit distance at most 2, and at most a fifth of the longer folded name.
 * @example nearName('Hollis County Treasurer', 'Hollis County Tresurer') // true
 */
export function nearName(a: string, b: string): boolean {
  const left = [...foldName(a)]
  const right = [...foldName(b)]
  const distance = editDistance(left, right)
  return distance > 0 && distance <= 2 && distance * 5 <= Math.max(left.length, right.length)
}

function editDistance(a: readonly string[], b: readonly string[]): number {
  let row = b.map((_, at) => at + 1)
  row.unshift(0)
  a.forEach((letter, i) => {
    const next = [i + 1]
    b.forEach((other, j) => {
      next.push(
        Math.min((next[j] ?? 0) + 1, (row[j + 1] ?? 0) + 1, (row[j] ?? 0) + (letter === other ? 0 : 1)),
      )
    })
    row = next
  })
  return row[b.length] ?? 0
}

/** A run of letters of one name, and whether the other name has it. */
export interface NamePiece {
  readonly text: string
  readonly same: boolean
}

/**
 * Two names character by character: the longest common subsequence is `same`, what stands beside it is not.
 * Works on the names as they are, so that spaces, dashes and case show.
 */
export function compareNames(
  a: string,
  b: string,
): { readonly left: readonly NamePiece[]; readonly right: readonly NamePiece[] } {
  const left = [...a]
  const right = [...b]
  const lengths = left.map(() => new Array<number>(right.length + 1).fill(0))
  lengths.push(new Array<number>(right.length + 1).fill(0))
  const at = (i: number, j: number): number => lengths[i]?.[j] ?? 0
  for (let i = left.length - 1; i >= 0; i--) {
    for (let j = right.length - 1; j >= 0; j--) {
      const row = lengths[i] as number[]
      row[j] = left[i] === right[j] ? at(i + 1, j + 1) + 1 : Math.max(at(i + 1, j), at(i, j + 1))
    }
  }
  const sameLeft = new Set<number>()
  const sameRight = new Set<number>()
  for (let i = 0, j = 0; i < left.length && j < right.length;) {
    if (left[i] === right[j]) {
      sameLeft.add(i++)
      sameRight.add(j++)
    } else if (at(i + 1, j) >= at(i, j + 1)) i++
    else j++
  }
  return { left: pieces(left, sameLeft), right: pieces(right, sameRight) }
}

function pieces(letters: readonly string[], same: ReadonlySet<number>): NamePiece[] {
  const out: { text: string; same: boolean }[] = []
  letters.forEach((letter, at) => {
    const last = out.at(-1)
    if (last && last.same === same.has(at)) last.text += letter
    else out.push({ text: letter, same: same.has(at) })
  })
  return out
}
