import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import { mountIn, PATH } from '../../test/mounting.ts'
import { isUnderWay, useRuns, type Runs } from './runs.ts'
import { readAnew, usePages, useReading, type Pages, type Reading } from './reading.ts'

afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

/** Answers that somebody lets go one by one, in any order. */
function heldAnswers() {
  const asked: { path: string; answer: (body: unknown, status?: number) => Promise<unknown> }[] = []
  vi.stubGlobal(
    'fetch',
    (path: string) =>
      new Promise<Response>((done) => {
        asked.push({
          path,
          answer: (body, status = 200) => {
            done(new Response(JSON.stringify(body), { status }))
            return flushPromises()
          },
        })
      }),
  )
  const of = (end: string) => asked.filter(({ path }) => path.endsWith(end))
  return {
    times: (end: string) => of(end).length,
    answer: async (end: string, body: unknown, status?: number) => await of(end).at(-1)?.answer(body, status),
  }
}
const REFUSAL = { title: 'No such search.', detail: 'Mend it.' }

async function inside<T>(use: () => T): Promise<T> {
  let used: T | undefined
  await mountIn(
    defineComponent(() => {
      used = use()
      return () => h('main')
    }),
  )
  return used as T
}

describe('what stands at an address', () => {
  it('stays until the next is there, and is never what a late answer says', async () => {
    const { answer } = heldAnswers()
    const address = ref('/a')
    const { view, refused, loading }: Reading<string> = await inside(() => useReading(() => address.value))
    expect([view.value, loading.value]).toEqual([null, true])
    await answer('/a', 'first')
    address.value = '/a?search=b'
    await flushPromises()
    expect([view.value, loading.value]).toEqual(['first', true])
    address.value = '/a?search=c'
    await flushPromises()
    await answer('=c', 'third')
    await answer('=b', 'late')
    expect([view.value, loading.value]).toEqual(['third', false])
    address.value = '/a?search=d'
    await flushPromises()
    await answer('=d', REFUSAL, 400)
    expect([view.value, refused.value?.says]).toEqual(['third', 'No such search.'])
  })

  it('of which the whole address says what it is about is never of what was narrowed otherwise, and stays while it is read anew', async () => {
    const { answer } = heldAnswers()
    const address = ref('/sums?kind=a')
    const { view, loading }: Reading<string> = await inside(() =>
      useReading(
        () => address.value,
        (whole) => whole,
      ),
    )
    await answer('=a', 'of a')
    void readAnew()
    await flushPromises()
    expect([view.value, loading.value]).toEqual(['of a', true])
    await answer('=a', 'of a, again')
    address.value = '/sums?kind=b'
    await flushPromises()
    expect(view.value).toBe(null)
    await answer('=b', REFUSAL, 400)
    expect(view.value).toBe(null)
  })

  it('never stands for something else, such as another month, while that is read or where it is refused', async () => {
    const { answer } = heldAnswers()
    const address = ref('/2026-08/close')
    const { view, refused }: Reading<string> = await inside(() => useReading(() => address.value))
    await answer('/2026-08/close', 'proved')
    expect(view.value).toBe('proved')
    address.value = '/2026-09/close'
    expect(view.value).toBeNull()
    await flushPromises()
    expect(view.value).toBeNull()
    await answer('/2026-09/close', REFUSAL, 503)
    expect([view.value, refused.value?.says]).toEqual([null, 'No such search.'])
  })

  it('is read anew when something changed, and neither read nor shown without an address', async () => {
    const { answer, times } = heldAnswers()
    const address = ref<string | null>(null)
    const { view }: Reading<string> = await inside(() => useReading(() => address.value))
    expect(times('/a')).toBe(0)
    address.value = '/a'
    await flushPromises()
    await answer('/a', 'before')
    void readAnew()
    await flushPromises()
    expect([times('/a'), view.value]).toEqual([2, 'before'])
    await answer('/a', 'after')
    expect(view.value).toBe('after')
    address.value = null
    await flushPromises()
    expect(view.value).toBeNull()
  })
})

describe('a list', () => {
  it('goes on page by page, and begins with its first page again when something changed', async () => {
    const { answer, times } = heldAnswers()
    interface Of {
      readonly next: string | null
      readonly rows: readonly number[]
    }
    const { pages, hasMore, more, refused }: Pages<Of> = await inside(() =>
      usePages<Of>(() => '/l?a=b', 'after'),
    )
    const rows = () => pages.value.flatMap((page) => page.rows)
    await answer('/l?a=b', { rows: [1, 2], next: '2 ä' })
    void more()
    void more()
    await flushPromises()
    expect(times('&after=2%20%C3%A4')).toBe(1)
    await answer('&after=2%20%C3%A4', REFUSAL, 503)
    expect([rows(), refused.value?.says]).toEqual([[1, 2], 'No such search.'])
    void more()
    await flushPromises()
    await answer('&after=2%20%C3%A4', { rows: [3], next: null })
    expect([rows(), hasMore.value, refused.value]).toEqual([[1, 2, 3], false, null])
    void readAnew()
    await flushPromises()
    expect(rows()).toEqual([1, 2])
    await answer('/l?a=b', { rows: [0, 1, 2], next: null })
    expect(rows()).toEqual([0, 1, 2])
    expect(times('&after=2%20%C3%A4')).toBe(2)
  })
})

describe('a run', () => {
  const run = (state: string, done: number) => ({ id: 'r1', kind: 'pull', state, done, failed: 0 })

  it('is asked after until it ends, through answers that fail, and what is shown is read anew as it moves', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval'] })
    const { answer, times } = heldAnswers()
    const runs: Runs = await inside(useRuns)
    void runs.start('/pulls')
    await flushPromises()
    await answer('/pulls', { run: 'r1' })
    await answer('/r1', run('queued', 0))
    const reads = times('/path')
    await vi.advanceTimersByTimeAsync(500)
    await answer('/r1', REFUSAL, 503)
    expect(runs.refused.value?.says).toBe('No such search.')
    await vi.advanceTimersByTimeAsync(2000)
    await answer('/r1', run('running', 3))
    expect([runs.current.value?.done, runs.refused.value, times('/path')]).toEqual([3, null, reads + 1])
    await vi.advanceTimersByTimeAsync(500)
    await answer('/r1', run('running', 5))
    // The page is slower than the run: it is left to read on.
    expect([runs.current.value?.done, times('/path')]).toEqual([5, reads + 1])
    await answer('/path', PATH)
    await vi.advanceTimersByTimeAsync(500)
    await answer('/r1', run('running', 7))
    expect(times('/path')).toBe(reads + 2)
    await vi.advanceTimersByTimeAsync(500)
    await answer('/r1', run('done', 7))
    expect([isUnderWay(runs.current.value), times('/path')]).toEqual([false, reads + 3])
    const asked = times('/r1')
    await vi.advanceTimersByTimeAsync(60_000)
    expect(times('/r1')).toBe(asked)
  })
})
