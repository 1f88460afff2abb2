<script setup lang="ts">
import type { PracticeView } from '@axion/contract'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { count, isNil } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { asRefused, call, type Refused } from '../shell/api.ts'
import PersonMenu from '../shell/PersonMenu.vue'
import { useSession } from '../shell/session.ts'
import { addAmounts } from '../figures/sums.ts'

/** The practice board: legal entities down, stages across, and the money that waits in each cell. */
const session = useSession()
const router = useRouter()
const view = ref<PracticeView | null>(null)
const refused = ref<Refused | null>(null)
onMounted(async () => {
  document.title = 'practice · Axion'
  try {
    view.value = await call<PracticeView>('GET', '/api/practice')
  } catch (error) {
    refused.value = asRefused(error)
  }
})

type Row = PracticeView['entities'][number]
const localeOf = (id: string): string => session.entities.find((e) => e.id === id)?.locale ?? 'en-US'
const money = (row: Row, text: string): string =>
  new Intl.NumberFormat(localeOf(row.id), { minimumFractionDigits: text.split('.')[1]?.length ?? 0 })
    .format(text as Intl.StringNumericLiteral)
    .replace('-', '−')
const monthName = computed(() =>
  view.value
    ? new Intl.DateTimeFormat(localeOf(view.value.entities[0]?.id ?? ''), {
        month: 'long',
        year: 'numeric',
        timeZone: 'UTC',
      }).format(new Date(`${view.value.month}-01T00:00:00Z`))
    : '',
)
const rows = computed(() => view.value?.entities ?? [])
const open = computed(() => rows.value.filter((r) => !isNil(r.path.tieout.unproved)))
const unread = computed(() => rows.value.filter((r) => !r.path.connect.pulled))
/** One sum a currency: amounts in two are never added. */
const sums = computed(() =>
  [...new Set(open.value.map((r) => r.path.currency))].map((currency) => {
    const own = open.value.filter((r) => r.path.currency === currency)
    return `${money(own[0] as Row, addAmounts(own.map((r) => r.path.tieout.unproved)))} ${currency}`
  }),
)
const go = (row: Row, name: string, params: Record<string, string> = {}): void =>
  void router.push({ name, params: { entity: row.id, month: row.month, ...params } })
const to = (row: Row, name: string, params: Record<string, string> = {}): object => ({
  name,
  params: { entity: row.id, month: row.month, ...params },
})
/** What to do next for an entity: the first stage, in the order of the work, where something is open. */
function next(row: Row): {
  readonly word: string
  readonly stage: string
  readonly params?: Record<string, string>
} {
  const { connect, align, post, tieout } = row.path
  if (!connect.pulled) return { word: 'Pull the systems', stage: 'connect' }
  if (connect.failing > 0) return { word: `Mend ${count(connect.failing, 'check')}`, stage: 'connect' }
  if (post.failed > 0) return { word: `See ${post.failed} failed`, stage: 'post' }
  if (align.findings > 0 && post.waiting > 0)
    return { word: `Look at ${count(align.findings, 'finding')}`, stage: 'align', params: { kind: 'rates' } }
  if (post.waiting > 0) return { word: `Post ${count(post.waiting, 'document')}`, stage: 'post' }
  if (!isNil(tieout.unproved) || tieout.documents > 0)
    return { word: `Mend ${count(row.causes, 'cause')}`, stage: 'tie-out' }
  return { word: 'Proved', stage: 'close' }
}
</script>

<template>
  <div>
    <header class="band">
      <p><strong>Axion</strong><span>Practice</span></p>
      <div class="person"><PersonMenu /></div>
    </header>
    <main class="page">
      <div class="head">
        <div>
          <p class="question">Where is tax not proved, in {{ monthName || 'the month' }}?</p>
          <p v-if="view" class="verdict" data-verdict>
            <template v-if="rows.length === 0"
              ><strong>Nowhere to look.</strong> You belong to no legal entity yet; ask an administrator to
              add you</template
            >
            <template v-else-if="open.length > 0"
              ><strong>{{ sums.join(' and ') }}</strong> not proved in {{ open.length }} of
              {{ count(rows.length, 'legal entity', 'legal entities')
              }}<template v-if="unread.length > 0">; {{ unread.length }} not pulled</template></template
            >
            <template v-else-if="unread.length > 0"
              ><strong>Not known yet.</strong> {{ unread.length }} of
              {{ count(rows.length, 'legal entity', 'legal entities') }} not pulled</template
            >
            <template v-else><strong>Nowhere.</strong> All that was pulled is proved</template>
          </p>
          <p v-else class="verdict">
            <strong>{{ refused ? 'Not known' : 'Reading' }}</strong>
          </p>
        </div>
      </div>
      <p v-if="refused" class="note bad" role="alert">{{ refused.says }} {{ refused.mend }}</p>
      <table v-if="rows.length > 0" class="sheet" aria-label="Legal entities">
        <thead>
          <tr>
            <th scope="col">Legal entity</th>
            <th scope="col">Your role</th>
            <th scope="col">Connect</th>
            <th scope="col" class="n">Align: at stake</th>
            <th scope="col" class="n">Post: waiting</th>
            <th scope="col" class="n">Tie out: not proved</th>
            <th scope="col" class="cur">Currency</th>
            <th scope="col">Next</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id" :data-entity="row.id" @click="go(row, 'close')">
            <td class="strong">
              <RouterLink :to="to(row, 'close')" @click.stop>{{ row.name }}</RouterLink>
            </td>
            <td class="soft">{{ row.role }}</td>
            <td>
              <StateMark
                :state="!row.path.connect.pulled ? 'open' : row.path.connect.failing > 0 ? 'breaks' : 'holds'"
                :word="
                  !row.path.connect.pulled
                    ? 'not pulled'
                    : row.path.connect.failing > 0
                      ? count(row.path.connect.failing, 'check stops posting', 'checks stop posting')
                      : `${row.path.connect.ready} of ${row.path.connect.systems} ready`
                "
              />
            </td>
            <td class="n">
              <RouterLink
                v-if="!isNil(row.path.align.stake)"
                :to="to(row, 'align', { kind: 'rates' })"
                @click.stop
                >{{ money(row, row.path.align.stake) }}</RouterLink><span v-else class="nil">–</span>
            </td>
            <td class="n">
              <RouterLink v-if="!isNil(row.path.post.tax)" :to="to(row, 'post')" @click.stop>{{
                money(row, row.path.post.tax)
              }}</RouterLink><span v-else class="nil">–</span>
            </td>
            <td class="n">
              <RouterLink
                v-if="!isNil(row.path.tieout.unproved)"
                class="breaks"
                :to="to(row, 'tie-out')"
                @click.stop
                >{{ money(row, row.path.tieout.unproved) }}</RouterLink><span v-else class="nil">{{
                row.path.connect.pulled ? '–' : 'not pulled'
              }}</span>
            </td>
            <td class="cur soft">{{ row.path.currency }}</td>
            <td>
              <RouterLink class="do small" :to="to(row, next(row).stage, next(row).params)" @click.stop>{{
                next(row).word
              }}</RouterLink>
            </td>
          </tr>
        </tbody>
      </table>
    </main>
  </div>
</template>

<style scoped>
.band {
  display: flex;
  align-items: center;
  justify-content: space-between;
  background: var(--band);
  color: var(--band-ink);
  min-height: 58px;
  padding: 0 20px;
}
.band p {
  display: flex;
  flex-direction: column;
}
.band strong {
  font-weight: 600;
}
.band span,
.person {
  color: var(--band-soft);
  font-size: 13.5px;
}
.person :deep(> button) {
  background: none;
  border: 0;
  cursor: pointer;
}
.sheet td {
  height: 44px;
}
.sheet tbody tr {
  cursor: pointer;
}
.sheet tbody tr:hover td {
  background: var(--plum-wash);
}
.strong {
  font-weight: 600;
  font-size: 16px;
}
.breaks {
  font-weight: 700;
}
.nil {
  color: var(--faint);
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
@media (max-width: 760px) {
  main {
    overflow-x: auto;
  }
}
</style>
