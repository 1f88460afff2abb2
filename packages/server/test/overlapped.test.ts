import { describe, expect, it, test } from 'vitest'
import { overlapped } from '../src/proof/overlapped.ts'

/** What is done, in its order: each step takes a turn, and writing takes several. */
function steps(failing: string | null = null): { said: string[]; go: (count: number) => Promise<string[]> } {
  const said: string[] = []
  const turn = (): Promise<void> => new Promise((done) => setImmediate(done))
  const step = async (name: string, turns: number): Promise<string> => {
    said.push(`${name} begins`)
    for (let at = 0; at < turns; at++) await turn()
    said.push(`${name} ends`)
    if (name === failing) throw new Error(name)
    return name
  }
  async function* slices(count: number): AsyncGenerator<number> {
    for (let n = 1; n <= count; n++) {
      await step(`read ${n}`, 1)
      yield n
    }
  }
  return {
    said,
    go: (count) =>
      overlapped(
        slices(count),
        async (n) => (await step(`work ${n}`, 2), n),
        (n) => step(`write ${n}`, 9),
      ),
  }
}

describe('slices that are worked out while others are written', () => {
  it('are read, worked and written in their order, each written while the next is worked out', async () => {
    const { said, go } = steps()
    expect(await go(3)).toEqual(['write 1', 'write 2', 'write 3'])
    const at = (step: string): number => said.indexOf(step)
    for (const n of [1, 2]) {
      expect(at(`work ${n + 1} begins`)).toBeLessThan(at(`write ${n} ends`))
      expect(at(`write ${n} ends`)).toBeLessThan(at(`write ${n + 1} begins`))
      expect(at(`read ${n + 1} ends`)).toBeLessThan(at(`write ${n} begins`))
    }
    expect(said).toHaveLength(18)
  })

  test.each([0, 1])('are %d', async (count) => expect(await steps().go(count)).toHaveLength(count))

  test.each(['read 2', 'work 2', 'write 1', 'write 3'])(
    'leave nothing under way where %s fails',
    async (failing) => {
      const { said, go } = steps(failing)
      await expect(go(3)).rejects.toThrow(failing)
      for (const begun of said.filter((one) => one.endsWith('begins')))
        expect(said).toContain(begun.replace('begins', 'ends'))
    },
  )
})
