<script setup lang="ts">
import type { Remedy, RemedyPreview } from '@axion/contract'
import { ref, watch } from 'vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'

/** Before anything leaves for another system: exactly what will be sent, and what follows from it. */
const remedy = defineModel<Remedy | null>({ required: true })
const { api } = useMonth()
const runs = useRuns()
const format = useFormat()
const preview = ref<RemedyPreview | null>(null)
const refused = ref<Refused | null>(null)

watch(remedy, async (asked) => {
  preview.value = null
  refused.value = null
  if (!asked) return
  try {
    preview.value = await call<RemedyPreview>('POST', `${api.value}/mend/preview`, { remedy: asked })
  } catch (error) {
    refused.value = asRefused(error)
  }
})
async function send(): Promise<void> {
  if (!preview.value) return
  const { remedy: what, revision } = preview.value
  remedy.value = null
  await runs.start('/mend', { remedy: what, revision })
}
</script>

<template>
  <v-dialog :model-value="remedy !== null" aria-label="Mend" @update:model-value="remedy = null">
    <div class="dialog" data-mend>
      <template v-if="preview">
        <h2>Send to {{ preview.system }}</h2>
        <p>“{{ preview.object }}” is changed there:</p>
        <table class="sheet">
          <thead><tr><th scope="col">Field</th><th scope="col">It holds</th><th scope="col">It gets</th></tr></thead>
          <tbody><tr v-for="change in preview.changes" :key="change.field"><td>{{ change.field }}</td><td class="breaks">{{ change.from }}</td><td class="strong">{{ change.to }}</td></tr></tbody>
        </table>
        <p class="after">
          <template v-if="preview.booksAgain > 0">Then {{ count(preview.booksAgain, 'document') }} with {{ format.amount(preview.unproved) }} {{ preview.currency }} not proved {{ preview.booksAgain === 1 ? 'is' : 'are' }} booked again in place, and both systems are pulled. Only that pull can prove them.</template>
          <template v-else>No booked document rests on it, so nothing is booked again.</template>
        </p>
        <div class="actions">
          <button type="button" class="do first" autofocus @click="send">Send it<template v-if="preview.booksAgain > 0 && !isNil(preview.unproved)"> and book {{ count(preview.booksAgain, 'document') }} again</template></button>
          <button type="button" class="do" @click="remedy = null">Leave it as it is</button>
        </div>
      </template>
      <template v-else-if="refused">
        <h2>It cannot be sent</h2>
        <p>{{ refused.says }} {{ refused.mend }}</p>
        <div class="actions"><button type="button" class="do" @click="remedy = null">Close</button></div>
      </template>
      <p v-else class="soft">Working out what would be sent</p>
    </div>
  </v-dialog>
</template>

<style scoped>
.sheet { margin: 10px 0; }
.after { font-size: 14.5px; }
</style>
