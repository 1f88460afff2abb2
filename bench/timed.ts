/** The median of several runs, in milliseconds. */
export async function timed(work: () => Promise<unknown>, times = 3): Promise<number> {
  const each: number[] = []
  for (let at = 0; at < times; at++) {
    const began = performance.now()
    await work()
    each.push(performance.now() - began)
  }
  return each.sort((a, b) => a - b)[Math.floor(times / 2)] ?? 0
}
