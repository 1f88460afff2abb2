<script setup lang="ts">
import type { OpeningView } from '@axion/contract'
import { dayBefore } from '@axion/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { count, isNil, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useView } from '../../shell/useView.ts'
import AlignTabs from '../AlignTabs.vue'
import OpeningDayForm from './OpeningDayForm.vue'
import OpeningListForm from './OpeningListForm.vue'
import { isDue, openInAll, STANDINGS } from './words.ts'

/** From when on the books stand here, and whether what each account stood at then has a list behind it. */
const { entity } = useMonth()
const route = useRoute()
const format = useFormat()
const { view, refused, loading } = useView<OpeningView>(() => '/opening')
const editing = ref<string | null>(null)
const may = computed(() => entity.value.role !== 'viewer')
const evening = computed(() => (view.value?.day ? dayBefore(view.value.day) : null))
const due = computed(() => (view.value?.accounts ?? []).filter(isDue))
/** What is to be done comes first, then what was done, then what needs nothing. */
const ORDER = ['breaks', 'holds', 'asks', 'open']
const accounts = computed(() =>
  [...(view.value?.accounts ?? [])].sort(
    (a, b) =>
      ORDER.indexOf(STANDINGS[a.standing].mark) - ORDER.indexOf(STANDINGS[b.standing].mark) ||
      Number(a.standing === 'nil') - Number(b.standing === 'nil') ||
      (a.account < b.account ? -1 : 1),
  ),
)
const word = computed(() => (view.value?.accounts ?? []).filter(({ standing }) => standing === 'aside'))
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Does what the books opened with have a list behind it?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="view.day === null"
            ><strong>Not said.</strong> From which month on do the books stand here? Until then all documents
            are for the books</template
          >
          <template v-else-if="view.ledger === null"
            ><strong>Not known.</strong> No ledger is connected:
            <RouterLink :to="{ name: 'connect', params: route.params }">connect one</RouterLink></template
          >
          <template v-else-if="view.trial === null"
            ><strong>Not known.</strong> {{ view.ledger }} was not asked yet what it held on the evening of
            {{ format.longDay(evening ?? '') }}:
            <RouterLink :to="{ name: 'connect', params: route.params }">pull it</RouterLink></template
          >
          <template v-else-if="!isNil(view.trial.sum)"
            ><strong>No.</strong> The trial balance of {{ view.ledger }} does not come to nil:
            {{ format.amount(view.trial.sum) }} {{ view.currency }} on
            {{ count(view.trial.accounts, 'account') }}. Look there first</template
          >
          <template v-else-if="due.length > 0"
            ><strong>No.</strong> {{ count(due.length, 'account') }} of {{ view.accounts.length }}:
            {{ format.amount(openInAll(view.accounts, view.currency)) }} {{ view.currency }} without a list
            that makes it up</template
          >
          <template v-else
            ><strong>Yes.</strong> {{ count(view.accounts.length, 'account') }} as {{ view.ledger }} had them
            on the evening of {{ format.longDay(evening ?? '')
            }}<template v-if="word.length > 0"
              >; {{ count(word.length, 'of them has', 'of them have') }} none, by somebody’s word</template
            ></template
          >
        </p>
        <p v-else-if="!refused" class="verdict"><strong>Reading</strong></p>
        <p v-if="view?.day && view.before.documents > 0" class="beside" data-before>
          {{ count(view.before.documents, 'document') }} from before
          {{ view.before.documents === 1 ? 'is' : 'are' }} read for reference: a credit finds its original
          there
        </p>
      </div>
    </div>
    <AlignTabs chosen="opening" />
    <RefusedNote :refused="refused" />
    <OpeningDayForm v-if="view" :day="view.day" :set-by="view.setBy" />
    <div
      v-if="view && view.accounts.length > 0"
      class="scroll"
      tabindex="0"
      role="region"
      aria-label="Accounts"
    >
      <table class="sheet" aria-label="What each account stood at">
        <thead>
          <tr>
            <th scope="col">Account</th>
            <th scope="col">Posted there</th>
            <th scope="col" class="n">The evening before, {{ view.currency }}</th>
            <th scope="col" class="n">Its list, {{ view.currency }}</th>
            <th scope="col" class="n">Lines</th>
            <th scope="col">State</th>
            <th scope="col">By</th>
            <th scope="col"><span class="visually-hidden">Act</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="one in accounts" :key="one.account">
            <tr :data-account="one.account" :class="{ chosen: editing === one.account }">
              <td class="strong" :title="`${one.account} ${one.name}, ${one.type}`">
                {{ one.account }} {{ one.name }}
              </td>
              <td class="soft" :title="one.posted.join(', ')">{{ one.posted.join(', ') || 'no rule' }}</td>
              <td class="n">
                {{ one.balance === null ? '?' : isNil(one.balance) ? '–' : format.amount(one.balance) }}
              </td>
              <td class="n" :class="{ breaks: isDue(one) && one.items > 0 }">
                {{ one.items === 0 ? '–' : format.amount(one.list) }}
              </td>
              <td class="n">{{ one.items || '–' }}</td>
              <td
                :title="one.aside ?? (one.then === null ? '' : `The ledger had ${format.amount(one.then)}`)"
              >
                <StateMark :state="STANDINGS[one.standing].mark" :word="STANDINGS[one.standing].word" />
                <span v-if="one.then !== null" class="soft">, had {{ format.amount(one.then) }}</span>
                <span v-if="one.aside !== null" class="soft">: {{ one.aside }}</span>
              </td>
              <td class="soft" :title="one.keptAt === null ? '' : format.instant(one.keptAt)">
                {{ one.keptBy ?? '' }}
              </td>
              <td class="acts">
                <button
                  v-if="one.standing !== 'nil' && one.standing !== 'unknown'"
                  class="plain"
                  type="button"
                  :aria-expanded="editing === one.account"
                  :aria-label="`The list of account ${one.account}`"
                  @click="editing = editing === one.account ? null : one.account"
                >
                  {{ one.items > 0 ? 'The list' : 'Make it up' }}
                </button>
              </td>
            </tr>
            <tr v-if="editing === one.account">
              <td colspan="8" class="form">
                <OpeningListForm :account="one.account" :may="may" @done="editing = null" />
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
    <p v-else-if="loading" class="soft">Asking what the accounts stood at</p>
    <p v-else-if="view?.trial" class="soft">
      The ledger has no account of the kind: nothing is owed by anybody, or to anybody.
    </p>
  </main>
</template>

<style scoped>
.sheet td.form {
  max-width: none;
  white-space: normal;
  background: var(--paper);
}
.acts {
  text-align: right;
}
</style>
