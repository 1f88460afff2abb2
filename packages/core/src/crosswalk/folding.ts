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
