<script setup lang="ts">
import type { AgreedPreview, CopyChoice, CopySources, CopyStanding, CopyView } from '@axion/contract'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { count, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import { useNarrowing } from '../../grid/useNarrowing.ts'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import AlignTabs from '../AlignTabs.vue'
import EffectNote from '../baseline/EffectNote.vue'
import { KIND_NAMES } from '../baseline/words.ts'
import LatestChanges from '../LatestChanges.vue'
import CopyVerdict from './CopyVerdict.vue'
import { COPY_MARKS, sidesIn } from './words.ts'

/** What agencies say and how codes are named, taken from another legal entity of the practice, and followed there or not. */
const route = useRoute()
const { api, entity, month, changed } = useMonth()
const format = useFormat()
const { query, set } = useNarrowing()
const { busy, refused: failed, attempt } = useAttempt()
const { view: all, refused: unread } = useView<CopySources>(() => '/copied')
const sources = computed(() => all.value?.sources ?? [])
/** The one that is asked for; else the one that is followed, or the first. */
const from = computed(
  () =>
    sources.value.find(({ id }) => id === query('from')) ??
    sources.value.find(({ taken }) => taken?.follows) ??
    sources.value.find(({ taken }) => taken !== null) ??
    sources.value[0],
)
const path = computed(() => (from.value ? `/copied/${encodeURIComponent(from.value.id)}` : null))
const { view, refused: notRead } = useView<CopyView>(() => path.value)
const may = computed(() => entity.value.role !== 'viewer')
const standing = computed(() => query('standing') as CopyStanding | undefined)
const rows = computed(() =>
  (view.value?.rows ?? []).filter((row) => standing.value === undefined || row.standing === standing.value),
)
const present = computed(() =>
  (Object.keys(COPY_MARKS) as CopyStanding[]).filter((each) => (view.value?.counts[each] ?? 0) > 0),
)
const chosen = shallowRef<ReadonlySet<string>>(new Set())
watch([path, standing], () => (chosen.value = new Set()))
function toggle(key: string): void {
  const next = new Set(chosen.value)
  if (!next.delete(key)) next.add(key)
  chosen.value = next
}
/** What is taken where no object is chosen: whatever nobody has to weigh. */
const plain = computed(() => {
  const wanted: readonly CopyStanding[] =
    standing.value === undefined ? ['new', 'changed', 'gone'] : [standing.value]
  return wanted.filter((each) => (view.value?.counts[each] ?? 0) > 0)
})
const choice = computed<CopyChoice>(() =>
  chosen.value.size > 0 ? { keys: [...chosen.value] } : { standings: [...plain.value] },
)
const size = computed(() =>
  chosen.value.size > 0
    ? chosen.value.size
    : plain.value.reduce((sum, each) => sum + (view.value?.counts[each] ?? 0), 0),
)
const follows = ref(true)
const looked = ref<AgreedPreview | null>(null)
const isOpen = computed({
  get: () => looked.value !== null,
  set: (open) => {
    if (!open) looked.value = null
  },
})
const address = computed(() => `${api.value}${path.value ?? ''}`)
const look = (): Promise<void> =>
  attempt(async () => {
    follows.value = view.value?.taken?.follows ?? true
    looked.value = await call<AgreedPreview>('POST', `${address.value}/preview`, { choice: choice.value })
  })
const afterwards = async (): Promise<void> => {
  looked.value = null
  chosen.value = new Set()
  await changed()
}
const take = (): Promise<void> =>
  attempt(async () => {
    await call('POST', address.value, {
      choice: choice.value,
      follows: follows.value,
      revision: looked.value?.revision ?? '',
    })
    await afterwards()
  })
const leave = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${address.value}/left`, { keys: [...chosen.value] })
    await afterwards()
  })
const follow = (event: Event): Promise<void> =>
  attempt(async () => {
    await call('PUT', address.value, { follows: (event.target as HTMLInputElement).checked })
    await changed()
  })
const sidesOf = (row: CopyView['rows'][number]) => sidesIn(row, format.value.longDay)
const here = computed(() => ({ entity: route.params['entity'], month: month.value }))
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">Is what agencies say agreed here as in another legal entity’s books?</p>
        <p v-if="all && !from" class="verdict" data-verdict>
          <strong>Nobody to ask.</strong> You are a member of no other legal entity
        </p>
        <CopyVerdict v-else-if="view" :view="view" />
        <p v-else class="verdict"><strong>Reading</strong></p>
        <p v-if="view?.taken" class="soft" data-taken>
          Taken {{ format.instant(view.taken.at) }} by {{ view.taken.person }};
          {{
            view.taken.follows ? 'what changes there is told here' : 'what changes there is not told here'
          }}.
        </p>
        <p v-if="all && all.unseen > 0" class="soft" data-unseen>
          {{ count(all.unseen, 'legal entity', 'legal entities') }} that you are no member of
          {{ all.unseen === 1 ? 'is' : 'are' }} followed, too.
        </p>
      </div>
      <div class="head-actions">
        <LatestChanges />
        <button
          v-if="may && size > 0"
          class="do first"
          type="button"
          :disabled="busy"
          data-look
          @click="look"
        >
          See what {{ count(size, 'object') }} would do
        </button>
      </div>
    </div>
    <AlignTabs chosen="baseline" />
    <RefusedNote :refused="looked ? null : (failed ?? notRead ?? unread)" />
    <div v-if="from" class="bar">
      <label
        >from
        <select
          :value="from.id"
          aria-label="Another legal entity"
          data-from
          @change="set({ from: ($event.target as HTMLSelectElement).value, standing: undefined })"
        >
          <option v-for="one in sources" :key="one.id" :value="one.id">
            {{ one.name
            }}{{ one.waiting ? ` (${one.waiting} to look at)` : one.away ? ' (not known just now)' : '' }}
          </option>
        </select></label
      >
      <select
        :value="standing ?? ''"
        aria-label="Filter by how they stand"
        @change="set({ standing: ($event.target as HTMLSelectElement).value || undefined })"
      >
        <option value="">however they stand</option>
        <option v-for="each in present" :key="each" :value="each">
          {{ COPY_MARKS[each].word }} ({{ view?.counts[each].toLocaleString('en-US') }})
        </option>
      </select>
      <label v-if="view?.taken && may"
        ><input type="checkbox" :checked="view.taken.follows" :disabled="busy" @change="follow" /> tell here
        what changes there</label
      >
      <button
        v-if="may && view?.taken && chosen.size > 0"
        class="plain"
        type="button"
        :disabled="busy"
        data-leave
        @click="leave"
      >
        leave {{ count(chosen.size, 'object') }} as here
      </button>
      <span class="soft push"
        >one by one: <RouterLink :to="{ name: 'baseline', params: here }">the baseline</RouterLink></span
      >
    </div>
    <div v-if="view && rows.length === 0" class="empty">
      <strong>Nothing apart</strong>
      What {{ view.from.name }} holds of agencies, places, rates and codes is here as it is there.
    </div>
    <div v-else-if="view" class="scroll rows" tabindex="0" role="region" aria-label="What is not the same">
      <table class="sheet" aria-label="What is not the same">
        <thead>
          <tr>
            <th v-if="may" scope="col" aria-label="Chosen" />
            <th scope="col">Kind</th>
            <th scope="col">Object</th>
            <th scope="col">Stands</th>
            <th scope="col">Here</th>
            <th scope="col">In {{ view.from.name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.key" :data-object="row.key" :data-standing="row.standing">
            <td v-if="may">
              <input
                type="checkbox"
                :checked="chosen.has(row.key)"
                :aria-label="`Choose ${row.name || row.id}`"
                @change="toggle(row.key)"
              />
            </td>
            <td class="soft">{{ KIND_NAMES[row.kind][0] }}</td>
            <td class="strong" :title="row.id">{{ row.name || row.id }}</td>
            <td>
              <StateMark :state="COPY_MARKS[row.standing].state" :word="COPY_MARKS[row.standing].word" />
            </td>
            <td v-for="(says, side) in sidesOf(row)" :key="side" class="says" :title="says">
              {{ says }}
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="view.more > 0" class="soft">
        {{ view.more.toLocaleString('en-US') }} more are not listed; they are taken with the others.
      </p>
    </div>
    <v-dialog v-model="isOpen" max-width="820" aria-label="What it would do">
      <form v-if="looked && view" class="dialog" data-copy-form @submit.prevent="take">
        <h2>Take {{ count(size, 'object') }} of {{ view.from.name }}</h2>
        <RefusedNote :refused="failed" />
        <EffectNote :preview="looked" />
        <label class="follow"
          ><input v-model="follows" type="checkbox" /> tell here what changes there from now on: nothing of it
          is taken by itself</label
        >
        <p class="soft">
          What was read in no agency’s own text there, is read in none here. All of it is taken back in one.
        </p>
        <div class="actions">
          <button class="do first" type="submit" :disabled="busy" data-take>Take them</button>
          <button class="do" type="button" @click="looked = null">Not now</button>
        </div>
      </form>
    </v-dialog>
  </main>
</template>

<style scoped src="../bar.css"></style>

<style scoped>
.rows {
  flex: 0 1 auto;
}
.says {
  white-space: normal;
  max-width: 330px;
}
.follow {
  display: block;
  margin: 12px 0 8px;
}
</style>
