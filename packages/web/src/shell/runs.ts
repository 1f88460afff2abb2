import type { RunView } from '@axion/contract'
import { inject, onBeforeUnmount, provide, ref, type InjectionKey, type Ref } from 'vue'
import { asRefused, call, type Refused } from './api.ts'
import type { Month } from './month.ts'

export interface Runs {
  /** The run that is shown: under way, or ended and not yet dismissed. */
  readonly current: Ref<RunView | null>
  readonly refused: Ref<Refused | null>
  follow(run: RunView | null): void
  /** Starts a run by asking the API for it, and follows it to its end. */
  start(path: string, body?: unknown): Promise<boolean>
  cancel(): Promise<void>
  dismiss(): void
}

const KEY: InjectionKey<Runs> = Symbol('runs')
const ASK_AGAIN_MS = 500

export const isUnderWay = (run: RunView | null): boolean =>
  run?.state === 'queued' || run?.state === 'running'

/** Runs go on in the background; this only watches. A page that is loaded anew finds the run where it is. */
export function provideRuns(month: Month): Runs {
  const current = ref<RunView | null>(null)
  const refused = ref<Refused | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined

  async function ask(id: string): Promise<void> {
    try {
      const run = await call<RunView>('GET', `/api/entities/${month.entity.value.id}/runs/${id}`)
      const moved = run.done !== current.value?.done || run.failed !== current.value.failed
      current.value = run
      if (isUnderWay(run)) {
        if (moved) await month.changed()
        timer = setTimeout(() => void ask(id), ASK_AGAIN_MS)
      } else await month.changed()
    } catch (error) {
      refused.value = asRefused(error)
      timer = setTimeout(() => void ask(id), ASK_AGAIN_MS * 4)
    }
  }
  function follow(run: RunView | null): void {
    clearTimeout(timer)
    if (!run) return
    current.value = run
    void ask(run.id)
  }
  async function start(path: string, body: unknown = {}): Promise<boolean> {
    refused.value = null
    try {
      const { run } = await call<{ run: string }>('POST', month.api.value + path, body)
      follow({
        id: run,
        kind: '',
        state: 'queued',
        step: '',
        total: 0,
        done: 0,
        failed: 0,
        startedBy: '',
        problem: null,
        problems: [],
        pulled: [],
      })
      return true
    } catch (error) {
      refused.value = asRefused(error)
      return false
    }
  }
  const cancel = async (): Promise<void> => {
    if (current.value)
      await call('POST', `/api/entities/${month.entity.value.id}/runs/${current.value.id}/cancel`).catch(
        (error: unknown) => (refused.value = asRefused(error)),
      )
  }
  const dismiss = (): void => {
    current.value = null
    refused.value = null
  }
  onBeforeUnmount(() => clearTimeout(timer))
  const runs: Runs = { current, refused, follow, start, cancel, dismiss }
  provide(KEY, runs)
  return runs
}

export function useRuns(): Runs {
  const runs = inject(KEY)
  if (!runs) throw new Error('runs are watched inside the shell')
  return runs
}
