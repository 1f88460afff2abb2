import type { Limits, NotPosted } from '@axion/contract'
import { notifyManager } from '@tanstack/vue-query'
import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, vi } from 'vitest'
import { defineComponent, h, nextTick, onBeforeUnmount, onMounted, type Component } from 'vue'
import { createMemoryHistory, createRouter, RouterView, type Router } from 'vue-router'
import { listenForKeys } from '../src/shell/keyboard.ts'
import { provideMonth, type Month } from '../src/shell/month.ts'
import { queries, shown } from '../src/shell/reading.ts'
import { provideRuns } from '../src/shell/runs.ts'
import { useSession } from '../src/shell/session.ts'
import { VTextField } from 'vuetify/components'
import { vuetify } from '../src/shell/theme.ts'

/** Answers for a component's calls of the API, by the end of their path; an answer with a `status` is a refusal. Notes what was asked. */
export function answers(
  byPath: Readonly<Record<string, unknown>>,
): { readonly method: string; readonly path: string; readonly body: unknown }[] {
  const asked: { method: string; path: string; body: unknown }[] = []
  const known = { ...byPath, ...(byPath['/sums'] === undefined ? { '/sums': NO_SUMS } : {}) }
  vi.stubGlobal('fetch', (url: string, init: RequestInit = {}) => {
    const path = url.split('?')[0] ?? url
    asked.push({
      method: init.method ?? 'GET',
      path: url,
      body: typeof init.body === 'string' ? JSON.parse(init.body) : null,
    })
    const found = Object.entries(known).find(([end]) => path.endsWith(end))?.[1] ?? {
      status: 404,
      title: `no answer for ${path}`,
    }
    const status = (found as { status?: unknown }).status
    return Promise.resolve(
      new Response(JSON.stringify(found), { status: typeof status === 'number' ? status : 200 }),
    )
  })
  return asked
}

/** What lists come to, where a test is about something else. */
const NO_SUMS = {
  documents: 0,
  ...{ stated: '0.00', expected: '0.00', booked: '0.00', unproved: '0.00', tax: '0.00', total: '0.00' },
}

/** Everything was pulled and could be read. */
export const NO_LIMITS: Limits = { notPulled: [], failed: [], unread: 0, older: null, all: false }

/** All that there is, is posted. */
export const NONE_LEFT: NotPosted = {
  sold: { documents: 0, tax: '0.00' },
  bought: { documents: 0, tax: '0.00' },
}

/** A path on which nothing waits. */
export const PATH = {
  currency: 'USD',
  opening: null,
  connect: { ready: 2, systems: 2, pulled: true, empty: false, failing: 0, stale: 0, limits: NO_LIMITS },
  align: {
    findings: 0,
    byKind: {
      rates: 0,
      agencies: 0,
      codes: 0,
      items: 0,
      parties: 0,
      accounts: 0,
      methods: 0,
      locations: 0,
      dimensions: 0,
      amounts: 0,
    },
    stake: '0.00',
  },
  post: { waiting: 0, failed: 0, tax: '0.00', notYet: 0 },
  tieout: { unproved: '0.00', unprovedNet: '0.00', documents: 0, apart: 0 },
  run: null,
}

export interface Mounted {
  readonly page: VueWrapper
  readonly router: Router
  readonly month: Month
  press(key: string): Promise<void>
}

// An answer is told of as soon as it is there, not a timer later.
notifyManager.setScheduler(queueMicrotask)

const mounted: VueWrapper[] = []
afterEach(() => {
  for (const page of mounted.splice(0)) page.unmount()
  queries.clear()
  document.body.innerHTML = ''
})

class Observer {
  observe(): void {
    /* jsdom lays nothing out */
  }
  unobserve(): void {
    /* nor stops */
  }
  disconnect(): void {
    /* nor ends */
  }
}

/** In place of Vuetify's dialog, which jsdom cannot lay out: its content while it is open. */
const VDialog = defineComponent({
  props: { modelValue: Boolean },
  setup:
    (props, { slots }) =>
    () =>
      props.modelValue ? h('div', { role: 'dialog' }, slots['default']?.()) : null,
})
const VMenu = defineComponent({
  inheritAttrs: false,
  setup:
    (_, { slots }) =>
    () =>
      slots['activator']?.({ props: {} }),
})

/** Mounts a component inside a month of an entity, with router, keys and runs as the shell gives them. */
export async function mountIn(
  component: Component,
  options: {
    readonly props?: object
    readonly query?: Record<string, string>
    readonly params?: Record<string, string>
    readonly path?: string
    readonly role?: 'viewer' | 'preparer' | 'reviewer' | 'administrator'
  } = {},
): Promise<Mounted> {
  vi.stubGlobal('ResizeObserver', Observer)
  Element.prototype.scrollIntoView = () => undefined
  vi.stubGlobal('matchMedia', () => ({
    matches: false,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  }))
  setActivePinia(createPinia())
  const session = useSession()
  session.view = {
    person: { name: 'Kofi Imre', email: 'k@example.org', runsPractice: false, mustChange: false },
    entities: [
      {
        id: 'larkspur',
        name: 'Larkspur',
        role: options.role ?? 'preparer',
        currency: 'USD',
        locale: 'en-US',
        timeZone: 'America/Chicago',
        today: '2026-10-02',
        closedOn: null,
      },
    ],
  }
  let month: Month | undefined
  const Shell = defineComponent({
    setup() {
      month = provideMonth()
      provideRuns(month)
      let stop = (): void => undefined
      onMounted(() => (stop = listenForKeys()))
      onBeforeUnmount(() => stop())
      return () => h(component, options.props ?? {})
    },
  })
  const named = [
    'close',
    'connect',
    'changes',
    'spreadsheets',
    'post',
    'tie-out',
    'evidence',
    'rules',
    'registrations',
    'opening',
    'decisions',
    'sale',
    'entity',
  ].map((name) => ({ name, path: `/:entity/:month/${name}`, component: Shell }))
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      ...named,
      { name: 'align', path: '/:entity/:month/align/:kind', component: Shell },
      { name: 'copied', path: '/:entity/:month/align/copied', component: Shell },
      { name: 'baseline', path: '/:entity/:month/align/baseline/:kind?', component: Shell },
      // No legal entity's page: it stands outside of the shell.
      { name: 'practice', path: '/practice', component },
      { name: 'found', path: '/practice/found', component: Shell },
      { name: 'practice-trail', path: '/practice/trail', component: Shell },
      { name: 'account', path: '/account', component: Shell },
      { name: 'people', path: '/:entity/:month/people', component: Shell },
      { name: 'trail', path: '/:entity/:month/trail', component: Shell },
      { name: 'sign-in', path: '/sign-in', component: Shell },
    ],
  })
  await router.push({ path: options.path ?? '/larkspur/2026-09/close', query: options.query ?? {} })
  // A path is known to begin with, and any other test's answer gives way to it.
  queries.setQueryData(shown('/api/entities/larkspur/months/2026-09/path').queryKey, PATH)
  const page = mount(RouterView, {
    global: { plugins: [router, vuetify], components: { VDialog, VMenu, VTextField } },
    attachTo: document.body,
  }) as unknown as VueWrapper
  mounted.push(page)
  await flushPromises()
  return {
    page,
    router,
    month: month as Month,
    press: async (key) => {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
      await flushPromises()
      await nextTick()
    },
  }
}
