import { expect, test } from 'vitest'
import { booked, determined, found, weighed } from './told.ts'

/**
 * What the core says of drawn documents, kept line by line: a change of one amount, reason or cause shows, wherever it comes from.
 * What stands here was right by the score’s own calculator when it was kept; a rule that changes is looked up in these pages before
 * they are written anew (-u).
 */
test.each([
  ['determination', determined, 140],
  ['bookings', booked, 70],
  ['verdicts', weighed, 120],
  ['causes', found, 40],
] as const)('%s of drawn documents', async (name, told, many) => {
  const lines = Array.from({ length: many }, (_, seed) => told(seed)).flat()
  await expect(`${lines.join('\n')}\n`).toMatchFileSnapshot(`./${name}.txt`)
})
