<script setup lang="ts">
import { CHANGE_WORDS } from './words.ts'
import { fieldWords, type ChangesView } from '@axion/contract'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useFormat } from '../figures/format.ts'
import { useMonth } from '../shell/month.ts'
import { usePages } from '../shell/reading.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What every pull and every file found otherwise than the one before: field by field, for as long as the systems are connected. */
const { api } = useMonth()
const route = useRoute()
const router = useRouter()
const format = useFormat()
const query = (name: string): string => (typeof route.query[name] === 'string' ? route.query[name] : '')
const set = (to: Record<string, string | undefined>): void =>
  void router.replace({ query: { ...route.query, ...to } })
const wanted = computed(() =>
  new URLSearchParams(
    ['system', 'resource', 'kind', 'search']
      .map((name) => [name, query(name)])
      .filter(([, value]) => value !== '') as [string, string][],
  ).toString(),
)
const { view, pages, hasMore, refused, more } = usePages<ChangesView>(
  () => `${api.value}/changes?${wanted.value}`,
  'before',
)
const changes = computed(() => pages.value.flatMap((page) => page.changes))
const plain = (resource: string): string => resource.replaceAll('-', ' ')
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">What changed in the systems, and when did we see it?</p>
        <p v-if="view" class="verdict" data-verdict>
          <strong>{{ changes.length }}{{ hasMore ? ' newest' : '' }}</strong>
          {{ changes.length === 1 ? 'change' : 'changes' }} of their set-up<template v-if="wanted"
            >, as filtered</template
          >
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="filters">
        <select
          :value="query('system')"
          aria-label="In which system"
          @change="set({ system: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">every system</option>
          <option v-for="system in view?.systems" :key="system.id" :value="system.id">
            {{ system.name }}
          </option>
        </select>
        <select
          :value="query('resource')"
          aria-label="Of what"
          @change="set({ resource: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">all set-up</option>
          <option v-for="resource in view?.resources" :key="resource" :value="resource">
            {{ plain(resource) }}
          </option>
        </select>
        <select
          :value="query('kind')"
          aria-label="How"
          @change="set({ kind: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">changed or taken away</option>
          <option value="changed">changed</option>
          <option value="removed">taken away</option>
          <option value="added">new</option>
        </select>
        <input
          type="search"
          :value="query('search')"
          placeholder="Name or value"
          aria-label="Filter by name or value"
          @change="set({ search: ($event.target as HTMLInputElement).value || undefined })"
        />
      </div>
    </div>
    <RefusedNote :refused="refused" />
    <div v-if="view && changes.length === 0" class="empty">
      <strong>{{ wanted ? 'Nothing matches' : 'Nothing changed yet' }}</strong>{{
        wanted
          ? 'Take a filter back to see the rest.'
          : 'Every pull is compared with the one before; what differs is kept here.'
      }}
    </div>
    <div v-else class="scroll history" tabindex="0" role="region" aria-label="What changed">
      <table class="sheet">
        <thead>
          <tr>
            <th scope="col">Seen</th>
            <th scope="col">System</th>
            <th scope="col">Of</th>
            <th scope="col">What</th>
            <th scope="col">Before and after</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="change in changes" :key="change.id">
            <td class="soft">{{ format.instant(change.at) }}</td>
            <td>{{ change.system }}</td>
            <td class="soft">{{ plain(change.resource) }}</td>
            <td class="strong">{{ change.label }}</td>
            <td>
              <template v-if="change.kind === 'changed'"
                ><span v-for="field in change.fields" :key="field.field" class="field"
                  ><span class="soft">{{ fieldWords(field.field) }}</span> {{ field.from || 'empty' }} →
                  <b>{{ field.to || 'empty' }}</b></span
                ></template
              ><span v-else class="soft">{{ CHANGE_WORDS[change.kind] }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="hasMore" class="more">
      <button type="button" class="do" @click="more">Older changes</button>
    </p>
  </main>
</template>

<style scoped>
.field {
  margin-right: 18px;
}
.sheet td:last-child {
  white-space: normal;
  max-width: 640px;
  height: auto;
}
</style>
