<script setup lang="ts">
import type { KeptView } from '@axion/contract'
import { computed } from 'vue'
import { useEvidence } from '../evidence/useEvidence.ts'
import { count, isNil, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import { useView } from '../shell/useView.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What stands apart of a month: kept with a reason, to be reviewed by somebody else, or given back by a credit. */
const open = defineModel<boolean>({ required: true })
const { api, entity, changed } = useMonth()
const session = useSession()
const evidence = useEvidence()
const format = useFormat()
const { refused: notDone, busy, attempt } = useAttempt()
const { view, refused: notRead } = useView<KeptView>(() => (open.value ? '/tie-out/kept' : null))
const refused = computed(() => notDone.value ?? notRead.value)
type Document = KeptView['documents'][number]
const waits = (d: Document): boolean => d.kept !== null && d.kept.reviewedBy === null
const mayReview = computed(() => ['reviewer', 'administrator'].includes(entity.value.role))
const mayTakeBack = computed(() => entity.value.role !== 'viewer')
const isMine = (d: Document): boolean => d.kept?.by === session.view?.person.name
const toAgree = computed(() => (view.value?.documents ?? []).filter((d) => waits(d) && !isMine(d)))
const review = (documents: readonly Document[], { agree }: { readonly agree: boolean }): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/tie-out/kept/review`, { units: documents.map((d) => d.unit), agree })
    await changed()
  })
function show(unit: string): void {
  open.value = false
  evidence.show({ of: 'total', unit })
}
</script>

<template>
  <v-dialog v-model="open" max-width="980" aria-label="Differences that stand apart">
    <div class="dialog" data-kept>
      <h2>Differences that stand apart</h2>
      <p class="soft">
        What is agreed to here is no part of what is not proved. What was charged too much has to be remitted,
        or was given back; what was charged too little is still owed.
      </p>
      <RefusedNote :refused="refused" />
      <div
        v-if="view && view.documents.length > 0"
        class="scroll"
        tabindex="0"
        role="region"
        aria-label="Differences"
      >
        <table class="sheet" aria-label="Differences that stand apart">
          <thead>
            <tr>
              <th scope="col">Document</th>
              <th scope="col" class="n">Too much, {{ view.currency }}</th>
              <th scope="col" class="n">Too little</th>
              <th scope="col">Why</th>
              <th scope="col">Who</th>
              <th scope="col"><span class="visually-hidden">What to do</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in view.documents" :key="d.unit" :data-kept-unit="d.unit">
              <td>
                <button type="button" class="plain strong" :title="d.party" @click="show(d.unit)">
                  {{ d.number }}
                </button>
              </td>
              <td class="n">{{ isNil(d.over) ? '–' : format.amount(d.over) }}</td>
              <td class="n">{{ isNil(d.under) ? '–' : format.amount(d.under) }}</td>
              <td class="why">{{ d.kept ? d.kept.reason : `Given back: ${d.givenBackWith}` }}</td>
              <td>
                <template v-if="d.kept">
                  {{ d.kept.by }}, {{ format.instant(d.kept.at) }}<br />
                  <StateMark v-if="waits(d)" state="asks" word="waits for a review" />
                  <span v-else class="soft">agreed to by {{ d.kept.reviewedBy }}</span>
                </template>
                <span v-else class="soft">found by the proof</span>
              </td>
              <td class="act">
                <button
                  v-if="waits(d) && mayReview && !isMine(d)"
                  type="button"
                  class="do small first"
                  :disabled="busy"
                  @click="review([d], { agree: true })"
                >
                  Agree
                </button>
                <button
                  v-if="d.kept && mayTakeBack"
                  type="button"
                  class="do small"
                  :disabled="busy"
                  @click="review([d], { agree: false })"
                >
                  Take back
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else-if="view" class="soft">Nothing stands apart in this month.</p>
      <div class="actions">
        <button
          v-if="mayReview && toAgree.length > 1"
          type="button"
          class="do first"
          :disabled="busy"
          @click="review(toAgree, { agree: true })"
        >
          Agree to all {{ count(toAgree.length, 'document') }}
        </button>
        <button type="button" class="do" @click="open = false">Close</button>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.scroll {
  max-height: 52vh;
  overflow: auto;
}
.why {
  white-space: normal;
  max-width: 300px;
}
.act .do + .do {
  margin-left: 8px;
}
.act {
  white-space: nowrap;
  max-width: none;
  text-align: right;
}
</style>
