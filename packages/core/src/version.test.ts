import { createHash } from 'node:crypto'
import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { expect, it } from 'vitest'
import { saleOf } from '../test/score/score.ts'
import { documentOf, truth } from '../test/score/truth.ts'
import { CORE_VERSION, determine, expectedVoice } from './index.ts'

/** What each version makes of the same thousand sales. */
const CAME_TO: Readonly<Record<number, string>> = {
  1: '048515726574c471',
}

it('is raised where documents come to something else', () => {
  const generator = xoroshiro128plus(20260901)
  const index = truth()
  const digest = createHash('sha256')
  for (let n = 0; n < 1000; n++) {
    const document = documentOf(saleOf(`N-${n}`, (from, to) => uniformInt(generator, from, to)))
    const voice = expectedVoice(document, determine(document, index), index)
    digest.update(
      JSON.stringify(voice, (_, value: unknown) => (typeof value === 'bigint' ? `${value}` : value)),
    )
  }
  expect(digest.digest('hex').slice(0, 16)).toBe(CAME_TO[CORE_VERSION])
})
