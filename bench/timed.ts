/** Milliseconds of several runs: the half of them, the least and the most. */
export interface Spread {
  readonly median: number
  readonly least: number
  readonly most: number
}

export function spreadOf(each: readonly number[]): Spread {
  const sorted = [...each].sort((a, b) => a - b)
  return {
    median: sorted[Math.floor(sorted.length / 2)] ?? 0,
    least: sorted[0] ?? 0,
    most: sorted.at(-1) ?? 0,
  }
}

/** The median of several runs, in milliseconds. */
export async function timed(work: () => Promise<unknown>, times = 3): Promise<number> {
  const each: number[] = []
  for (let at = 0; at < times; at++) {
    const began = performance.now()
    await work()
    each.push(performance.now() - began)
  }
  return spreadOf(each).median
}
