import type { NamePiece } from '@axion/contract'
import { diffArrays } from 'diff'

/**
 * Two names character by character: the longest common subsequence is `same`, what stands beside it is not.
 * Works on the names as they are, so that spaces, dashes and case show.
 */
export function compareNames(
  a: string,
  b: string,
): { readonly left: readonly NamePiece[]; readonly right: readonly NamePiece[] } {
  const parts = diffArrays([...a], [...b])
  const pieces = (other: 'added' | 'removed'): NamePiece[] =>
    parts
      .filter((part) => !part[other])
      .map(({ value, added, removed }) => ({ text: value.join(''), same: !added && !removed }))
  return { left: pieces('added'), right: pieces('removed') }
}
