import { expect, it, test } from 'vitest'
import { Ahead, type Page } from '../src/connect/ahead.ts'

/** Pages 0, 1, 2 and so on to the last, of which one cannot be had. */
function bridge(last: number, failing: number | null = null) {
  const asked: number[] = []
  const read = async (after: string): Promise<Page> => {
    const at = Number(after)
    asked.push(at)
    await new Promise((done) => setImmediate(done))
    if (at === failing) throw new Error(`page ${at}`)
    return { next: String(at + 1), more: at < last }
  }
  return { asked, ahead: new Ahead(read) }
}

it('asks for the next page as soon as one has said where it begins, for each once, and for none past the last', async () => {
  const { asked, ahead } = bridge(2)
  for (const [at, by] of [
    [0, [0, 1]],
    [1, [0, 1, 2]],
    [2, [0, 1, 2]],
  ] as const) {
    expect((await ahead.page(String(at))).next).toBe(String(at + 1))
    expect(asked).toEqual(by)
  }
})

it('asks anew for a page that was not the one it asked for', async () => {
  const { asked, ahead } = bridge(9)
  await ahead.page('0')
  expect((await ahead.page('5')).next).toBe('6')
  expect(asked).toEqual([0, 1, 5, 6])
})

test.each([0, 1])('a page that cannot be had is told to whoever comes to it: %d', async (failing) => {
  const { ahead } = bridge(2, failing)
  for (let at = 0; at < failing; at++) await ahead.page(String(at))
  // What failed while nobody waited for it ends nothing meanwhile.
  for (let turns = 0; turns < 5; turns++) await new Promise((done) => setImmediate(done))
  await expect(ahead.page(String(failing))).rejects.toThrow(`page ${failing}`)
})
