<script setup lang="ts">
import type { CloseView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRouter, useRoute } from 'vue-router'
import { useEvidence } from '../evidence/useEvidence.ts'
import FallingNumber from '../figures/FallingNumber.vue'
import { isNil, useFormat } from '../figures/format.ts'
import TakenOverNote from '../figures/TakenOverNote.vue'
import NotPostedNote from '../figures/NotPostedNote.vue'
import ProvedVerdict from '../figures/ProvedVerdict.vue'
import { useRows } from '../grid/useRows.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import { useView } from '../shell/useView.ts'
import CloseRows from './CloseRows.vue'
import ElsewhereNote from './ElsewhereNote.vue'
import { keyOf, of } from './rows.ts'
import RefusedNote from '../shell/RefusedNote.vue'

const { view, refused, loading } = useView<CloseView>(() => '/close')
const { entity, month, path } = useMonth()
const evidence = useEvidence()
const runs = useRuns()
const router = useRouter()
const route = useRoute()
const format = useFormat()
const cause = ref(-1)

const rows = computed(() => view.value?.rows ?? [])
const { chosen, choose } = useRows(
  () => rows.value,
  keyOf,
  (row) => {
    evidence.show(
      isNil(row.unproved) ? of(row, { of: 'tax', voice: 'expected' }) : of(row, { of: 'unproved' }),
    )
  },
)
function nextCause(): void {
  const causes = view.value?.causes ?? []
  if (causes.length === 0) return
  cause.value = (cause.value + 1) % causes.length
  const next = causes[cause.value]
  if (next)
    evidence.show({
      of: 'unproved',
      unit: next.unit,
      ...(next.agency === null ? {} : { agency: next.agency }),
    })
}
useKeys(() => [
  { key: 'n', does: 'next cause, largest money first', act: nextCause },
  {
    key: 'm',
    does: 'mend the cause, in Tie out',
    act: () =>
      void router.push({
        name: 'tie-out',
        params: route.params,
        query: { cause: view.value?.causes[Math.max(cause.value, 0)]?.key },
      }),
  },
])
/** Nobody can say that tax is proved before what was charged and what was booked have both been pulled. */
/** Nothing stands here that is older than what it rests on. */
const sure = computed(
  () => view.value?.notFresh.length === 0 && (path.value?.connect.limits.older ?? null) === null,
)
const known = computed(
  () => view.value !== null && view.value.pulledAt !== null && view.value.awaits.length === 0,
)
const nothing = computed(
  () =>
    view.value !== null &&
    view.value.documents === 0 &&
    [
      view.value.unproved,
      view.value.unprovedNet,
      view.value.totals.stated,
      view.value.totals.expected,
      view.value.totals.booked,
    ].every(isNil),
)
const hasMore = computed(
  () =>
    view.value !== null && view.value.notPosted.sold.documents + view.value.notPosted.bought.documents > 0,
)
const currency = computed(() => view.value?.currency ?? entity.value.currency)
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Does every document’s tax sit in the right liability account?</p>
        <p v-if="view && known && nothing && sure" class="verdict" data-verdict>
          <strong>{{ hasMore ? 'Nothing to prove of what is posted.' : 'Nothing to prove.' }}</strong>
          {{ hasMore ? 'Nothing of it' : 'No tax was' }} stated, expected or booked
          {{ hasMore ? 'tax ' : '' }}in {{ format.month(month) }}
        </p>
        <ElsewhereNote v-if="view && known && nothing && sure && !hasMore" />
        <NotPostedNote
          v-if="view && known && nothing && sure"
          :not-posted="view.notPosted"
          :currency="view.currency"
        />
        <ProvedVerdict v-if="view && known && !(nothing && sure)" :view="view" />
        <p v-else-if="view && !known" class="verdict">
          <strong>Not known yet.</strong>
          {{
            view.pulledAt === null
              ? `Nothing was pulled for ${format.month(month)}`
              : `${view.awaits.join(' and ')} ${view.awaits.length === 1 ? 'has' : 'have'} not been pulled`
          }}
        </p>
        <p v-else-if="!view" class="verdict">
          <strong>{{ loading ? 'Reading' : 'Not known' }}</strong>
        </p>
        <TakenOverNote v-if="view && known" />
      </div>
      <FallingNumber v-if="view" :history="view.history" />
    </div>
    <RefusedNote :refused="refused" />
    <div v-if="view && !known" class="empty">
      <strong>Pull the systems first</strong>
      <p>
        Then stated, expected and booked stand side by side here, one row an agency and liability account.
      </p>
      <p style="margin-top: 14px">
        <button class="do first" type="button" @click="runs.start('/pulls', { systemIds: null })">
          Pull all systems
        </button>
      </p>
    </div>
    <div v-else-if="view" class="wide">
      <CloseRows :view="view" :chosen="chosen" :currency="currency" @choose="choose" />
      <p v-if="view.causes.length > 0" class="keys soft below">
        <kbd>n</kbd> opens the next cause · <kbd>m</kbd> mends it · <kbd>j</kbd> <kbd>k</kbd> move ·
        <kbd>Enter</kbd> opens a row · <kbd>?</kbd> all keys
      </p>
    </div>
  </main>
</template>

<style scoped>
.below {
  margin-top: 8px;
  font-size: 13px;
}
@media (max-width: 760px) {
  .keys {
    display: none;
  }
}
kbd {
  border: 1px solid var(--hair);
  border-radius: 2px;
  padding: 0 4px;
  font: inherit;
}
</style>
