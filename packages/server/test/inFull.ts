import type { FullProofView, LastFullProof } from '@axion/contract'
import type { World } from './world.ts'

/** Proves a month in full, to its end, and says what was found. */
export async function provenInFull(world: World, month = '2026-09'): Promise<FullProofView> {
  const of = `/api/entities/larkspur/months/${month}`
  const { run } = await world.ok<{ run: string }>('POST', `${of}/full-proof`, {})
  const { state } = await world.finish(run)
  const { last } = await world.ok<LastFullProof>('GET', `${of}/full-proof`)
  if (state !== 'done' || !last) throw new Error(`the full proof is ${state}`)
  return last.full
}
