<script setup lang="ts">
import type { PostRow } from '@axion/contract'
import { useRoute } from 'vue-router'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What is to be known about a document, and the next step of each. */
const { row } = defineProps<{ row: PostRow }>()
const route = useRoute()
const runs = useRuns()
const { api, changed } = useMonth()
const { refused, attempt } = useAttempt()
const sayNotThere = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/post/not-there`, { units: [row.unit] })
    await changed()
  })
</script>

<template>
  <section class="detail" :aria-label="`What to know about ${row.number}`">
    <p v-if="row.reason">
      <b class="breaks">{{ row.reason.says }}</b> {{ row.reason.mend }}
    </p>
    <p v-for="(remark, at) in row.remarks" :key="at">
      {{ remark.says }} <b>{{ remark.mend }}</b>
    </p>
    <RouterLink
      v-if="row.remarks.some((m) => /LINKED|SPLIT|FORETOLD_(AMOUNT|REFUSAL)/.test(m.code))"
      class="do small"
      :to="{ name: 'align', params: { ...route.params, kind: 'rates' } }"
      >Mend it in Align</RouterLink
    >
    <RouterLink
      v-if="row.remarks.some((m) => m.code === 'AXION_FORETOLD_ACCOUNT')"
      class="do small"
      :to="{ name: 'align', params: { ...route.params, kind: 'agencies' } }"
      >See the agencies in Align</RouterLink
    >
    <button
      v-if="row.state === 'in-doubt'"
      class="do small"
      type="button"
      @click="runs.start('/post/look-again', { units: [row.unit] })"
    >
      Look it up again
    </button>
    <button
      v-if="row.state === 'in-doubt'"
      class="do small"
      type="button"
      title="You looked in the ledger yourself. The trail keeps who said so."
      @click="sayNotThere"
    >
      It is not in the ledger
    </button>
    <RefusedNote :refused="refused" />
  </section>
</template>

<style scoped>
.detail {
  margin-top: 10px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-left: 3px solid var(--plum);
  padding: 10px 14px;
  display: grid;
  gap: 4px;
  justify-items: start;
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
</style>
