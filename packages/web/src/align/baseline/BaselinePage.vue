<script setup lang="ts">
import type { AgreedKind, AgreedView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { count, fewOf, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import ListEnd from '../../grid/ListEnd.vue'
import { useNarrowing } from '../../grid/useNarrowing.ts'
import { useRows } from '../../grid/useRows.ts'
import { useKeys } from '../../shell/keyboard.ts'
import { useMonth } from '../../shell/month.ts'
import { usePages } from '../../shell/reading.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import AlignTabs from '../AlignTabs.vue'
import LatestChanges from '../LatestChanges.vue'
import CopiedLink from '../copied/CopiedLink.vue'
import DayCells from './DayCells.vue'
import type { Doing } from './draft.ts'
import ObjectForm from './ObjectForm.vue'
import ObjectVersions from './ObjectVersions.vue'
import PlacesMet from './PlacesMet.vue'
import { cellText, filledIn, isFigure, KIND_GROUPS, KIND_NAMES, STATE_MARKS } from './words.ts'

/** What is agreed, kind by kind: each object as it stands at the end of the month, opened into its versions, and made, changed from a day on, ended. */
const route = useRoute()
const router = useRouter()
const { api, entity, month } = useMonth()
const format = useFormat()
const kind = computed(() => {
  const asked = route.params['kind']
  return (typeof asked === 'string' && asked in KIND_NAMES ? asked : 'jurisdictions') as AgreedKind
})
const names = computed(() => KIND_NAMES[kind.value])
const here = computed(() => ({ entity: entity.value.id, month: month.value }))
const { query, set } = useNarrowing()
const narrowing = computed(() =>
  new URLSearchParams(
    ['search', 'state'].flatMap((name) => {
      const value = query(name)
      return value === undefined ? [] : [[name, value]]
    }),
  ).toString(),
)
const { view, pages, hasMore, reading, refused, more } = usePages<AgreedView>(
  () => `${api.value}/baseline/${kind.value}?${narrowing.value}`,
  'after',
)
const rows = computed(() => pages.value.flatMap((page) => page.rows))
const { chosen, choose } = useRows(
  () => rows.value,
  (row) => row.id,
  () => undefined,
)
/** A row that is opened by link may stand on no page that was read. */
const opened = computed(() => query('row') ?? null)
const shown = computed(() => filledIn(view.value?.fields ?? [], rows.value))
const may = computed(() => entity.value.role !== 'viewer')
const doing = ref<Doing | null>(null)
const search = ref<HTMLInputElement | null>(null)
const make = (): void => {
  if (may.value) doing.value = { act: 'make', id: null, version: null }
}
const goTo = (event: Event): void =>
  void router.push({
    name: 'baseline',
    params: { ...route.params, kind: (event.target as HTMLSelectElement).value },
  })
useKeys(() => [
  { key: '/', does: 'filter', act: () => search.value?.focus() },
  { key: 'c', does: `a new ${names.value[0]}`, act: make },
])
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">What is agreed, and since when?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="view.overlaps.length > 0"
            ><strong>Not clearly:</strong>
            {{ count(view.overlaps.length, kind === 'jurisdictions' ? 'place' : 'rate') }} twice, first
            {{ fewOf(view.overlaps[0]?.ids ?? [], 3) }} ({{ view.overlaps[0]?.what }})</template
          >
          <template v-else-if="(view.counts[kind] ?? 0) === 0"
            ><strong>Nothing:</strong> the baseline has no {{ names[1] }} yet</template
          >
          <template v-else
            ><strong>{{ count(view.standing.holds, names[0], names[1]) }}</strong>
            {{ view.standing.holds === 1 ? 'holds' : 'hold' }} at the end of {{ format.month(month)
            }}<template v-if="view.standing.coming > 0"
              >; {{ view.standing.coming }}
              {{ view.standing.coming === 1 ? 'begins' : 'begin' }} later</template
            ><template v-if="view.standing.ended > 0">; {{ view.standing.ended }} ended</template></template
          >
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <LatestChanges />
        <button v-if="may" class="do first" type="button" data-make @click="make">
          A new {{ names[0] }} <kbd>c</kbd>
        </button>
      </div>
    </div>
    <AlignTabs chosen="baseline" />
    <div class="bar">
      <select :value="kind" aria-label="Kind" data-kind @change="goTo">
        <optgroup v-for="group in KIND_GROUPS" :key="group.title" :label="group.title">
          <option v-for="each in group.kinds" :key="each" :value="each">
            {{ KIND_NAMES[each][1]
            }}{{ view ? ` (${(view.counts[each] ?? 0).toLocaleString('en-US')})` : '' }}
          </option>
        </optgroup>
      </select>
      <input
        ref="search"
        type="search"
        :value="query('search') ?? ''"
        placeholder="Any of its words"
        aria-label="Filter by any of its words"
        @change="set({ search: ($event.target as HTMLInputElement).value || undefined })"
      />
      <select
        v-if="view?.dated"
        :value="query('state') ?? ''"
        aria-label="Filter by state"
        @change="set({ state: ($event.target as HTMLSelectElement).value || undefined })"
      >
        <option value="">whenever it holds</option>
        <option v-for="({ word }, state) in STATE_MARKS" :key="state" :value="state">{{ word }}</option>
      </select>
      <span class="soft push"
        >many at once: <RouterLink :to="{ name: 'spreadsheets', params: here }">as a spreadsheet</RouterLink>;
        from <CopiedLink />; rules over lines:
        <RouterLink :to="{ name: 'rules', params: here }">in their order</RouterLink></span
      >
    </div>
    <RefusedNote :refused="refused" />
    <PlacesMet v-if="kind === 'jurisdictions'" />
    <div v-if="view && rows.length === 0" class="empty">
      <strong>Nothing here</strong>
      <template v-if="(view.counts[kind] ?? 0) === 0"
        >What systems hold makes a
        <RouterLink :to="{ name: 'decisions', params: here }">draft to decide upon</RouterLink>; what they
        cannot tell is entered here.</template
      >
      <template v-else>No {{ names[0] }} fits the filter.</template>
    </div>
    <div v-else-if="view" class="scroll rows" tabindex="0" role="region" :aria-label="view.title">
      <table class="sheet" :aria-label="view.title">
        <thead>
          <tr>
            <th v-for="field in shown" :key="field.path" scope="col" :class="{ n: isFigure(field) }">
              {{ field.title }}
            </th>
            <template v-if="view.dated"
              ><th scope="col">From</th>
              <th scope="col">Until</th>
              <th scope="col">At the end of the month</th></template
            >
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(row, at) in rows"
            :key="row.id"
            :class="{ chosen: at === chosen }"
            :data-object="row.id"
            @click="choose(at)"
          >
            <td
              v-for="(field, place) in shown"
              :key="field.path"
              :class="{ strong: place === 0, n: isFigure(field) }"
              :title="row.cells[field.path]"
            >
              {{ cellText(field, row.cells[field.path] ?? '') }}
            </td>
            <template v-if="view.dated"
              ><DayCells :version="row" />
              <td>
                <StateMark :state="STATE_MARKS[row.state].state" :word="STATE_MARKS[row.state].word" /><span
                  v-if="row.versions > 1"
                  class="soft"
                  >, one of {{ row.versions }} versions</span
                >
              </td></template
            >
          </tr>
        </tbody>
      </table>
      <ListEnd
        :shown="rows.length"
        :total="view.found"
        :one="names[0]"
        :reading="reading"
        :more="hasMore"
        @more="more"
      />
    </div>
    <ObjectVersions
      v-if="opened && view"
      :id="opened"
      :key="`${kind} ${opened}`"
      :kind="kind"
      :fields="view.fields"
      :dated="view.dated"
      @does="doing = $event"
    />
    <ObjectForm
      v-if="view && view.kind === kind"
      v-model="doing"
      :kind="kind"
      :fields="view.fields"
      :dated="view.dated"
      @kept="set({ row: $event })"
    />
  </main>
</template>

<style scoped src="../bar.css"></style>

<style scoped>
.bar input {
  width: 190px;
}
.rows {
  flex: 0 1 auto;
  min-height: 180px;
}
</style>
