import { availableParallelism } from 'node:os'
import { nameOf } from '../documents/ids.ts'
import type { DepartingRows } from '../setUp/departing.ts'
import { unitsOf, type Behind, type Unit } from './gather.ts'
import type { SetUp } from './grounds.ts'
import { inThreads, THREADS } from './threads.ts'
import { workOut, type Kit } from './workOut.ts'
import type { Slice } from './write.ts'

/** More documents at once are worth threads of their own, where there is a processor beside this one's. */
export const ALONE = availableParallelism() > 1 ? 2000 : Infinity
/** A month of any size takes the memory of a few slices of so many documents. */
const [SLICE, SLICE_OF_THREAD] = [2000, 1000]

/** How documents are worked out: so many together, so many slices at a time. */
interface Hands {
  readonly slice: number
  readonly ahead: number
  readonly work: (behind: Behind) => Promise<Slice>
}

export function byItself(kit: Kit): Hands {
  const work = async (behind: Behind): Promise<Slice> => {
    const units = new Map<string, Unit>()
    const worked = await workOut(kit, behind, (unit, { differs, named }) => {
      if (differs) units.set(named, unit)
    })
    return { worked, documents: behind.keys, unitsNamed: () => units }
  }
  return { slice: SLICE, ahead: 1, work }
}

/** Units do not go from thread to thread, only what is written of them: those that have to be weighed are worked out here once more. */
export function threaded(setUp: SetUp, departing: DepartingRows, period: string): Hands {
  const inThread = inThreads(setUp, departing, period)
  const work = async (behind: Behind): Promise<Slice> => ({
    worked: await inThread(behind),
    documents: behind.keys,
    unitsNamed: (named) => {
      const documents = behind.documents.filter((stored) => named.has(nameOf(stored)))
      const units = unitsOf(setUp, period, { ...behind, documents })
      return new Map([...units].flatMap((unit) => (unit.source ? [[nameOf(unit.source.stored), unit]] : [])))
    },
  })
  return { slice: SLICE_OF_THREAD, ahead: THREADS + 1, work }
}
