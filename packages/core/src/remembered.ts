/**
 * What a pure work came to, kept with the unchanging thing that it was done for: it goes when the thing goes.
 * @param key which of several works on the same thing
 */
export function remembered<T extends object, R>(
  kept: WeakMap<T, Map<string, R>>,
  of: T,
  key: string,
  work: () => R,
): R {
  const known = kept.get(of) ?? new Map<string, R>()
  if (known.size === 0) kept.set(of, known)
  const found = known.get(key)
  if (found !== undefined) return found
  const fresh = work()
  known.set(key, fresh)
  return fresh
}
