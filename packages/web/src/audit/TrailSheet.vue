<script setup lang="ts">
import { ACTS, type TrailView } from '@axion/contract'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { count } from '../figures/format.ts'
import { usePages } from '../shell/reading.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** A trail: what was done, by whom and from where. It can only grow. */
const props = defineProps<{
  /** Where it is read. */
  readonly api: string
  readonly question: string
  /** An instant as the reader's locale writes it. */
  readonly instant: (iso: string) => string
  /** Where what came from no address was done. */
  readonly inside: string
}>()
const route = useRoute()
const router = useRouter()
const query = (name: string): string => (typeof route.query[name] === 'string' ? route.query[name] : '')
const set = (changes: Record<string, string | undefined>): void =>
  void router.replace({ query: { ...route.query, ...changes } })
const wanted = computed(() =>
  new URLSearchParams(
    ['person', 'action', 'search'].map((name) => [name, query(name)]).filter(([, value]) => value !== '') as [
      string,
      string,
    ][],
  ).toString(),
)
const filtered = computed(() => wanted.value !== '')

const { view, pages, hasMore, refused, more } = usePages<TrailView>(
  () => `${props.api}?${wanted.value}`,
  'before',
)
const entries = computed(() => pages.value.flatMap((page) => page.entries))

const WORDS: Readonly<Record<string, string>> = ACTS
const word = (action: string): string => WORDS[action] ?? action.replaceAll('-', ' ')
const inWords = (fields: TrailView['entries'][number]['fields']): string =>
  fields
    .filter(({ field }) => field !== 'run')
    .map(
      ({ field, from, to }) =>
        `${field} ${from === '' ? to : to === '' ? `${from}, taken off` : `${from} → ${to}`}`,
    )
    .join(', ')
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">{{ question }}</p>
        <p v-if="view" class="verdict" data-verdict>
          <strong>{{ entries.length }}{{ hasMore ? ' newest' : '' }}</strong>
          {{ entries.length === 1 ? 'entry' : 'entries' }}{{ filtered ? ' that match' : '' }}, by
          {{ count(view.people.length, 'person', 'people') }}. Nothing is ever deleted from it
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="filters">
        <select
          :value="query('person')"
          aria-label="By whom"
          @change="set({ person: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">everybody</option>
          <option v-for="person in view?.people" :key="person">{{ person }}</option>
        </select>
        <select
          :value="query('action')"
          aria-label="What was done"
          @change="set({ action: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">everything</option>
          <option v-for="action in view?.actions" :key="action" :value="action">{{ word(action) }}</option>
        </select>
        <input
          type="search"
          :value="query('search')"
          placeholder="Object or value"
          aria-label="Filter by object or value"
          @change="set({ search: ($event.target as HTMLInputElement).value || undefined })"
        />
      </div>
    </div>
    <RefusedNote :refused="refused" />
    <div v-if="view && entries.length === 0" class="empty">
      <strong>{{ filtered ? 'Nothing matches' : 'Nothing was done yet' }}</strong>{{
        filtered
          ? 'Take a filter back to see the rest.'
          : 'What people do here is written down as they do it.'
      }}
    </div>
    <div v-else class="scroll history" tabindex="0" role="region" aria-label="Audit trail">
      <table class="sheet" aria-label="Audit trail">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Who</th>
            <th scope="col">From</th>
            <th scope="col">Did</th>
            <th scope="col">To what</th>
            <th scope="col">Fields, before and after</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="entry in entries" :key="entry.id">
            <td class="soft">{{ instant(entry.at) }}</td>
            <td class="strong">{{ entry.person || 'nobody known' }}</td>
            <td class="soft">{{ entry.from ?? inside }}</td>
            <td>{{ word(entry.action) }}</td>
            <td :title="entry.object">{{ entry.object }}</td>
            <td class="fields soft" :title="inWords(entry.fields)">{{ inWords(entry.fields) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="hasMore" class="more">
      <button type="button" class="do" @click="more">Older entries</button>
    </p>
  </main>
</template>

<style scoped>
.fields {
  max-width: 0;
  width: 45%;
}
</style>
