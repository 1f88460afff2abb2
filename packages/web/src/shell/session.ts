import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { call, Refused } from './api.ts'
import { readOnce } from './reading.ts'

export interface SessionEntity {
  readonly id: string
  readonly name: string
  readonly role: string
  readonly currency: string
  readonly locale: string
  readonly timeZone: string
  readonly today: string
  /** Since when it is read, and written no more; null where it is open. */
  readonly closedOn: string | null
}
interface SessionView {
  readonly person: {
    readonly name: string
    readonly email: string
    /** Whether they found legal entities, add people and set passwords. */
    readonly runsPractice: boolean
    /** Whether their password was set by somebody else, and nothing goes before they change it. */
    readonly mustChange: boolean
  }
  readonly entities: readonly SessionEntity[]
}

const THEME_KEY = 'axion-theme'

/** Who is signed in, and how they like their pages. */
export const useSession = defineStore('session', () => {
  const view = ref<SessionView | null>(null)
  const kept = localStorage.getItem(THEME_KEY)
  const theme = ref<'light' | 'dark'>(
    kept === 'dark' || kept === 'light'
      ? kept
      : matchMedia('(prefers-color-scheme: dark)').matches
        ? 'dark'
        : 'light',
  )

  async function load(): Promise<boolean> {
    try {
      view.value = await readOnce<SessionView>('/api/session')
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 401) throw error
      view.value = null
    }
    return view.value !== null
  }
  async function signIn(email: string, password: string): Promise<void> {
    await call('POST', '/api/session', { email, password })
    await load()
  }
  async function signOut(): Promise<void> {
    await call('DELETE', '/api/session')
    view.value = null
  }
  function turn(): void {
    theme.value = theme.value === 'dark' ? 'light' : 'dark'
    localStorage.setItem(THEME_KEY, theme.value)
  }
  return { view, theme, load, signIn, signOut, turn, entities: computed(() => view.value?.entities ?? []) }
})
