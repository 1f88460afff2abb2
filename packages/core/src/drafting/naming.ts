import { foldName } from '../crosswalk/folding.ts'

/** A code of our own out of a name: capitals, digits and single dashes, told from those that are taken by a number. */
export function codeFrom(name: string, taken: ReadonlySet<string>, most = 40): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toUpperCase()
    .replace(/[^A-Z0-9]+/g, '-')
    .slice(0, most)
    .replace(/^-|-$/g, '')
  const base = plain === '' ? 'X' : plain
  for (let n = 1; ; n++) {
    const code = n === 1 ? base : `${base}-${n}`
    if (!taken.has(code)) return code
  }
}

/** Whether a system's own code can be the baseline's. */
export function isCode(code: string | null): code is string {
  return code !== null && /^\S{1,60}$/.test(code)
}

/** An item tax code as the baseline can have it: a system's own, unless it has spaces in it. */
export function taxCodeOf(text: string): string {
  return isCode(text) ? text : codeFrom(text, new Set(), 60)
}

/** The only one of the baseline's objects that bears a name; null where none does, or several. */
export function namedIn(
  known: readonly { readonly id: string; readonly name: string }[],
  name: string,
): string | null {
  const same = known.filter((one) => foldName(one.name) === foldName(name))
  return same.length === 1 ? (same[0]?.id ?? null) : null
}

/** Codes by what they are for, each given once. */
export class Codes {
  readonly #taken = new Set<string>()
  /** The first wanted that is a code and free, else one made of the name. */
  give(name: string, ...wanted: readonly (string | null)[]): string {
    const code = wanted.find((one): one is string => isCode(one) && !this.#taken.has(one))
    const given = code ?? codeFrom(name, this.#taken)
    this.#taken.add(given)
    return given
  }
}
