import { determine } from '@axion/core'
import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { reckon, rightWay, type Sale } from '../packages/core/test/score/calculator.ts'
import { saleOf } from '../packages/core/test/score/score.ts'
import { documentOf, truth } from '../packages/core/test/score/truth.ts'

export interface DeterminationTimes {
  readonly documents: number
  readonly components: number
  /** Nanoseconds. */
  readonly perDocument: number
  readonly perComponent: number
  /** The same sums in bare integer arithmetic, which keeps no reasons. */
  readonly barePerDocument: number
  /** Of invoices of one line alone. */
  readonly perComponentOfOne: number
}

/** Determination of documents of every kind beside the same sums in bare integers, in one run. */
export function timeDetermination(seed: number, many: number): DeterminationTimes {
  const generator = xoroshiro128plus(seed)
  const index = truth()
  const sales: Sale[] = Array.from({ length: many }, (_, at) =>
    saleOf(`S-${at}`, (from, to) => uniformInt(generator, from, to)),
  )
  const documents = sales.map(documentOf)
  let components = 0
  const core = (of = documents): void => {
    components = 0
    for (const document of of) components += determine(document, index).rows.length
  }
  const single = documents.filter(({ lines, original }) => lines.length === 1 && original === null)
  const bare = (): void => sales.forEach((sale) => reckon(sale, rightWay(sale)))
  // Once to warm up, then the median of five.
  const timed = (work: () => void): number => {
    work()
    const times = Array.from({ length: 5 }, () => {
      const began = process.hrtime.bigint()
      work()
      return Number(process.hrtime.bigint() - began)
    })
    return times.sort((a, b) => a - b)[2] ?? 0
  }
  const ofOne = timed(() => core(single)) / components
  const [ours, theirs] = [timed(() => core()), timed(bare)]
  return {
    documents: many,
    components,
    perDocument: ours / many,
    perComponent: ours / components,
    barePerDocument: theirs / many,
    perComponentOfOne: ofOne,
  }
}
