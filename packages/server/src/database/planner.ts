import type { Transaction } from './connection.ts'

/**
 * For statements over a whole month whose rows the planner cannot count beforehand, as of a common table expression or of what was written
 * a moment ago: it would join them in a loop, 450 times as long.
 */
export async function overMonths<T>(trx: Transaction, work: () => Promise<T>): Promise<T> {
  await trx.raw('set local enable_nestloop = off')
  const done = await work()
  await trx.raw('set local enable_nestloop to default')
  return done
}
