import type { RunView } from '@axion/contract'
import { useQuery } from '@tanstack/vue-query'
import { computed, inject, provide, ref, watch, type InjectionKey, type Ref } from 'vue'
import { asRefused, call, type Refused } from './api.ts'
import type { Month } from './month.ts'
import { queries } from './reading.ts'

export interface Runs {
  /** The run that is shown: under way, or ended and not yet dismissed. */
  readonly current: Ref<RunView | null>
  readonly refused: Ref<Refused | null>
  follow(run: RunView): void
  /** Starts a run by asking the API for it, and follows it to its end. */
  start(path: string, body?: unknown): Promise<boolean>
  cancel(): Promise<void>
  dismiss(): void
}

const KEY: InjectionKey<Runs> = Symbol('runs')
const ASK_AGAIN_MS = 500

export const isUnderWay = (run: RunView | null): boolean =>
  run?.state === 'queued' || run?.state === 'running'

/** A run that was just begun, until more is known of it. */
export const begun = (id: string, kind = ''): RunView => ({
  id,
  kind,
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

/** Runs go on in the background; this only watches. A page that is loaded anew finds the run where it is. */
export function provideRuns(month: Month): Runs {
  const current = ref<RunView | null>(null)
  const refused = ref<Refused | null>(null)
  const followed = ref<string | null>(null)
  const runAt = (id: string): string => `/api/entities/${month.entity.value.id}/runs/${id}`
  const { data, error } = useQuery(
    computed(() => ({
      queryKey: ['run', month.entity.value.id, followed.value],
      queryFn: () => call<RunView>('GET', runAt(followed.value ?? '')),
      enabled: followed.value !== null,
      refetchInterval: ({ state }: { state: { status: string; data: RunView | undefined } }) =>
        state.status === 'error' ? ASK_AGAIN_MS * 4 : isUnderWay(state.data ?? null) ? ASK_AGAIN_MS : false,
      refetchIntervalInBackground: true,
    })),
    queries,
  )
  let reading = false
  watch(data, async (run) => {
    if (!run || run.id !== followed.value) return
    const moved = run.done !== current.value?.done || run.failed !== current.value.failed
    current.value = run
    // What is shown is read to its end before it is read anew, however fast a run moves; once it ends, in any case.
    if (isUnderWay(run) && (!moved || reading)) return
    reading = true
    await month.changed()
    reading = false
  })
  watch(error, (now) => (refused.value = now && asRefused(now)))
  watch(() => month.entity.value.id, dismiss)
  watch(month.path, (path) => {
    if (path?.run && !isUnderWay(current.value)) follow(path.run)
  })

  function follow(run: RunView): void {
    current.value = run
    followed.value = run.id
  }
  async function start(path: string, body: unknown = {}): Promise<boolean> {
    refused.value = null
    try {
      const { run } = await call<{ run: string }>('POST', month.api.value + path, body)
      follow(begun(run))
      return true
    } catch (failure) {
      refused.value = asRefused(failure)
      return false
    }
  }
  const cancel = async (): Promise<void> => {
    if (current.value)
      await call('POST', `${runAt(current.value.id)}/cancel`).catch(
        (failure: unknown) => (refused.value = asRefused(failure)),
      )
  }
  function dismiss(): void {
    current.value = null
    followed.value = null
    refused.value = null
  }
  const runs: Runs = { current, refused, follow, start, cancel, dismiss }
  provide(KEY, runs)
  return runs
}

export function useRuns(): Runs {
  const runs = inject(KEY)
  if (!runs) throw new Error('runs are watched inside the shell')
  return runs
}
