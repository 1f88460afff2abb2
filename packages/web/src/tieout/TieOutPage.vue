<script setup lang="ts">
import type { CauseView, TieOutRow, TieOutSums, TieOutView } from '@axion/contract'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import ProvedVerdict from '../figures/ProvedVerdict.vue'
import ListBar from '../grid/ListBar.vue'
import { NARROWING, useList } from '../grid/useList.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useRuns } from '../shell/runs.ts'
import CauseRows from './CauseRows.vue'
import FullProofNote from './FullProofNote.vue'
import KeepDialog from './KeepDialog.vue'
import KeptDialog from './KeptDialog.vue'
import MendDialog from './MendDialog.vue'
import type { Mending } from './mendWords.ts'
import TieOutDocuments from './TieOutDocuments.vue'
import WorkListDialog from './WorkListDialog.vue'
import RefusedNote from '../shell/RefusedNote.vue'

const router = useRouter()
const runs = useRuns()
const mending = ref<Mending | null>(null)
const correcting = ref<CauseView | null>(null)
function mend(target: CauseView | undefined): void {
  if (target && target.remedies.length > 0)
    mending.value = { remedies: target.remedies, asks: target.asks, cause: target.key }
  else if (target && target.headline !== 'missing') correcting.value = target
}
const keeping = ref<CauseView | null>(null)
function keepInstead(target: CauseView): void {
  correcting.value = null
  keeping.value = target
}
/** What stands apart is looked at over the page. */
const apart = computed({
  get: () => query('apart') === 'yes',
  set: (open) => set({ apart: open ? 'yes' : undefined }),
})
const bar = ref<InstanceType<typeof ListBar> | null>(null)
const list = useList<TieOutRow, TieOutView, TieOutSums>('/tie-out', ['cause', 'show', 'headline'])
const { view, refused, query, set } = list
const cause = computed(() => query('cause'))
const all = computed(() => query('show') === 'all')
/** Whoever narrows a list to nothing is told nothing of what the rest of it is. */
const narrowed = computed(() => [...NARROWING, 'headline'].some((name) => query(name) !== undefined))
/** Proved lines of documents that are not can be folded away. */
const folded = computed(() => query('fold') === 'yes')
const causes = computed(() => view.value?.causes ?? [])
const current = computed(() => causes.value.find((c) => c.key === cause.value) ?? null)
watch(cause, async (key) => {
  await nextTick()
  if (key) document.querySelector('tr.chosen[data-cause]')?.scrollIntoView?.({ block: 'nearest' })
})
function openCause(target: CauseView | undefined): void {
  if (target)
    void router.replace({
      query: {
        cause: target.key,
        open: new URLSearchParams({ of: 'unproved', cause: target.key }).toString(),
      },
    })
}
/** What a list says that has nothing in it. */
const NONE: Readonly<Record<string, string>> = {
  'own-word': 'No document stands on its own source’s word',
  overridden: 'Nobody put another tax in the place of what a source charges',
}
useKeys(() => [
  {
    key: 'n',
    does: 'next cause, largest money first',
    act: () =>
      openCause(
        causes.value[
          (causes.value.findIndex((c) => c.key === cause.value) + 1) % Math.max(causes.value.length, 1)
        ],
      ),
  },
  {
    key: 'm',
    does: 'mend the chosen cause, with a preview',
    act: () => mend(current.value ?? causes.value[0]),
  },
  { key: '/', does: 'filter by number or party', act: () => bar.value?.focus() },
])
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">Do stated, expected and booked agree for every document?</p>
        <ProvedVerdict
          v-if="view && view.pulled && view.awaits.length === 0"
          :view="view"
          :proved="view.proved"
        />
        <p v-else-if="view" class="verdict">
          <strong>Not known yet.</strong>
          {{
            view.awaits.length === 0
              ? 'Nothing was pulled'
              : `${view.awaits.join(' and ')} ${view.awaits.length === 1 ? 'has' : 'have'} not been pulled`
          }}
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <button
          v-if="view?.pulled"
          class="do"
          type="button"
          title="Works every document out anew, sums every fact, and compares with what is kept"
          @click="runs.start('/full-proof')"
        >
          Prove from detail
        </button>
        <button class="do" type="button" @click="runs.start('/pulls', { systemIds: null })">
          Pull and prove again
        </button>
      </div>
    </div>
    <RefusedNote :refused="refused" />
    <FullProofNote />

    <CauseRows
      v-if="causes.length > 0"
      :causes="causes"
      :chosen="cause"
      @choose="set({ cause: $event })"
      @mend="mend"
      @correct="correcting = $event"
    />

    <div class="bar">
      <button
        type="button"
        class="plain"
        :class="{ chosen: !query('show') && !cause }"
        @click="set({ show: undefined, cause: undefined })"
      >
        Not proved
      </button>
      <button v-if="cause" type="button" class="plain chosen" @click="set({ cause: undefined })">
        This cause, all again
      </button>
      <button
        v-if="view && view.kept.kept + view.kept.cured > 0"
        type="button"
        class="plain"
        :class="{ chosen: query('show') === 'settled' }"
        @click="set({ show: 'settled', cause: undefined })"
      >
        Standing apart
      </button>
      <button
        v-if="view && view.notPosted.sold.documents + view.notPosted.bought.documents > 0"
        type="button"
        class="plain"
        :class="{ chosen: query('show') === 'not-posted' }"
        @click="set({ show: 'not-posted', cause: undefined })"
      >
        Not posted yet
      </button>
      <button
        v-if="view?.resting?.ownWord"
        type="button"
        class="plain"
        :class="{ chosen: query('show') === 'own-word' }"
        @click="set({ show: 'own-word', cause: undefined })"
      >
        On their own word
      </button>
      <button
        v-if="view?.overridden"
        type="button"
        class="plain"
        :class="{ chosen: query('show') === 'overridden' }"
        @click="set({ show: 'overridden', cause: undefined })"
      >
        Overridden
      </button>
      <button
        type="button"
        class="plain"
        :class="{ chosen: all }"
        @click="set({ show: 'all', cause: undefined })"
      >
        All documents
      </button>
      <label class="soft"
        ><input
          type="checkbox"
          :checked="folded"
          data-fold
          @change="set({ fold: folded ? undefined : 'yes' })"
        />
        only lines that differ</label
      >
      <ListBar
        v-if="view"
        ref="bar"
        :list="list"
        :choices="view.choices"
        amount="not proved"
        out="/tie-out/list"
      />
    </div>
    <div v-if="view && list.rows.value.length === 0" class="empty">
      <strong>{{
        !view.pulled
          ? 'Nothing was pulled yet'
          : narrowed
            ? 'Nothing matches'
            : (NONE[query('show') ?? ''] ?? 'Nothing here is unproved')
      }}</strong>{{
        !view.pulled
          ? 'Pull the systems, then their voices stand side by side here.'
          : narrowed
            ? 'Take the filter back to see the rest.'
            : 'Look at all documents, or at the close sheet.'
      }}
    </div>
    <TieOutDocuments v-else-if="view" :list="list" />
    <MendDialog v-model="mending" />
    <WorkListDialog v-model="correcting" @keep="keepInstead" />
    <KeepDialog v-model="keeping" />
    <KeptDialog v-model="apart" />
  </main>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  margin-bottom: 6px;
}
</style>
