<script setup lang="ts">
import type { PostRow, PostState, PostSums, PostView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useEvidence } from '../evidence/useEvidence.ts'
import { count } from '../figures/format.ts'
import NotPostedNote from '../figures/NotPostedNote.vue'
import YesVerdict from '../figures/YesVerdict.vue'
import ListBar from '../grid/ListBar.vue'
import ListEnd from '../grid/ListEnd.vue'
import SortHead from '../grid/SortHead.vue'
import { useList } from '../grid/useList.ts'
import { useRows } from '../grid/useRows.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useRuns } from '../shell/runs.ts'
import BlockedNote from './BlockedNote.vue'
import RestoredNote from './RestoredNote.vue'
import ConfirmPost from './ConfirmPost.vue'
import PostActions from './PostActions.vue'
import PostDetail from './PostDetail.vue'
import PostReasons from './PostReasons.vue'
import PostRows from './PostRows.vue'
import PostStates from './PostStates.vue'
import WithdrawDialog from './WithdrawDialog.vue'
import { WORD } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

const runs = useRuns()
const evidence = useEvidence()
const bar = ref<InstanceType<typeof ListBar> | null>(null)
const confirming = ref<object | null>(null)
/** All that the filter finds is selected, rather than rows one by one. */
const everything = ref(false)
const picked = ref<ReadonlySet<string>>(new Set())
const list = useList<PostRow, PostView, PostSums>('/post', ['state', 'warned'])
const { view, sums, refused, rows, query, set } = list
const { chosen, row, choose } = useRows(
  () => rows.value,
  (r) => r.unit,
  (r) => evidence.show({ of: 'total', unit: r.unit }),
)

/** What cannot go on by itself. */
const BAD = ['failed', 'in-doubt', 'blocked'] as const satisfies readonly PostState[]
const n = (...states: PostState[]): number => states.reduce((sum, s) => sum + (view.value?.counts[s] ?? 0), 0)
const total = computed(() => Object.values(view.value?.counts ?? {}).reduce((sum, c) => sum + c, 0))
/** What there is to post: drafts wait at their source, and scopes leave documents out. */
const leftOut = computed(() => n('out-of-range', 'kind-off'))
const taken = computed(() => total.value - n('draft', 'void') - leftOut.value)
const composable = computed(() => n('not-composed', 'blocked'))
const ready = computed(() => n('rehearsed', 'changed'))
const bad = computed(() => n(...BAD))
const done = computed(() => n('sent', 'booked'))
const sendable = (r: PostRow): boolean =>
  ['rehearsed', 'failed', 'changed', 'withdrawn', 'voided-there'].includes(r.state)
const takenBack = (r: PostRow): boolean => ['booked', 'sent', 'void-at-source'].includes(r.state)
const selectable = (r: PostRow): boolean => sendable(r) || takenBack(r)
function pick(target: PostRow | null): void {
  everything.value = false
  if (!target || !selectable(target)) return
  const next = new Set(picked.value)
  if (!next.delete(target.unit)) next.add(target.unit)
  picked.value = next
}
const pickedRows = computed(() => rows.value.filter((r) => picked.value.has(r.unit)))
const toPost = computed(() => pickedRows.value.filter(sendable))
const toWithdraw = computed(() => pickedRows.value.filter(takenBack))
const withdrawing = ref<readonly string[] | null>(null)
watch([() => runs.current.value?.id, list.filter], () => {
  picked.value = new Set()
  everything.value = false
})
function pickAll(): void {
  everything.value = !everything.value
  picked.value = new Set(everything.value ? rows.value.filter(selectable).map((r) => r.unit) : [])
}
const ask = (body: object): void => void (confirming.value = body)
async function post(how: { onlyRight: boolean; revision: string }): Promise<void> {
  const asked = confirming.value
  confirming.value = null
  if (asked && (await runs.start('/post/runs', { ...asked, ...how }))) picked.value = new Set()
}
useKeys(() => [
  { key: 'x', does: 'select the document', act: () => pick(row.value) },
  { key: '/', does: 'filter by number or party', act: () => bar.value?.focus() },
])
const order = (name: string): { name: string; sort: string | undefined; down: string | undefined } => ({
  name,
  sort: query('sort'),
  down: query('down'),
})
</script>

<template>
  <main class="page fit">
    <div class="head">
      <div>
        <p class="question">Is every document in the ledger?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="total === 0"><strong>Not known yet.</strong> Pull the systems in Connect</template>
          <template v-else-if="bad > 0"
            ><strong
              >No:
              {{
                BAD.filter((state) => n(state) > 0)
                  .map((state) => `${n(state)} ${WORD[state]}`)
                  .join(', ')
              }}.</strong
            >
            {{ done }} of {{ count(taken, 'document') }} sent</template
          >
          <template v-else-if="done < taken"
            ><strong>Not yet:</strong> {{ done }} of {{ count(taken, 'document') }} sent<template
              v-if="composable > 0"
              >, {{ composable }} not rehearsed</template
            ></template
          >
          <template v-else-if="n('sent') > 0"
            ><strong>Sent.</strong> {{ n('sent') }} are booked once a pull shows them in the ledger’s
            journal</template
          >
          <YesVerdict v-else>The ledger’s journal shows all {{ count(taken, 'document') }}</YesVerdict>
          <template v-if="n('draft') > 0">; {{ count(n('draft'), 'draft') }} not taken</template>
          <template v-if="leftOut > 0">; {{ leftOut }} left out by scope</template>
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
        <NotPostedNote v-if="view" :not-posted="view.notPosted" :currency="view.currency" />
      </div>
      <PostActions
        v-if="view"
        :counts="n"
        :composable="composable"
        :ready="ready"
        :picked="{ some: picked.size > 0, everything, toPost, toWithdraw }"
        :filter="list.filter.value"
        @ask="ask"
        @withdraw="withdrawing = $event"
      />
    </div>
    <RefusedNote :refused="refused" />
    <RestoredNote v-if="view?.restored" :restored="view.restored" :ledger="view.ledger" />
    <BlockedNote v-if="view && view.blocking.length > 0" :view="view" />
    <PostReasons
      v-if="view && view.reasons.length > 0"
      :view="view"
      @show="set({ state: $event, warned: undefined })"
    />
    <div class="bar">
      <PostStates
        :view="view"
        :total="total"
        :state="query('state')"
        :warned="query('warned') !== undefined"
        @show="set"
      />
      <ListBar v-if="view" ref="bar" :list="list" :choices="view.choices" amount="total" out="/post/list" />
    </div>
    <div v-if="view && rows.length === 0" class="empty">
      <strong>{{ total === 0 ? 'No document was pulled yet' : 'Nothing matches' }}</strong>{{
        total === 0 ? 'Pull the billing system in Connect.' : 'Take the filter back to see the rest.'
      }}
    </div>
    <div v-else-if="view" class="scroll" tabindex="0" role="region" aria-label="Documents">
      <table class="sheet documents" aria-label="Documents to post">
        <thead>
          <tr>
            <th scope="col">
              <input
                type="checkbox"
                :checked="everything"
                :disabled="!rows.some(selectable)"
                :aria-label="
                  sums ? `Select all ${sums.documents} that are found` : 'Select all that are found'
                "
                data-all
                @change="pickAll"
              />
            </th>
            <SortHead v-bind="order('number')" @sort="list.sortBy">Document</SortHead>
            <SortHead v-bind="order('date')" @sort="list.sortBy">Date</SortHead>
            <SortHead v-bind="order('party')" @sort="list.sortBy">Party</SortHead>
            <SortHead v-bind="order('tax')" n @sort="list.sortBy">Tax, {{ view.currency }}</SortHead>
            <SortHead v-bind="order('total')" n @sort="list.sortBy">Total</SortHead>
            <SortHead v-bind="order('state')" @sort="list.sortBy">State</SortHead>
            <th scope="col">What to know</th>
          </tr>
        </thead>
        <PostRows
          :rows="rows"
          :chosen="chosen"
          :picked="picked"
          :selectable="selectable"
          @choose="choose"
          @pick="pick"
        />
      </table>
      <ListEnd
        :shown="rows.length"
        :total="sums?.documents ?? null"
        :more="list.hasMore.value"
        one="document"
        :reading="list.reading.value"
        @more="list.more"
      />
    </div>
    <PostDetail v-if="row && (row.reason || row.remarks.length > 0)" :row="row" />
    <WithdrawDialog v-model="withdrawing" />
    <ConfirmPost :body="confirming" @cancel="confirming = null" @post="post" />
  </main>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 8px 18px;
  align-items: center;
  margin-bottom: 6px;
  flex-wrap: wrap;
  font-size: 14px;
}
.scroll {
  flex: 1;
  min-height: 180px;
}
@media (max-width: 760px) {
  .documents thead {
    display: block;
  }
  .documents thead th:not(:first-child) {
    display: none;
  }
  .documents thead th:first-child::after {
    content: 'all that are found';
    font-weight: 400;
    padding-left: 8px;
  }
}
</style>
