import { setImmediate } from 'node:timers/promises'
import { unitsOf, type Behind, type Unit } from './gather.ts'
import { askedSetUp, type SetUp } from './grounds.ts'
import { gathered, type Gathered } from './gathered.ts'
import { Asking } from './asking.ts'
import type { Answering } from './questions.ts'
import { stakingOf, type Staking } from './stakes.ts'
import { composed, type Composed } from './composed.ts'

/** What a month's documents are worked out by. */
export interface Kit {
  readonly period: string
  /** Noting what is asked of it. */
  readonly setUp: SetUp
  readonly asking: Asking
  readonly staking: Staking
}

export function kitOf(setUp: SetUp, answering: Answering, period: string): Kit {
  const asking = new Asking()
  const asked = askedSetUp(setUp, asking)
  return { period, setUp: asked, asking, staking: stakingOf(asked, period, { answering, asking }) }
}

/** What units come to, and what they asked of the set-up: as it goes from thread to thread. */
export interface Worked {
  readonly units: readonly Composed[]
  readonly asked: Gathered
}

/** Units of so many documents are worked out before others have their turn: what is being written goes on meanwhile. */
const TURN = 20

/**
 * Works out what units of documents come to, and asks the database nothing.
 * @param see is shown each of them
 */
export async function workOut(
  kit: Kit,
  behind: Behind,
  see?: (unit: Unit, of: Composed) => void,
): Promise<Worked> {
  const units: Composed[] = []
  const asked: Unit['asked'][] = []
  for (const unit of unitsOf(kit.setUp, kit.period, behind, kit.asking)) {
    const of = composedBy(kit, unit)
    units.push(of)
    asked.push(unit.asked)
    see?.(unit, of)
    if (units.length % TURN === 0) await setImmediate()
  }
  return { units, asked: gathered(asked) }
}

export function composedBy({ asking, setUp, staking }: Kit, unit: Unit): Composed {
  return asking.noting(unit.asked, () => composed(unit, setUp, staking))
}
