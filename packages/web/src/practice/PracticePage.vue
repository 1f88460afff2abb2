<script setup lang="ts">
import type { PracticeView } from '@axion/contract'
import { computed, onBeforeUnmount, onMounted } from 'vue'
import { useRoute } from 'vue-router'
import { count, isNil } from '../figures/format.ts'
import { listenForKeys } from '../shell/keyboard.ts'
import MonthMenu from '../shell/MonthMenu.vue'
import { useReading } from '../shell/reading.ts'
import { useSession } from '../shell/session.ts'
import { addAmounts } from '../figures/sums.ts'
import { isOpen, type EntityRow } from './nextStep.ts'
import AwayRow from './AwayRow.vue'
import ClosedEntities from './ClosedEntities.vue'
import { moneyOf } from './money.ts'
import PracticeBand from './PracticeBand.vue'
import PracticeRow from './PracticeRow.vue'
import RefusedNote from '../shell/RefusedNote.vue'

/** The practice board: legal entities down, stages across, and the money that waits in each cell. */
const session = useSession()
const route = useRoute()
const { view, refused } = useReading<PracticeView>(() =>
  typeof route.query['month'] === 'string'
    ? `/api/practice?month=${encodeURIComponent(route.query['month'])}`
    : '/api/practice',
)
document.title = 'practice · Axion'
let deafen = (): void => undefined
onMounted(() => (deafen = listenForKeys()))
onBeforeUnmount(() => deafen())
const toMonth = (month: string): object => ({ name: 'practice', query: { month } })

const localeOf = (id: string): string => session.entities.find((e) => e.id === id)?.locale ?? 'en-US'
const locale = computed(() => localeOf(view.value?.entities[0]?.id ?? ''))
const months = computed(
  () =>
    view.value?.months.map(({ month, nothing, open, proved, resting }) => ({
      month,
      state:
        open > 0
          ? ('open' as const)
          : proved > 0 && nothing === 0 && away.value.length === 0
            ? ('proved' as const)
            : ('nothing' as const),
      words:
        [
          [open, 'not proved'],
          [proved - resting, 'proved'],
          [resting, 'proved as systems have it'],
          [nothing + away.value.length, 'not known'],
        ]
          .filter(([n]) => n !== 0)
          .map(([n, word]) => `${n} ${word}`)
          .join(', ') || 'nothing',
    })) ?? null,
)
const monthName = (month: string): string =>
  new Intl.DateTimeFormat(locale.value, { month: 'long', timeZone: 'UTC' }).format(
    new Date(`${month}-01T00:00:00Z`),
  )
const rows = computed(() => view.value?.entities ?? [])
const open = computed(() => rows.value.filter(isOpen))
const taxed = computed(() => rows.value.filter((r) => !isNil(r.path.tieout.unproved)))
/** Kept or given back, as everywhere: neither proved nor open. */
const apart = computed(() => rows.value.reduce((sum, row) => sum + row.path.tieout.apart, 0))
/** Of kinds that are not posted so far: nobody says of them that they are proved. */
const notYet = computed(() => rows.value.reduce((sum, row) => sum + row.path.post.notYet, 0))
const stale = computed(() => rows.value.filter((r) => r.path.connect.stale > 0))
const older = computed(() => rows.value.filter((r) => r.path.connect.limits.older !== null))
/** Proved on the word of systems alone. */
const resting = computed(() =>
  rows.value.filter((row) => row.before.resting && !isOpen(row) && !unread.value.includes(row)),
)
/** Proved, as far as anybody could look. */
const known = computed(
  () => rows.value.filter((r) => ![unread, empty, stale, older].some((of) => of.value.includes(r))).length,
)
/** Of which nothing is known: the database that their books are in does not answer. */
const away = computed(() => view.value?.away ?? [])
const founds = computed(() => session.view?.person.runsPractice === true)
const all = computed(() => count(rows.value.length + away.value.length, 'legal entity', 'legal entities'))
/** Pulled, and nothing for the books is in the month. */
const empty = computed(() => rows.value.filter((r) => r.path.connect.empty))
const unread = computed(() => rows.value.filter((r) => !r.path.connect.pulled && !r.path.connect.empty))
/** One sum a currency: amounts in two are never added. */
const sums = computed(() =>
  [...new Set(taxed.value.map((r) => r.path.currency))].map((currency) => {
    const own = taxed.value.filter((r) => r.path.currency === currency)
    return `${moneyOf(localeOf((own[0] as EntityRow).id), addAmounts(own.map((r) => r.path.tieout.unproved)))} ${currency}`
  }),
)
</script>

<template>
  <div>
    <PracticeBand>
      <MonthMenu
        v-if="view"
        :month="view.month"
        :rows="months"
        :refused="null"
        :to="toMonth"
        :locale="locale"
      />
    </PracticeBand>
    <main class="page">
      <div class="head">
        <div>
          <p class="question">Where is tax not proved?</p>
          <p v-if="view" class="verdict" data-verdict>
            <template v-if="rows.length + away.length === 0"
              ><strong>Nowhere to look.</strong>
              {{
                view.closed.length > 0
                  ? 'Every legal entity that you belong to is closed'
                  : founds
                    ? 'There is no legal entity of yours yet: found the first'
                    : 'You belong to no legal entity yet; ask an administrator to add you'
              }}</template
            >
            <template v-else-if="open.length > 0"
              ><strong>{{ taxed.length > 0 ? sums.join(' and ') : 'No tax' }}</strong>
              {{ taxed.length > 0 ? 'not proved' : 'astray, and documents are not proved' }} in
              {{ open.length }} of {{ all }}</template
            >
            <template v-else-if="rows.length === 0"
              ><strong>Not known.</strong> The books of {{ all }} cannot be reached</template
            >
            <template v-else-if="unread.length === rows.length"
              ><strong>Not known yet.</strong> {{ unread.length }} of {{ all }} not pulled</template
            >
            <template v-else-if="empty.length === rows.length && away.length === 0"
              ><strong>Nothing to prove here.</strong> No document for the books of {{ all }} in this
              month</template
            >
            <template v-else-if="unread.length > 0 || stale.length > 0 || older.length > 0 || away.length > 0"
              ><strong>Not known of all.</strong> {{ known }} of {{ all }} proved</template
            >
            <template v-else-if="apart > 0"
              ><strong>Nowhere, but for what stands apart:</strong> {{ count(apart, 'document') }} in
              {{ all }}</template
            >
            <template v-else
              ><strong>Nowhere.</strong> All that {{ notYet > 0 ? 'is posted' : 'was pulled' }} is proved, in
              {{ all }}</template
            >
            <template v-if="notYet > 0 && unread.length < rows.length"
              >; {{ count(notYet, 'document') }} not posted yet</template
            >
            <template v-if="resting.length > 0"
              >; {{ resting.length }} as systems have it, read in no agency’s own text</template
            >
            <template v-if="unread.length > 0 && unread.length < rows.length"
              >; {{ unread.length }} not pulled</template
            >
            <template v-if="empty.length > 0 && empty.length < rows.length"
              >; {{ empty.length }} without documents</template
            >
            <template v-if="stale.length > 0"
              >; {{ stale.length }} with a system that could not be read</template
            >
            <template v-if="older.length > 0">; {{ older.length }} with a change still to be proved</template>
            <template v-if="away.length > 0 && rows.length > 0"
              >; {{ away.length }} whose books cannot be reached</template
            >
          </p>
          <p v-else class="verdict">
            <strong>{{ refused ? 'Not known' : 'Reading' }}</strong>
          </p>
        </div>
        <div v-if="founds" class="head-actions">
          <RouterLink class="do" :class="{ first: rows.length + away.length === 0 }" :to="{ name: 'found' }"
            >Found a legal entity</RouterLink
          >
        </div>
      </div>
      <RefusedNote :refused="refused" />
      <table v-if="rows.length + away.length > 0" class="sheet" aria-label="Legal entities">
        <thead>
          <tr>
            <th scope="col">Legal entity</th>
            <th scope="col" class="role">Your role</th>
            <th scope="col">{{ rows[0] ? monthName(rows[0].before.month) : '' }}</th>
            <th scope="col">Connect</th>
            <th scope="col" class="n">Align: at stake</th>
            <th scope="col" class="n">Post: waiting</th>
            <th scope="col" class="n">Tie out: not proved</th>
            <th scope="col" class="cur">Currency</th>
            <th scope="col">Next</th>
          </tr>
        </thead>
        <tbody>
          <PracticeRow v-for="row in rows" :key="row.id" :row="row" />
          <AwayRow v-for="one in away" :key="one.id" :away="one" />
        </tbody>
      </table>
      <ClosedEntities v-if="view && view.closed.length > 0" :closed="view.closed" :month="view.month" />
    </main>
  </div>
</template>

<style scoped>
@media (max-width: 1100px) {
  .role {
    display: none;
  }
}
@media (max-width: 760px) {
  main {
    overflow-x: auto;
  }
}
</style>
