<script setup lang="ts">
import type { CauseView, FullProofView, TieOutRow, TieOutView } from '@axion/contract'
import { sayCause } from '@axion/contract'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import Amount from '../figures/Amount.vue'
import { count, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import ProvedVerdict from '../figures/ProvedVerdict.vue'
import ListBar from '../grid/ListBar.vue'
import { useList } from '../grid/useList.ts'
import { useKeys } from '../shell/keyboard.ts'
import { asRefused, call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import KeepDialog from './KeepDialog.vue'
import KeptDialog from './KeptDialog.vue'
import MendDialog from './MendDialog.vue'
import type { Mending } from './mendWords.ts'
import TieOutDocuments from './TieOutDocuments.vue'
import WorkListDialog from './WorkListDialog.vue'

/** So many causes stand in full; more scroll, so that the documents keep their place. */
const FEW = 5
const route = useRoute()
const router = useRouter()
const runs = useRuns()
const { api, changes } = useMonth()
const format = useFormat()
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
const full = ref<FullProofView | null>(null)
const proving = ref(false)
async function proveInFull(): Promise<void> {
  proving.value = true
  try {
    full.value = await call<FullProofView>('POST', `${api.value}/full-proof`)
  } catch (error) {
    runs.refused.value = asRefused(error)
  } finally {
    proving.value = false
  }
}
const bar = ref<InstanceType<typeof ListBar> | null>(null)
const list = useList<TieOutRow, TieOutView>('/tie-out', ['cause', 'show', 'headline'])
const { view, refused, query, set } = list
const cause = computed(() => query('cause'))
const all = computed(() => query('show') === 'all')
/** Proved lines of documents that are not can be folded away. */
const folded = computed(() => query('fold') === 'yes')
const causes = computed(() => view.value?.causes ?? [])
const current = computed(() => causes.value.find((c) => c.key === cause.value) ?? null)
watch(changes, () => (full.value = null))
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
          :disabled="proving"
          title="Sums every fact anew, and compares with the quick proof"
          @click="proveInFull"
        >
          {{ proving ? 'Proving from detail' : 'Prove from detail' }}
        </button>
        <button class="do" type="button" @click="runs.start('/pulls', { systemIds: null })">
          Pull and prove again
        </button>
      </div>
    </div>
    <p v-if="refused" class="note bad" role="alert">{{ refused.says }} {{ refused.mend }}</p>
    <p v-if="full" class="note" :class="{ bad: full.disagreeing > 0 }" role="status" data-full-proof>
      <template v-if="full.disagreeing === 0"
        ><b>The full proof agrees.</b> {{ count(full.documents, 'document') }} summed anew from
        {{ count(full.facts, 'tax fact') }}: {{ full.astray }} astray, as above.</template
      >
      <template v-else
        ><b>The full proof does not agree on {{ count(full.disagreeing, 'document') }}:</b>
        {{ full.named.map((n) => n.number).join(', ') }}. Pull and prove again; if it stays, this is a fault
        of Axion’s, to be reported.</template
      >
    </p>

    <div
      v-if="causes.length > 0"
      class="scroll causes"
      :class="{ many: causes.length > FEW }"
      tabindex="0"
      role="region"
      aria-label="Causes"
    >
      <table class="sheet cards" aria-label="Causes">
        <tbody>
          <tr
            v-for="c in causes"
            :key="c.key"
            :class="{ chosen: c.key === cause }"
            :data-cause="c.key"
            @click="set({ cause: c.key === cause ? undefined : c.key })"
          >
            <td class="kind"><StateMark state="breaks" :word="c.headline" /></td>
            <td class="sentence" :title="sayCause(c.facts, format.longDay)">
              {{ sayCause(c.facts, format.longDay)
              }}<template v-if="c.others.length > 0">
                <span class="soft also"
                  >Or equally: {{ c.others.map((o) => sayCause(o, format.longDay)).join(' ') }}</span
                ></template
              >
            </td>
            <td class="n soft">{{ count(c.documents, 'document') }}</td>
            <td class="n money">
              <Amount :value="c.unproved" :of="{ of: 'unproved', cause: c.key }" breaks />
            </td>
            <td class="act">
              <button
                v-if="c.remedies.length > 0"
                class="do small"
                :class="{ first: c.key === (cause ?? causes[0]?.key) }"
                type="button"
                @click.stop="mend(c)"
              >
                Mend {{ c.documents }} <kbd v-if="c.key === (cause ?? causes[0]?.key)">m</kbd>
              </button>
              <RouterLink
                v-else-if="c.headline === 'missing'"
                class="do small"
                :to="{ name: 'post', params: route.params }"
                @click.stop
                >To Post</RouterLink
              >
              <button v-else class="do small" type="button" data-correct @click.stop="correcting = c">
                Correct {{ c.documents }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>

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
      <strong>{{ view.pulled ? 'Nothing here is unproved' : 'Nothing was pulled yet' }}</strong>{{
        view.pulled
          ? 'Look at all documents, or at the close sheet.'
          : 'Pull the systems, then their voices stand side by side here.'
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
.scroll.causes {
  margin-bottom: 10px;
  border-left: 3px solid var(--rust);
  flex: none;
  min-height: 0;
}
.causes.many {
  max-height: 192px;
}
.causes td {
  height: 34px;
}
.kind {
  width: 108px;
}
.sentence {
  max-width: 0;
  width: 100%;
  font-weight: 600;
}
.also {
  margin-left: 6px;
  font-weight: 400;
}
.money {
  font-size: 16px;
}
.act {
  width: 130px;
  text-align: right;
  max-width: none;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  margin-bottom: 6px;
}
</style>
