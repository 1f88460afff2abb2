import { computed, inject, provide, ref, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import { useRoute } from 'vue-router'
import type { PathView } from '@axion/contract'
import { call } from './api.ts'
import { useSession, type SessionEntity } from './session.ts'

/** The legal entity and month being worked, and what the path across the top says of them. */
export interface Month {
  readonly entity: ComputedRef<SessionEntity>
  readonly month: ComputedRef<string>
  /** The API's address of this month: /api/entities/{entity}/months/{month} */
  readonly api: ComputedRef<string>
  readonly path: Ref<PathView | null>
  /** Raised whenever something changed that pages show: they read anew. */
  readonly version: Ref<number>
  changed(): Promise<void>
}

const KEY: InjectionKey<Month> = Symbol('month')

export function provideMonth(): Month {
  const route = useRoute()
  const session = useSession()
  const entity = computed(
    () => session.entities.find((e) => e.id === route.params['entity']) as SessionEntity,
  )
  const month = computed(() => String(route.params['month']))
  const api = computed(() => `/api/entities/${entity.value.id}/months/${month.value}`)
  const path = ref<PathView | null>(null)
  const version = ref(0)
  const changed = async (): Promise<void> => {
    path.value = await call<PathView>('GET', `${api.value}/path`)
    version.value++
  }
  const provided: Month = { entity, month, api, path, version, changed }
  provide(KEY, provided)
  return provided
}

export function useMonth(): Month {
  const month = inject(KEY)
  if (!month) throw new Error('a page of a month stands outside the shell')
  return month
}
