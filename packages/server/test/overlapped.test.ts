import { describe, expect, it, test } from 'vitest'
import { overlapped } from '../src/proof/overlapped.ts'

/** What is done, in its order: each step takes a turn, and writing takes several. */
function steps(failing: string | null = null): {
  said: string[]
  go: (count: number, ahead?: number) => Promise<string[]>
} {
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
    go: (count, ahead = 1) =>
      overlapped(slices(count), {
        ahead,
        work: async (n) => {
          await step(`work ${n}`, 8)
          return n
        },
        write: (n) => step(`write ${n}`, 20),
      }),
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

  it('are worked out several at a time, each no sooner than it is read', async () => {
    const { said, go } = steps()
    expect(await go(6, 3)).toEqual([1, 2, 3, 4, 5, 6].map((n) => `write ${n}`))
    expect(said.indexOf('work 3 begins')).toBeLessThan(said.indexOf('work 1 ends'))
    expect(said.indexOf('work 4 begins')).toBeGreaterThan(said.indexOf('work 1 ends'))
  })

  test.each([0, 1])('are %d', async (count) => expect(await steps().go(count)).toHaveLength(count))

  test.each(
    ['read 2', 'work 1', 'work 2', 'work 3', 'write 1', 'write 3'].flatMap((step) =>
      [1, 2, 5].map((ahead) => [step, ahead] as const),
    ),
  )('leave nothing under way where %s fails, %d at a time', async (failing, ahead) => {
    const { said, go } = steps(failing)
    await expect(go(3, ahead)).rejects.toThrow(failing)
    for (const begun of said.filter((one) => one.endsWith('begins')))
      expect(said).toContain(begun.replace('begins', 'ends'))
  })
})
