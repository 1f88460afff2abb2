import { computed, inject, provide, ref, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import { useRoute } from 'vue-router'
import type { PathView } from '@axion/contract'
import type { Refused } from './api.ts'
import { readAnew, useReading } from './reading.ts'
import { useSession, type SessionEntity } from './session.ts'

/** The legal entity and month being worked, and what the path across the top says of them. */
export interface Month {
  readonly entity: ComputedRef<SessionEntity>
  readonly month: ComputedRef<string>
  /** The API's address of this month: /api/entities/{entity}/months/{month} */
  readonly api: ComputedRef<string>
  readonly path: Ref<PathView | null>
  /** Why the path could not be read. */
  readonly refused: ComputedRef<Refused | null>
  /** Something changed: whatever is shown is read anew. */
  changed(): Promise<void>
  /** How often something changed: what was worked out before the last time is older than what is shown. */
  readonly changes: Ref<number>
}

const KEY: InjectionKey<Month> = Symbol('month')

export function provideMonth(): Month {
  const route = useRoute()
  const session = useSession()
  // On the way out of the shell the address has no month any more: until then it is the one before.
  const entity = computed<SessionEntity>(
    (before) => session.entities.find((e) => e.id === route.params['entity']) ?? (before as SessionEntity),
  )
  const month = computed<string>((before) => String(route.params['month'] ?? before))
  const api = computed(() => `/api/entities/${entity.value.id}/months/${month.value}`)
  const { view: path, refused } = useReading<PathView>(() => `${api.value}/path`)
  const changes = ref(0)
  const changed = (): Promise<void> => {
    changes.value++
    return readAnew()
  }
  const provided: Month = { entity, month, api, path, refused, changed, changes }
  provide(KEY, provided)
  return provided
}

export function useMonth(): Month {
  const month = inject(KEY)
  if (!month) throw new Error('a page of a month stands outside the shell')
  return month
}
