import type { Transaction } from './connection.ts'

/**
 * For statements over a whole month whose rows the planner cannot count beforehand, as of a common table expression or of what was written
 * a moment ago: it would join them in a loop (450 times as long), and, once that is forbidden, take them for so costly that it compiles for
 * seconds what runs for one.
 */
export async function overMonths<T>(trx: Transaction, work: () => Promise<T>): Promise<T> {
  await trx.raw('set local enable_nestloop = off; set local jit = off')
  const done = await work()
  await trx.raw('set local enable_nestloop to default; set local jit to default')
  return done
}
