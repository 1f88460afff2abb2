import { createPinia, setActivePinia } from 'pinia'
import { expect, it, vi } from 'vitest'
import { PAGES } from './pages.ts'

/** Reached by a link or a figure alone, or by somebody who is not signed in. */
const ASIDE = ['evidence', 'found', 'first', 'home', 'invitation', 'lost', 'practice-trail', 'sign-in']

it('every page that there is is found by its name', async () => {
  vi.stubGlobal('matchMedia', () => ({ matches: false }))
  setActivePinia(createPinia())
  const { router } = await import('./router.ts')
  const named = router.getRoutes().flatMap(({ name }) => (name === undefined ? [] : [String(name)]))
  expect([...new Set([...PAGES.map(({ name }) => name), ...ASIDE])].sort()).toEqual(named.sort())
  expect(new Set(PAGES.map(({ label }) => label)).size).toBe(PAGES.length)
})
